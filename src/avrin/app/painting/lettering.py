"""Paint texts from the same glyph outlines as `avrin.render.svg`, composed of cached glyph images."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QTransform

from avrin.app.painting.glyph_cache import keep_glyph, kept_glyph
from avrin.app.painting.offscreen import painting
from avrin.kinds.shapes import Font, TextRun
from avrin.render.fonts import face, font_of, shape

__all__ = ["colour_of", "draw_texts", "forget_letters", "outline_path"]

MOST_WIDE = 1500  # pixels of a line cached as one picture
PARTS = 8  # subpixel positions at which a glyph is rendered: closer ones look alike
MOST_GLYPHS = 512  # cached per style
NO_EDGE = ("", 0.0)
FIGURES = frozenset("0123456789")  # a text with a digit may change on the next frame, so it is not cached whole
SHIFT = {"left": 0.0, "center": 0.5, "right": 1.0}


@functools.lru_cache(maxsize=1024)
def colour_of(text: str) -> QColor:
    """Return a display list colour."""
    colour = QColor(text[:7])
    if len(text) == 9:
        colour.setAlpha(int(text[7:9], 16))
    return colour


def outline_path(commands: tuple[tuple[str | float, ...], ...]) -> QPainterPath:
    """Return the path of a display list's or a font's outline."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    add: dict[str | float, Callable[..., None]] = {
        "M": path.moveTo, "L": path.lineTo, "Q": path.quadTo, "C": path.cubicTo, "Z": path.closeSubpath,
    }  # fmt: skip
    for name, *rest in commands:
        add[name](*map(float, rest))
    return path


def draw_texts(painter: QPainter, runs: Sequence[TextRun]) -> None:
    """Paint lines of text with the painter's current transform."""
    place = painter.worldTransform()
    scale, across, along = place.m11(), place.dx(), place.dy()
    ratio = painter.device().devicePixelRatio()
    upright = place.m12() == 0 and place.m21() == 0 and place.m22() == scale
    painter.resetTransform()
    for run in runs:
        font = font_of(run)
        width = shape(run.text, run.size, font).width
        left = run.x if run.align == "left" else run.x - width * SHIFT[run.align]
        if not upright or width * scale > MOST_WIDE:
            painter.setWorldTransform(place)
            _fill_line(painter, run, font, left)
            painter.resetTransform()
            continue
        # Composed of cached glyphs: copying takes a tenth of filling outlines.
        at_x, at_y = (left * scale + across) * ratio, (run.y * scale + along) * ratio
        x, y = math.floor(at_x), math.floor(at_y)
        edge = (run.edge, run.edge_width) if run.edge and run.edge_width else NO_EDGE
        if ratio == 1 and len(run.fill) < 9 and len(edge[0]) < 9 and not FIGURES.isdisjoint(run.text):
            for _, letters in _layers(run.text, run.size, font, run.fill, edge, scale, at_x - x, at_y - y):
                for dx, dy, glyph in letters:
                    painter.drawImage(x + dx, y + dy, glyph.image)
            continue
        image, dx, dy = _line(run.text, run.size, font, run.fill, edge, scale * ratio, at_x - x, at_y - y, ratio)
        if ratio == 1:
            painter.drawImage(x + dx, y + dy, image)
        else:
            painter.drawImage(QPointF((x + dx) / ratio, (y + dy) / ratio), image)
    painter.setWorldTransform(place)


def _fill_line(painter: QPainter, run: TextRun, font: Font, left: float) -> None:
    """Do the same from outlines, for rotated or very long lines."""
    path = _line_path(run.text, run.size, font)
    painter.save()
    painter.translate(left, run.y)
    if run.edge and run.edge_width:
        painter.strokePath(path, _pen(run.edge, run.edge_width))
    painter.fillPath(path, colour_of(run.fill))
    painter.restore()


class _Glyph(NamedTuple):
    """A glyph image, with its corner relative to the whole pixel before its origin."""

    image: QImage
    left: int
    top: int


class _Manner:
    """Glyphs of one font, size, colour and outline. em: pixels. edge: width of the outline alone, 0 for the letters."""

    def __init__(self, font: Font, em: float, colour: str, edge: float) -> None:
        self._font = font
        self._unit = em / face(font).units
        self._edge = edge
        self._colour = colour
        self._name = f"{face(font).known_as} {em!r} {colour} {edge!r}"
        self._drawn: dict[tuple[int, int, int], _Glyph] = {}

    def glyph(self, key: tuple[int, int, int]) -> _Glyph:
        """Return a glyph. key: its number, and its origin's offset from a whole pixel, horizontally and vertically."""
        known = self._drawn.get(key)
        if known is None:
            if len(self._drawn) >= MOST_GLYPHS:
                self._drawn.clear()
            known = self._drawn[key] = self._kept_or_drawn(key)
        return known

    def _kept_or_drawn(self, key: tuple[int, int, int]) -> _Glyph:
        name = f"{self._name} {key}"
        if (kept := kept_glyph(name)) is not None:
            return _Glyph(*kept)
        glyph = self._draw(key[0], key[1] / PARTS, key[2] / PARTS)
        keep_glyph(name, *glyph)
        return glyph

    def _draw(self, number: int, right: float, down: float) -> _Glyph:
        path = QTransform(self._unit, 0, 0, -self._unit, right, down).map(_glyph_path(number, self._font))
        more = math.ceil(self._edge) + 1
        area = path.controlPointRect().toAlignedRect().adjusted(-more, -more, more, more)
        image = _clear(area.width(), area.height())
        with painting(image) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(-area.topLeft())
            if self._edge:
                painter.strokePath(path, _pen(self._colour, self._edge))
            else:
                painter.fillPath(path, QBrush(colour_of(self._colour)))
        return _Glyph(image, area.x(), area.y())


_manner = functools.lru_cache(maxsize=256)(_Manner)


def _layers(
    text: str, size: float, font: Font, fill: str, edge: tuple[str, float], scale: float, right: float, down: float
) -> list[tuple[str, list[tuple[int, int, _Glyph]]]]:
    """Return the colours of a text from bottom to top, each with its glyphs and their positions.

    right, down: the subpixel offset of the text's start, so that edges are antialiased alike.
    """
    manners = [(fill, _manner(font, size * scale, fill[:7], 0.0))]
    if edge[0]:
        manners.insert(0, (edge[0], _manner(font, size * scale, edge[0][:7], edge[1] * scale)))
    places = []
    for number, across, along in shape(text, size, font).glyphs:
        x, y = math.floor((right + across * scale) * PARTS + 0.5), math.floor((down + along * scale) * PARTS + 0.5)
        places.append((x // PARTS, y // PARTS, (number, x % PARTS, y % PARTS)))
    layers = []
    for colour, manner in manners:
        letters = []
        for x, y, key in places:
            glyph = manner.glyph(key)
            letters.append((x + glyph.left, y + glyph.top, glyph))
        layers.append((colour, letters))
    return layers


@functools.lru_cache(maxsize=512)
def _line(
    text: str,
    size: float,
    font: Font,
    fill: str,
    edge: tuple[str, float],
    scale: float,
    right: float,
    down: float,
    ratio: float,
) -> tuple[QImage, int, int]:
    """Return a line of text as an image, with its corner relative to the whole pixel before the line's start.

    Arguments as for `_layers`. scale: device pixels per unit. ratio: device pixels per window pixel.
    """
    layers = _layers(text, size, font, fill, edge, scale, right, down)
    every = [one for _, letters in layers for one in letters] or [(0, 0, _Glyph(_clear(1, 1), 0, 0))]
    left, top = min(x for x, _, _ in every), min(y for _, y, _ in every)
    width = max(x + glyph.image.width() for x, _, glyph in every) - left
    height = max(y + glyph.image.height() for _, y, glyph in every) - top
    whole = _clear(width, height)
    with painting(whole) as painter:
        for colour, letters in layers:
            if len(colour) < 9:
                _put(painter, letters, left, top)
                continue
            # Touching letters do not show through one another: they become translucent together.
            layer = _clear(width, height)
            with painting(layer) as inner:
                _put(inner, letters, left, top)
            painter.setOpacity(colour_of(colour).alphaF())
            painter.drawImage(0, 0, layer)
            painter.setOpacity(1.0)
    whole.setDevicePixelRatio(ratio)
    return whole, left, top


def _put(painter: QPainter, letters: list[tuple[int, int, _Glyph]], left: int, top: int) -> None:
    for x, y, glyph in letters:
        painter.drawImage(x - left, y - top, glyph.image)


def _clear(width: int, height: int) -> QImage:
    image = QImage(max(1, width), max(1, height), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    return image


@functools.lru_cache(maxsize=4096)
def _glyph_path(number: int, font: Font) -> QPainterPath:
    """Return a glyph's outline in font units, y up."""
    return outline_path(face(font).outline(number))


@functools.lru_cache(maxsize=256)
def _line_path(text: str, size: float, font: Font) -> QPainterPath:
    """Return a line of text as one outline, from its left end on its baseline."""
    unit = size / face(font).units
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for glyph in shape(text, size, font).glyphs:
        path.addPath(QTransform(unit, 0, 0, -unit, glyph.x, glyph.y).map(_glyph_path(glyph.number, font)))
    return path


@functools.lru_cache(maxsize=256)
def _pen(colour: str, width: float) -> QPen:
    """Return a pen of twice the width, because the letters cover its inner half."""
    pen = QPen(colour_of(colour), width * 2)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    return pen


def forget_letters() -> None:
    """Drop what was drawn with fonts: `Font` names a file without its stamp."""
    for cache in (_manner, _line, _glyph_path, _line_path):
        cache.cache_clear()
