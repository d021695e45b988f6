"""Qt's painter of display lists. Draws what `avrin.render.svg` writes, from the same glyph outlines."""

from __future__ import annotations

import functools
import math
from collections.abc import Iterable
from pathlib import Path as FilePath

from PySide6.QtCore import QBuffer, QIODevice, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QImageReader, QPainter, QPainterPath, QPen, QTransform

from avrin.render import SANS, SANS_BOLD, artwork, bounds, face, is_within, nine_parts, picture_size, shape
from avrin.widgets import Box, Clip, Group, NineSlice, Path, Picture, Shape, TextRun

__all__ = ["draw", "draw_shapes", "load_picture", "png_bytes"]

MOST_WIDE = 1500  # pixels of a line of text that is kept as a picture
PARTS = 8  # places within a pixel at which a glyph is drawn: nearer to its own than the eye can tell
PNG_QUALITY = 80  # of 100: Qt's scale for fast compression; the picture is the same


def draw(painter: QPainter, shapes: Iterable[Shape]) -> None:
    """Draw a display list with the painter's present transform."""
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    draw_shapes(painter, shapes)


def draw_shapes(painter: QPainter, shapes: Iterable[Shape]) -> None:
    """The same, where the hints are set already."""
    for item in shapes:
        if isinstance(item, Box):
            _box(painter, item)
        elif isinstance(item, TextRun):
            _text(painter, item)
        elif isinstance(item, Group):
            _group(painter, item)
        elif isinstance(item, Path):
            _path(painter, item)
        elif isinstance(item, NineSlice):
            _nine(painter, item)
        else:
            _picture(painter, item)


def png_bytes(image: QImage) -> bytes:
    """The image as a PNG file."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG", PNG_QUALITY)  # type: ignore[call-overload]
    return bytes(buffer.data().data())


def load_picture(source: str, size: QSize) -> QImage:
    """A picture file at a size; an empty image when it cannot be read."""
    content = artwork(source)
    if content is None:
        return QImage()
    if FilePath(source).suffix.lower() == ".svg":
        from PySide6.QtSvg import QSvgRenderer

        renderer = QSvgRenderer(content)
        if not renderer.isValid():
            return QImage()
        image = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        renderer.render(painter, QRectF(0, 0, size.width(), size.height()))
        painter.end()
        return image
    buffer = QBuffer()
    buffer.setData(content)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    image = reader.read()
    if image.isNull():
        return image
    return image.scaled(
        size, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
    ).convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)


@functools.lru_cache(maxsize=1024)
def _colour(text: str) -> QColor:
    colour = QColor(text[:7])
    if len(text) == 9:
        colour.setAlpha(int(text[7:9], 16))
    return colour


@functools.lru_cache(maxsize=1024)
def _brush(text: str) -> QBrush:
    return QBrush(_colour(text)) if text else QBrush(Qt.BrushStyle.NoBrush)


@functools.lru_cache(maxsize=1024)
def _pen(text: str, width: float) -> QPen:
    pen = QPen(_colour(text), width)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    return pen


def _box(painter: QPainter, box: Box) -> None:
    edge = box.edge_width if box.edge else 0.0
    half = edge / 2
    width, height = max(0.0, box.width - edge), max(0.0, box.height - edge)
    radius = min(max(0.0, box.radius - half), width / 2, height / 2)
    rect = QRectF(box.x + half, box.y + half, width, height)
    if not edge and radius <= 0:
        if box.fill:
            painter.fillRect(rect, _colour(box.fill))
        return
    painter.setBrush(_brush(box.fill))
    painter.setPen(_pen(box.edge, edge) if edge else Qt.PenStyle.NoPen)
    if radius > 0:
        painter.drawRoundedRect(rect, radius, radius)
    else:
        painter.drawRect(rect)


def _path(painter: QPainter, item: Path) -> None:
    path = _painter_path(item.commands)
    if item.fill:
        painter.fillPath(path, _brush(item.fill))
    if item.edge and item.edge_width:
        painter.strokePath(path, _pen(item.edge, item.edge_width))


@functools.lru_cache(maxsize=1024)
def _painter_path(commands: tuple[tuple[str | float, ...], ...]) -> QPainterPath:
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for name, *rest in commands:
        _extend(path, str(name), [float(part) for part in rest])
    return path


def _extend(path: QPainterPath, name: str, n: list[float]) -> None:
    """Add one command of an outline."""
    if name == "M":
        path.moveTo(*n)
    elif name == "L":
        path.lineTo(*n)
    elif name == "Q":
        path.quadTo(*n)
    elif name == "C":
        path.cubicTo(*n)
    else:
        path.closeSubpath()


@functools.lru_cache(maxsize=4096)
def _glyph_path(number: int, bold: bool) -> QPainterPath:
    """A glyph's outline in font units, y up."""
    return _painter_path(face(SANS_BOLD if bold else SANS).outline(number))


@functools.lru_cache(maxsize=1024)
def _line(text: str, size: float, bold: bool) -> tuple[QPainterPath, float]:
    """A line of text as one outline from its left end on its baseline, and its width."""
    run = shape(text, size, bold)
    unit = size / face(SANS_BOLD if bold else SANS).units
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for glyph in run.glyphs:
        path.addPath(QTransform(unit, 0, 0, -unit, glyph.x, glyph.y).map(_glyph_path(glyph.number, bold)))
    return path, run.width


def _text(painter: QPainter, run: TextRun) -> None:
    width = shape(run.text, run.size, run.bold).width
    left = run.x - (width if run.align == "right" else width / 2 if run.align == "center" else 0.0)
    place = painter.worldTransform()
    upright = not place.isRotating() and place.m11() == place.m22()
    if upright and painter.device().devicePixelRatio() == 1 and width * place.m11() < MOST_WIDE:
        # Drawn once and copied while it stands still: copying takes a tenth of filling its outline.
        at = place.map(QPointF(left, run.y))
        x, y = math.floor(at.x()), math.floor(at.y())
        edge = (run.edge, run.edge_width) if run.edge and run.edge_width else ("", 0.0)
        image, dx, dy = _drawn_line(run.text, run.size, run.bold, run.fill, edge, place.m11(), at.x() - x, at.y() - y)
        painter.resetTransform()
        painter.drawImage(x + dx, y + dy, image)
        painter.setWorldTransform(place)
        return
    path, _ = _line(run.text, run.size, run.bold)
    painter.translate(left, run.y)
    if run.edge and run.edge_width:
        painter.strokePath(path, _outline(run.edge, run.edge_width))
    painter.fillPath(path, _brush(run.fill))
    painter.setWorldTransform(place)


@functools.lru_cache(maxsize=256)
def _outline(colour: str, width: float) -> QPen:
    """Twice as wide, for the letters cover its inner half."""
    pen = QPen(_colour(colour), width * 2)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    return pen


@functools.lru_cache(maxsize=512)
def _drawn_line(
    text: str, size: float, bold: bool, fill: str, edge: tuple[str, float], scale: float, right: float, down: float
) -> tuple[QImage, int, int]:
    """A line of text as a picture, with where its corner lies from the whole pixel before the line's start.

    right, down: the part of a pixel by which the line's start lies beyond that pixel, so that edges smooth alike.
    Put together of glyphs drawn before, for a running number is a new text on each frame.
    """
    run = shape(text, size, bold)
    layers = ((edge[0], edge[1] * scale), (fill, 0.0)) if edge[0] else ((fill, 0.0),)
    places = []
    for glyph in run.glyphs:
        x = math.floor((right + glyph.x * scale) * PARTS + 0.5)
        y = math.floor((down + glyph.y * scale) * PARTS + 0.5)
        places.append((glyph.number, x // PARTS, y // PARTS, x % PARTS, y % PARTS))
    em, found, area = size * scale, [], QRect()
    for colour, width in layers:
        letters = []
        for number, x, y, part_x, part_y in places:
            image, dx, dy = _drawn_glyph(number, bold, em, colour[:7], width, part_x, part_y)
            letters.append((image, x + dx, y + dy))
        area = area.united(_around(letters))
        found.append((colour, letters))
    whole = _clear(area.size())
    painter = QPainter(whole)
    for colour, letters in found:
        alpha = _colour(colour).alpha()
        if alpha == 255:
            _put(painter, letters, area)
            continue
        # Letters that touch do not show through one another: they become translucent together.
        layer = _clear(area.size())
        inner = QPainter(layer)
        _put(inner, letters, area)
        inner.end()
        painter.setOpacity(alpha / 255)
        painter.drawImage(0, 0, layer)
        painter.setOpacity(1.0)
    painter.end()
    return whole, area.x(), area.y()


def _around(letters: list[tuple[QImage, int, int]]) -> QRect:
    """What holds them all."""
    if not letters:
        return QRect()
    left, top = min(x for _, x, _ in letters), min(y for _, _, y in letters)
    right = max(x + image.width() for image, x, _ in letters)
    bottom = max(y + image.height() for image, _, y in letters)
    return QRect(left, top, right - left, bottom - top)


def _put(painter: QPainter, letters: list[tuple[QImage, int, int]], area: QRect) -> None:
    left, top = area.x(), area.y()
    for image, x, y in letters:
        painter.drawImage(x - left, y - top, image)


def _clear(size: QSize) -> QImage:
    image = QImage(size.expandedTo(QSize(1, 1)), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    return image


@functools.lru_cache(maxsize=8192)
def _drawn_glyph(
    number: int, bold: bool, em: float, colour: str, edge: float, right: int, down: int
) -> tuple[QImage, int, int]:
    """A glyph as a picture, with where its corner lies from the whole pixel before its origin.

    em: pixels. edge: the width of its outline alone in pixels, 0 for the letter itself. right, down: the origin's place
    beyond that pixel, in parts of one.
    """
    unit = em / face(SANS_BOLD if bold else SANS).units
    path = QTransform(unit, 0, 0, -unit, right / PARTS, down / PARTS).map(_glyph_path(number, bold))
    more = math.ceil(edge) + 1
    area = path.controlPointRect().toAlignedRect().adjusted(-more, -more, more, more)
    image = _clear(area.size())
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(-area.topLeft())
    if edge:
        painter.strokePath(path, _outline(colour, edge))
    else:
        painter.fillPath(path, _brush(colour))
    painter.end()
    return image, area.x(), area.y()


@functools.lru_cache(maxsize=64)
def _loaded(source: str, width: int, height: int, tint: str) -> QImage:
    image = load_picture(source, QSize(width, height))
    if tint and not image.isNull():
        colour = _colour(tint)
        painter = QPainter(image)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)
        painter.fillRect(image.rect(), QColor(colour.rgb()))
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationIn)
        mask = load_picture(source, QSize(width, height))
        painter.setOpacity(1.0)
        painter.drawImage(0, 0, mask)
        if colour.alpha() < 255:
            painter.fillRect(image.rect(), QColor(0, 0, 0, colour.alpha()))
        painter.end()
    return image


def _picture(painter: QPainter, picture: Picture) -> None:
    if picture.part is not None and (size := picture_size(picture.source)) is not None and max(size) <= 8192:
        if not is_within(picture.part, size):
            _unreadable(painter, QRectF(picture.x, picture.y, picture.width, picture.height))
            return
        whole = _loaded(picture.source, *size, picture.tint)
        if not whole.isNull():
            painter.drawImage(QRectF(picture.x, picture.y, picture.width, picture.height), whole, QRectF(*picture.part))
            return
    scale = painter.worldTransform().m11()
    width, height = (min(8192, max(1, round(side * scale))) for side in (picture.width, picture.height))
    image = _loaded(picture.source, width, height, picture.tint)
    where = QRectF(picture.x, picture.y, picture.width, picture.height)
    if image.isNull():
        _unreadable(painter, where)
    else:
        painter.drawImage(where, image)


def _nine(painter: QPainter, nine: NineSlice) -> None:
    size = picture_size(nine.source)
    image = _loaded(nine.source, *size, "") if size is not None and max(size) <= 8192 else QImage()
    if image.isNull():
        _picture(painter, Picture(nine.x, nine.y, nine.width, nine.height, nine.source))
        return
    for target, source in nine_parts(nine, (image.width(), image.height())):
        painter.drawImage(QRectF(*target), image, QRectF(*source))


def _unreadable(painter: QPainter, where: QRectF) -> None:
    """The mark of a picture that cannot be read: never nothing."""
    painter.setPen(QPen(QColor("#ff6b78"), 2))
    painter.setBrush(QColor(58, 16, 20, 192))
    painter.drawRect(where)
    painter.drawLine(where.topLeft(), where.bottomRight())
    painter.drawLine(where.topRight(), where.bottomLeft())


def _clip_path(clip: Clip) -> QPainterPath:
    path = QPainterPath()
    radius = min(clip.radius, clip.width / 2, clip.height / 2)
    path.addRoundedRect(QRectF(clip.x, clip.y, clip.width, clip.height), radius, radius)
    return path


def _group(painter: QPainter, group: Group) -> None:
    if group.opacity <= 0:
        return
    painter.save()
    painter.translate(group.dx, group.dy)
    if group.scale != 1:
        painter.scale(group.scale, group.scale)
    if group.clip is not None:
        if group.clip.radius > 0:
            painter.setClipPath(_clip_path(group.clip), Qt.ClipOperation.IntersectClip)
        else:
            c = group.clip
            painter.setClipRect(QRectF(c.x, c.y, c.width, c.height), Qt.ClipOperation.IntersectClip)
    if group.opacity < 1:
        _faded(painter, group)
    else:
        draw_shapes(painter, group.shapes)
    painter.restore()


def _faded(painter: QPainter, group: Group) -> None:
    """Shapes that overlap fade as one picture, so they are drawn apart first."""
    reach = bounds(group.shapes)
    transform = painter.worldTransform()
    area = transform.mapRect(QRectF(*reach)).toAlignedRect().adjusted(-1, -1, 1, 1)
    if area.width() > 16_384 or area.height() > 16_384:
        area = area.intersected(painter.viewport())
    layer = QImage(area.size(), QImage.Format.Format_ARGB32_Premultiplied)
    layer.fill(Qt.GlobalColor.transparent)
    inner = QPainter(layer)
    inner.setRenderHints(painter.renderHints())
    inner.translate(-area.x(), -area.y())
    inner.setTransform(transform, True)
    draw_shapes(inner, group.shapes)
    inner.end()
    painter.resetTransform()
    painter.setOpacity(painter.opacity() * group.opacity)
    painter.drawImage(area.topLeft(), layer)
    painter.setOpacity(1.0)
    painter.setTransform(transform)
