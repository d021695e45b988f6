"""The display list as SVG. Text becomes glyph outlines, with the words preserved for screen readers."""

from __future__ import annotations

import base64
from collections import Counter
from collections.abc import Iterable
from html import escape
from pathlib import Path as FilePath

from avrin.kinds.proportions import own_size
from avrin.kinds.shapes import Box, Clip, Font, Group, NineSlice, Path, Picture, Shape, TextRun
from avrin.printable import xml_text
from avrin.render.artwork import artwork, refusal
from avrin.render.colour import EYES
from avrin.render.drawing_errors import note_fault
from avrin.render.fonts import face, font_of, shape
from avrin.render.nine_slice import is_within, nine_parts, picture_size

__all__ = ["svg"]

MEDIA = {".png": "image/png", ".svg": "image/svg+xml", ".jpg": "image/jpeg", ".jpeg": "image/jpeg"}


def svg(shapes: Iterable[Shape], width: int, height: int) -> str:
    """Return an SVG document of the shapes, `width` × `height` pixels. Equal lists give equal documents."""
    shapes = list(shapes)
    writer = _Writer(_used_again(shapes))
    body = "".join(map(writer.shape, shapes))
    defs = "".join(writer.defs)
    return xml_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}">\n'
        f"<defs>\n{defs}</defs>\n{body}</svg>\n"
    )


def _used_again(shapes: Iterable[Shape]) -> frozenset[str]:
    """Return pictures that are drawn whole more than once."""
    counts: Counter[str] = Counter()
    waiting = [*shapes]
    while waiting:
        one = waiting.pop()
        if isinstance(one, Group):
            waiting += one.shapes
        elif isinstance(one, Picture) and one.part is None:
            counts[one.source] += 1
    return frozenset(source for source, count in counts.items() if count > 1)


class _Writer:
    """Writes shapes and collects definitions. shared: pictures drawn more than once, which are written once."""

    def __init__(self, shared: frozenset[str] = frozenset()) -> None:
        self._shared = shared
        self._pictures: dict[str, str] = {}
        self.defs: list[str] = []
        self._glyphs: dict[tuple[Font, int], str] = {}
        self._clips = 0

    def shape(self, shape_: Shape) -> str:
        match shape_:
            case Box():
                return self._box(shape_)
            case Path():
                d = " ".join(" ".join(_n(part) for part in command) for command in shape_.commands)
                return f'<path d="{d}"{_fill(shape_.fill)}{_stroke(shape_.edge, shape_.edge_width)}/>\n'
            case TextRun():
                return self._text(shape_)
            case Picture():
                return self._picture(shape_)
            case NineSlice():
                return self._nine(shape_)
            case Group():
                return self._group(shape_)

    def _box(self, box: Box) -> str:
        if not box.edge or not box.edge_width:
            return f"<rect{_rect(box.x, box.y, box.width, box.height, box.radius)}{_fill(box.fill)}/>\n"
        half = box.edge_width / 2  # the edge is inside, so its centre line is half its width in
        inner = _rect(
            box.x + half,
            box.y + half,
            max(0.0, box.width - box.edge_width),
            max(0.0, box.height - box.edge_width),
            max(0.0, box.radius - half),
        )
        return f"<rect{inner}{_fill(box.fill)}{_stroke(box.edge, box.edge_width)}/>\n"

    def _text(self, run: TextRun) -> str:
        if run.size <= 0:  # a box without height
            return ""
        letters = font_of(run)
        shaped, font = shape(run.text, run.size, letters), face(letters)
        left = run.x - shaped.width * {"left": 0.0, "center": 0.5, "right": 1.0}[run.align]
        unit = run.size / font.units
        uses = []
        for glyph in shaped.glyphs:
            ident = self._glyph(letters, glyph.number)
            if ident:
                x, y = _n(glyph.x / unit), _n(-glyph.y / unit)
                uses.append(f'<use href="#{ident}" x="{x}" y="{y}"/>')
        move = f"translate({_n(left)} {_n(run.y)}) scale({unit:.6g} {-unit:.6g})"
        edge = ""
        if run.edge and run.edge_width:  # in font units, doubled because the letters cover the inner half
            edge = _stroke(run.edge, run.edge_width * 2 / unit) + ' stroke-linejoin="round" paint-order="stroke"'
        return (
            f'<g role="text" aria-label="{escape(run.text)}" transform="{move}"{_fill(run.fill)}{edge}>'
            f"<title>{escape(run.text)}</title>{''.join(uses)}</g>\n"
        )

    def _glyph(self, font: Font, number: int) -> str:
        key = (font, number)
        if key not in self._glyphs:
            outline = face(font).outline(number)
            ident = f"g{len(self._glyphs)}" if outline else ""
            self._glyphs[key] = ident
            if outline:
                d = " ".join(" ".join(_n(part) for part in command) for command in outline)
                self.defs.append(f'<path id="{ident}" d="{d}"/>\n')
        return self._glyphs[key]

    def _picture(self, picture: Picture) -> str:
        data = _data(picture.source)
        if data is None:
            return _unreadable(picture.x, picture.y, picture.width, picture.height)
        where = _rect(picture.x, picture.y, picture.width, picture.height, 0)
        size = picture_size(picture.source) if picture.part is not None else None
        if picture.part is not None and size is not None:
            if not is_within(picture.part, size):
                return _unreadable(picture.x, picture.y, picture.width, picture.height)
            box = " ".join(map(_n, picture.part))
            image = f'<image width="{size[0]}" height="{size[1]}" href="{data}"/>'
            tinted = f' filter="url(#{self._tint(picture.tint)})"' if picture.tint else ""
            return f'<g{tinted}><svg{where} viewBox="{box}" preserveAspectRatio="none">{image}</svg></g>\n'
        tint = f' filter="url(#{self._tint(picture.tint)})"' if picture.tint else ""
        if picture.source in self._shared and (own := own_size(picture.source)) is not None:
            return f'<use{where}{tint} href="#{self._symbol(picture.source, data, own)}"/>\n'
        return f'<image{where}{tint} preserveAspectRatio="none" href="{data}"/>\n'

    def _symbol(self, source: str, data: str, size: tuple[float, float]) -> str:
        """Return the id of a picture's symbol, which is stretched at each use."""
        if source not in self._pictures:
            ident = self._pictures[source] = f"p{len(self._pictures)}"
            wide, high = _n(size[0]), _n(size[1])
            self.defs.append(
                f'<symbol id="{ident}" viewBox="0 0 {wide} {high}" preserveAspectRatio="none">'
                f'<image width="{wide}" height="{high}" preserveAspectRatio="none" href="{data}"/></symbol>\n'
            )
        return self._pictures[source]

    def _tint(self, colour: str) -> str:
        """Return the id of a filter that multiplies colours."""
        ident = f"t{colour[1:]}"
        r, g, b = (int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
        a = int(colour[7:9], 16) / 255 if len(colour) == 9 else 1.0
        rows = f"{_n(r)} 0 0 0 0 0 {_n(g)} 0 0 0 0 0 {_n(b)} 0 0 0 0 0 {_n(a)} 0"
        made = (
            f'<filter id="{ident}" x="0" y="0" width="1" height="1" color-interpolation-filters="sRGB">'
            f'<feColorMatrix values="{rows}"/></filter>\n'
        )
        if made not in self.defs:
            self.defs.append(made)
        return ident

    def _nine(self, nine: NineSlice) -> str:
        data = _data(nine.source)
        size = picture_size(nine.source)
        if size is None or data is None:
            return self._picture(Picture(nine.x, nine.y, nine.width, nine.height, nine.source))
        parts = []
        for (x, y, w, h), (sx, sy, sw, sh) in nine_parts(nine, size):
            box = f'viewBox="{_n(sx)} {_n(sy)} {_n(sw)} {_n(sh)}" preserveAspectRatio="none"'
            image = f'<image width="{_n(size[0])}" height="{_n(size[1])}" href="{data}"/>'
            parts.append(f"<svg{_rect(x, y, w, h, 0)} {box}>{image}</svg>\n")
        return "".join(parts)

    def _group(self, group: Group) -> str:
        attributes = ""
        if group.dx or group.dy or group.scale != 1:
            attributes += f' transform="translate({_n(group.dx)} {_n(group.dy)}) scale({_n(group.scale)})"'
        if group.opacity < 1:
            attributes += f' opacity="{_n(group.opacity)}"'
        if group.clip is not None:
            attributes += f' clip-path="url(#{self._clip(group.clip)})"'
        if group.eyes:
            attributes += f' filter="url(#{self._eyes(group.eyes)})"'
        if group.name:
            attributes += f' data-widget="{escape(group.name)}"'
        return f"<g{attributes}>\n{''.join(map(self.shape, group.shapes))}</g>\n"

    def _eyes(self, eyes: str) -> str:
        """Return the id of a colour vision filter, in linear light, the default of SVG filters."""
        ident = f"e{list(EYES).index(eyes)}"
        rows = " ".join(f"{' '.join(f'{part:.6f}' for part in row)} 0 0" for row in EYES[eyes].tolist())
        made = (
            f'<filter id="{ident}" x="0" y="0" width="1" height="1" color-interpolation-filters="linearRGB">'
            f'<feColorMatrix values="{rows} 0 0 0 1 0"/></filter>\n'
        )
        if made not in self.defs:
            self.defs.append(made)
        return ident

    def _clip(self, clip: Clip) -> str:
        self._clips += 1
        ident = f"c{self._clips}"
        where = _rect(clip.x, clip.y, clip.width, clip.height, clip.radius)
        self.defs.append(f'<clipPath id="{ident}"><rect{where}/></clipPath>\n')
        return ident


def _data(source: str) -> str | None:
    """Return a picture file as a data URI, since nothing external is referenced; None if it cannot be drawn."""
    content = artwork(source)
    if content is None:
        note_fault(f"{FilePath(source).name} {refusal(source)}")
        return None
    media = MEDIA.get(FilePath(source).suffix.lower(), "application/octet-stream")
    return f"data:{media};base64,{base64.b64encode(content).decode()}"


def _unreadable(x: float, y: float, width: float, height: float) -> str:
    """Return the placeholder of an unreadable picture."""
    box = _rect(x, y, width, height, 0)
    cross = f"M{_n(x)} {_n(y)}l{_n(width)} {_n(height)}M{_n(x + width)} {_n(y)}l{_n(-width)} {_n(height)}"
    edge = ' stroke="#ff6b78" stroke-width="2"'
    return f'<rect{box} fill="#3a1014" fill-opacity="0.753"{edge}/><path d="{cross}"{edge}/>\n'


def _rect(x: float, y: float, width: float, height: float, radius: float) -> str:
    radius = min(radius, width / 2, height / 2)
    where = f' x="{_n(x)}" y="{_n(y)}" width="{_n(width)}" height="{_n(height)}"'
    return where + (f' rx="{_n(radius)}"' if radius > 0 else "")


def _fill(colour: str) -> str:
    return f' fill="{colour[:7]}"{_alpha("fill", colour)}' if colour else ' fill="none"'


def _stroke(colour: str, width: float) -> str:
    if not colour or not width:
        return ""
    return f' stroke="{colour[:7]}" stroke-width="{_n(width)}"{_alpha("stroke", colour)}'


def _alpha(what: str, colour: str) -> str:
    return f' {what}-opacity="{_n(int(colour[7:9], 16) / 255)}"' if len(colour) == 9 else ""


def _n(value: str | float) -> str:
    """Format a number with at most four decimals and without trailing zeros; letters are unchanged."""
    if isinstance(value, str):
        return value
    text = f"{value:.4f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
