"""Fonts and text: shaping, widths and glyph outlines by a shaping library, so that pictures are the same everywhere.

The fonts come with a dependency, packed; they are unpacked once into the user's cache.
"""

from __future__ import annotations

import functools
import importlib
import os
import tempfile
from pathlib import Path
from typing import Any, NamedTuple

from avrin.model import cache_folder
from avrin.trace import Kept

__all__ = ["MONO", "SANS", "SANS_BOLD", "Face", "Glyph", "Run", "TextMeasure", "face", "font_file", "ink", "shape"]

SANS, SANS_BOLD, MONO = "FiraGO_Regular", "FiraGO_Bold", "FiraMono_Regular"
MOST_CHARACTERS = 2000  # of one line; nothing longer fits any screen
VERSION = "1"  # of what is kept; raise it when fonts, features or the library change
FEATURES = {"kern": True, "liga": True, "tnum": True}


class Glyph(NamedTuple):
    """A glyph's number and where its origin lies, in pixels from the line's start and its baseline (y down)."""

    number: int
    x: float
    y: float


class Run(NamedTuple):
    """A shaped line. width: advance in pixels."""

    glyphs: tuple[Glyph, ...]
    width: float


def font_file(name: str) -> Path:
    """The font as a file on disk."""
    path = cache_folder() / "fonts" / f"{name}.ttf"
    if not path.exists():
        package = importlib.import_module("pymupdf_fonts")
        short = {SANS: "figo", SANS_BOLD: "figbo", MONO: "fimo"}[name]
        data: bytes = package.myfont(short)
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        Path(temporary).replace(path)
    return path


class Face:
    """A font. units: of its em square. cap: height of a capital letter, in ems.

    Lines and outlines are kept from start to start; the shaping library is loaded for the first new one.
    """

    def __init__(self, name: str) -> None:
        self.name = name
        self._lines: Kept[tuple[tuple[tuple[int, int, int], ...], int]] = Kept(
            f"lines-{name}", VERSION, tuple[tuple[tuple[int, int, int], ...], int]
        )
        self._outlines: Kept[tuple[tuple[str | float, ...], ...]] = Kept(
            f"outlines-{name}", VERSION, tuple[tuple[str | float, ...], ...]
        )
        measures: Kept[int] = Kept(f"measures-{name}", VERSION, int)
        self.units = measures.get("units") or measures.put("units", int(self._loaded[1].face.upem))
        self.cap = (measures.get("cap") or measures.put("cap", self._cap_units())) / self.units

    @functools.cached_property
    def _loaded(self) -> tuple[Any, Any]:
        """The shaping library, and the font in it."""
        import uharfbuzz as hb

        return hb, hb.Font(hb.Face(hb.Blob.from_file_path(str(font_file(self.name)))))

    def _cap_units(self) -> int:
        font = self._loaded[1]
        return int(font.get_glyph_extents(font.get_nominal_glyph(ord("H"))).y_bearing)

    def shaped(self, text: str) -> tuple[tuple[tuple[int, int, int], ...], int]:
        """Glyph numbers with their origins, and the advance, all in font units, y up."""
        return self._lines.get(text) or self._lines.put(text, self._shape(text))

    def _shape(self, text: str) -> tuple[tuple[tuple[int, int, int], ...], int]:
        if not text:
            return (), 0
        hb, font = self._loaded
        buffer = hb.Buffer()
        buffer.add_str(text[:MOST_CHARACTERS].replace("\n", " "))
        buffer.guess_segment_properties()
        hb.shape(font, buffer, FEATURES)
        pen, glyphs = 0, []
        for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            glyphs.append((info.codepoint, pen + place.x_offset, place.y_offset))
            pen += place.x_advance
        return tuple(glyphs), pen

    def outline(self, number: int) -> tuple[tuple[str | float, ...], ...]:
        """A glyph's outline in font units, y up: commands M, L, Q, C, Z with absolute points."""
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
        """Left, bottom, right and top of a glyph's outline in font units, y up; None for one without, as a space."""
        if number not in self._boxes:
            parts = [float(part) for command in self.outline(number) for part in command[1:]]
            xs, ys = parts[0::2], parts[1::2]
            self._boxes[number] = (min(xs), min(ys), max(xs), max(ys)) if xs else None
        return self._boxes[number]


class _Pen:
    """Collects an outline as the shaping library draws it."""

    def __init__(self) -> None:
        self.commands: list[tuple[str | float, ...]] = []

    def moveTo(self, to: Any) -> None:  # noqa: N802
        self.commands.append(("M", *to))

    def lineTo(self, to: Any) -> None:  # noqa: N802
        self.commands.append(("L", *to))

    def qCurveTo(self, control: Any, to: Any) -> None:  # noqa: N802
        self.commands.append(("Q", *control, *to))

    def curveTo(self, first: Any, second: Any, to: Any) -> None:  # noqa: N802
        self.commands.append(("C", *first, *second, *to))

    def closePath(self) -> None:  # noqa: N802
        self.commands.append(("Z",))


@functools.cache
def face(name: str) -> Face:
    """A font, loaded once."""
    return Face(name)


@functools.lru_cache(maxsize=8192)
def shape(text: str, size: float, bold: bool = False) -> Run:
    """One line of text, shaped. size: pixels an em."""
    font = face(SANS_BOLD if bold else SANS)
    glyphs, advance = font.shaped(text)
    unit = size / font.units
    return Run(tuple(Glyph(n, x * unit, -y * unit) for n, x, y in glyphs), advance * unit)


@functools.lru_cache(maxsize=8192)
def ink(text: str, size: float, bold: bool = False) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of what a line's letters cover, in pixels from its start on its baseline, y down."""
    font = face(SANS_BOLD if bold else SANS)
    unit = size / font.units
    left = top = right = bottom = 0.0
    for number, x, y in font.shaped(text)[0]:
        box = font.box(number)
        if box is not None:
            left, bottom = min(left, x + box[0]), min(bottom, y + box[1])
            right, top = max(right, x + box[2]), max(top, y + box[3])
    return (left * unit, -top * unit, right * unit, -bottom * unit)


class TextMeasure:
    """What kinds may ask about text (`avrin.widgets.Measure`)."""

    def width(self, text: str, size: float, bold: bool = False) -> float:
        """Advance width of one line, in pixels."""
        font = face(SANS_BOLD if bold else SANS)
        return font.shaped(text)[1] * size / font.units

    def cap_height(self, size: float, bold: bool = False) -> float:
        """Height of a capital letter over the baseline, in pixels."""
        return face(SANS_BOLD if bold else SANS).cap * size
