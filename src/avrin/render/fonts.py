"""Fonts and text: shaping, widths and glyph outlines by a shaping library, so pictures are equal on every machine.

Fonts are bundled, files of the project, or installed.
"""

from __future__ import annotations

import functools
import hashlib
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

from avrin.bundled_fonts import PACKED, packed_font
from avrin.errors import AvrinError
from avrin.kinds.shapes import Font, TextRun
from avrin.render.advances import Advances
from avrin.render.bidi import UNSEEN, in_order
from avrin.render.inline_icons import side
from avrin.render.installed import installed
from avrin.rules.template import ICON_MARK, icon_pieces
from avrin.storage.cache import code_stamp
from avrin.storage.files import inside
from avrin.storage.reading import plain_file
from avrin.trace.frames import Array
from avrin.trace.result_cache import ResultCache

__all__ = [
    "MONO",
    "SANS",
    "SANS_BOLD",
    "Face",
    "Glyph",
    "Run",
    "TextMeasure",
    "drop_fonts",
    "face",
    "font_of",
    "ink",
    "shape",
    "typeface",
]

SANS, SANS_BOLD, MONO = (Font(name) for name in PACKED)
FONT_ENDS = (".ttf", ".otf", ".ttc")
BOLD = 700  # of a variable font
MOST_CHARACTERS = 2000  # of one line; no screen fits more
FIGURES = frozenset("0123456789.,:")
FEATURES = {"kern": True, "liga": True, "tnum": True}


Shaped = tuple[tuple[tuple[int, int, int], ...], int]  # the result of `Face.shaped`


class Glyph(NamedTuple):
    """A glyph's number and its origin in pixels from the line's start on its baseline (y down)."""

    number: int
    x: float
    y: float


class Run(NamedTuple):
    """A shaped line. width: advance in pixels."""

    glyphs: tuple[Glyph, ...]
    width: float


class Face:
    """A font. units: per em. cap: height of a capital letter in ems. known_as: a cache key that changes with its file.

    Shaped lines and outlines are cached on disk; the shaping library is imported only for a new one.
    """

    def __init__(self, font: Font) -> None:
        self.font = font
        self.known_as = name = _known_as(font)
        self._is_ours = font.file in PACKED and font.even
        self._alone: dict[str, Shaped] = {}
        stamp = code_stamp("render/fonts.py", "bundled_fonts.py")
        self._lines: ResultCache[Shaped] = ResultCache(f"lines-{name}", stamp, Shaped)
        self._outlines: ResultCache[tuple[tuple[str | float, ...], ...]] = ResultCache(
            f"outlines-{name}", stamp, tuple[tuple[str | float, ...], ...]
        )
        measures: ResultCache[int] = ResultCache(f"measures-{name}", stamp, int)
        self.units = measures.get("units") or measures.put("units", int(self._loaded[1].face.upem))
        self.cap = (measures.get("cap") or measures.put("cap", self._cap_units())) / self.units

    @functools.cached_property
    def _loaded(self) -> tuple[Any, Any]:
        """The shaping library and its font object."""
        import uharfbuzz as hb  # late: 11 ms

        name = self.font.file
        blob = hb.Blob(packed_font(name)) if name in PACKED else hb.Blob.from_file_path(name)
        face = hb.Face(blob, self.font.index)
        font = hb.Font(face)
        if self.font.weight:
            font.set_variations({"wght": self.font.weight})
        return hb, font

    @functools.cached_property
    def _figures(self) -> tuple[frozenset[int], int]:
        """The glyphs of the ten digits and the widest advance among them."""
        hb, font = self._loaded
        buffer = hb.Buffer()
        buffer.add_str("0123456789")
        buffer.guess_segment_properties()
        hb.shape(font, buffer, FEATURES)
        return frozenset(info.codepoint for info in buffer.glyph_infos), max(
            place.x_advance for place in buffer.glyph_positions
        )

    def _cap_units(self) -> int:
        font = self._loaded[1]
        return int(font.get_glyph_extents(font.get_nominal_glyph(ord("H"))).y_bearing)

    def shaped(self, text: str) -> Shaped:
        """Return glyph numbers with their origins, and the advance, all in font units, y up."""
        if self._is_ours and text and FIGURES.issuperset(text):
            return self._running(text)
        return self._lines.get(text) or self._lines.put(text, self._shape(text))

    def _running(self, text: str) -> Shaped:
        """Return a text of digits, character by character: they do not interact, and each frame has new ones."""
        pen, glyphs = 0, []
        for character in text:
            ((number, x, y),), advance = self._alone.get(character) or self._shape_digit(character)
            glyphs.append((number, pen + x, y))
            pen += advance
        return tuple(glyphs), pen

    def _shape_digit(self, character: str) -> Shaped:
        """Return a single digit, cached on disk."""
        one = self._lines.get(character) or self._lines.put(character, self._shape(character))
        self._alone[character] = one
        return one

    @functools.cached_property
    def _widths(self) -> Advances:
        return Advances(lambda text: self.shaped(text)[1])

    def widths(self, texts: Sequence[str]) -> Array:
        """Return advances of many texts at once, in font units, shape (len(texts),); see `Advances` for the precision."""
        return self._widths.widths(texts)

    def _shape(self, text: str) -> Shaped:
        if not text:
            return (), 0
        figures, wide = self._figures if self.font.even else (frozenset(), 0)
        pen, glyphs = 0, []
        for letters, turned in in_order(text[:MOST_CHARACTERS].replace("\n", " ")):
            for number, across, x, y in self._shape_run(letters, turned) if letters else ():
                # A font without tabular digits gets them here: each centred in the width of the widest.
                spare = wide - across if number in figures else 0
                glyphs.append((number, pen + x + spare // 2, y))
                pen += across + spare
        return tuple(glyphs), pen

    def _shape_run(self, letters: str, turned: bool) -> list[tuple[int, int, int, int]]:
        """Shape letters of one direction: each glyph's number, advance and offsets, from left to right."""
        hb, font = self._loaded
        buffer = hb.Buffer()
        buffer.add_str(letters)
        buffer.guess_segment_properties()
        buffer.direction = "rtl" if turned else "ltr"
        hb.shape(font, buffer, {**FEATURES, "tnum": self.font.even})
        return [
            (info.codepoint, place.x_advance, place.x_offset, place.y_offset)
            for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)
        ]

    def has(self, character: str) -> bool:
        """Return whether the font has a glyph for a character, or the character needs none."""
        known = self._has.get(character)
        if known is None:
            known = character in UNSEEN or bool(self._loaded[1].get_nominal_glyph(ord(character)))
        return known

    @functools.cached_property
    def _has(self) -> dict[str, bool]:
        return {}

    def outline(self, number: int) -> tuple[tuple[str | float, ...], ...]:
        """Return a glyph's outline in font units, y up: commands M, L, Q, C, Z with absolute points."""
        known = self._outlines.get(str(number))
        if known is None:
            pen = _Pen()
            self._loaded[1].draw_glyph_with_pen(number, pen)
            known = self._outlines.put(str(number), tuple(pen.commands))
        return known

    @functools.cached_property
    def _boxes(self) -> dict[int, tuple[float, float, float, float] | None]:
        return {}

    def box(self, number: int) -> tuple[float, float, float, float] | None:
        """Return left, bottom, right and top of a glyph's outline in font units, y up; None if it is empty, as for a space."""
        if number not in self._boxes:
            parts = [float(part) for command in self.outline(number) for part in command[1:]]
            xs, ys = parts[0::2], parts[1::2]
            self._boxes[number] = (min(xs), min(ys), max(xs), max(ys)) if xs else None
        return self._boxes[number]


def _known_as(font: Font) -> str:
    """Return a cache key for a font that changes with its file."""
    name = font.file
    if name in PACKED:
        return name if font.even else f"{name}-own"
    status = Path(name).stat()
    told = f"{name}|{status.st_mtime_ns}|{status.st_size}|{font.index}|{font.weight}|{font.even}"
    return f"{Path(name).stem[:40]}-{hashlib.sha256(told.encode()).hexdigest()[:16]}"


Point = tuple[float, float]


class _Pen:
    """Collects an outline drawn by the shaping library."""

    def __init__(self) -> None:
        self.commands: list[tuple[str | float, ...]] = []

    def moveTo(self, to: Point) -> None:  # noqa: N802
        self.commands.append(("M", *to))

    def lineTo(self, to: Point) -> None:  # noqa: N802
        self.commands.append(("L", *to))

    def qCurveTo(self, control: Point, to: Point) -> None:  # noqa: N802
        self.commands.append(("Q", *control, *to))

    def curveTo(self, first: Point, second: Point, to: Point) -> None:  # noqa: N802
        self.commands.append(("C", *first, *second, *to))

    def closePath(self) -> None:  # noqa: N802
        self.commands.append(("Z",))


@functools.lru_cache(maxsize=64)
def face(font: Font) -> Face:
    """Load a font once."""
    return Face(font)


def font_of(run: TextRun) -> Font:
    """Return the font of a text."""
    return run.font or (SANS_BOLD if run.bold else SANS)


def typeface(name: str, folder: Path, *, bold: bool, even: bool) -> Font | None:
    """Return the font a look names: a file in the project's folder or an installed family; None if it is missing.

    A variable font is drawn bold if requested; other files have one weight.
    """
    if not name:
        return Font((SANS_BOLD if bold else SANS).file, even=even)
    if Path(name).suffix.lower() not in FONT_ENDS:
        found = installed(name, bold=bold)
        return _usable(Path(found.file), found.number, bold=bold, even=even) if found is not None else None
    try:
        path = inside(folder, name)
    except AvrinError:
        return None
    return _usable(path, 0, bold=bold, even=even) if path.is_file() else None


@functools.lru_cache(maxsize=256)
def _usable(path: Path, index: int, *, bold: bool, even: bool) -> Font | None:
    """Return the font in a file, or None if it has no letters."""
    import uharfbuzz as hb  # late: 11 ms

    try:
        plain_file(path)
        found = hb.Face(hb.Blob.from_file_path(str(path)), index)
        if not found.glyph_count or not found.unicodes:
            return None
        heavy = bold and any(axis.tag == "wght" for axis in found.axis_infos)
    except (AvrinError, OSError, hb.HarfBuzzError):
        return None
    return Font(str(path), index, BOLD if heavy else 0, even)


@functools.lru_cache(maxsize=8192)
def shape(text: str, size: float, font: Font = SANS) -> Run:
    """Shape one line of text. size: pixels per em."""
    letters = face(font)
    glyphs, advance = letters.shaped(text)
    unit = size / letters.units
    return Run(tuple(Glyph(n, x * unit, -y * unit) for n, x, y in glyphs), advance * unit)


@functools.lru_cache(maxsize=8192)
def ink(text: str, size: float, font: Font = SANS) -> tuple[float, float, float, float]:
    """Return the ink bounds of a line: left, top, right and bottom in pixels from its start on the baseline, y down."""
    letters = face(font)
    unit = size / letters.units
    left = top = right = bottom = 0.0
    for number, x, y in letters.shaped(text)[0]:
        box = letters.box(number)
        if box is not None:
            left, bottom = min(left, x + box[0]), min(bottom, y + box[1])
            right, top = max(right, x + box[2]), max(top, y + box[3])
    return (left * unit, -top * unit, right * unit, -bottom * unit)


class TextMeasure:
    """Text measurements for kinds (`avrin.kinds.shapes.Measure`), in a regular and a bold font.

    spare: two fallback fonts for glyphs missing from the first two.
    """

    def __init__(self, plain: Font = SANS, bold: Font = SANS_BOLD, spare: tuple[Font, Font] | None = None) -> None:
        self._fonts = (plain, bold)
        self._spare = spare

    def font(self, text: str, bold: bool = False) -> Font:
        """Return the font for a text."""
        own = self._fonts[bold]
        if self._spare is None or text.isascii() or all(map(face(own).has, text)):
            return own
        return self._spare[bold]

    def width(self, text: str, size: float, bold: bool = False) -> float:
        """Return the advance width of one line, in pixels."""
        font = face(self.font(text, bold))
        if ICON_MARK in text:
            icon = side(font.cap) * font.units
            units = sum(font.shaped(letters)[1] if letters else icon for letters, _ in icon_pieces(text))
            return units * size / font.units
        return font.shaped(text)[1] * size / font.units

    def cap_height(self, size: float, bold: bool = False) -> float:
        """Return the height of a capital letter above the baseline, in pixels."""
        return face(self._fonts[bold]).cap * size


def drop_fonts() -> None:
    """Drop all loaded fonts and what was measured with them: a font's file changed."""
    for cache in (face, _usable, shape, ink):
        cache.cache_clear()
