"""Paint display lists with QPainter, from the same glyph outlines as `avrin.render.svg`."""

from __future__ import annotations

import functools
import logging
import math
from collections.abc import Iterable
from pathlib import Path as FilePath

from PySide6.QtCore import QBuffer, QIODevice, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QImageReader, QPainter, QPainterPath, QPen, QTransform

from avrin.app.painting.colour_vision import as_seen_with
from avrin.app.painting.lettering import colour_of, draw_texts, forget_letters, outline_path
from avrin.app.painting.offscreen import painting
from avrin.errors import AvrinError
from avrin.kinds.shapes import Box, Clip, Group, NineSlice, Path, Picture, Shape, TextRun
from avrin.render.artwork import artwork, picture_mark, refusal
from avrin.render.bounds import bounds
from avrin.render.drawing_errors import note_fault
from avrin.render.nine_slice import is_within, nine_parts, picture_size
from avrin.render.sandbox import Confined

__all__ = ["draw", "draw_shapes", "forget_files", "load_picture", "png_bytes"]

log = logging.getLogger(__name__)
MOST_SIDE = 128  # pixels of an outline cached as an image
PNG_QUALITY = 80  # of 100, in Qt's scale: fast compression, still lossless


def draw(painter: QPainter, shapes: Iterable[Shape]) -> None:
    """Draw a display list with the painter's current transform."""
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    draw_shapes(painter, shapes)


def draw_shapes(painter: QPainter, shapes: Iterable[Shape]) -> None:
    """Do the same with the render hints already set."""
    texts: list[TextRun] = []  # consecutive ones are drawn together
    for item in shapes:
        if isinstance(item, TextRun):
            texts.append(item)
            continue
        if texts:
            draw_texts(painter, texts)
            texts = []
        if isinstance(item, Box):
            _box(painter, item)
        elif isinstance(item, Group):
            _safely(painter, item)
        elif isinstance(item, Path):
            _path(painter, item)
        elif isinstance(item, NineSlice):
            _nine(painter, item)
        else:
            _picture(painter, item)
    if texts:
        draw_texts(painter, texts)


def png_bytes(image: QImage) -> bytes:
    """Return the image as a PNG file."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG", PNG_QUALITY)  # type: ignore[call-overload]
    return bytes(buffer.data().data())


def load_picture(source: str, size: QSize) -> QImage:
    """Load a picture file at a size; an empty image if it cannot be read."""
    content = artwork(source)
    if content is None:
        return QImage()
    if FilePath(source).suffix.lower() == ".svg":
        return _drawn_svg(content, size)
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


def _drawn_svg(content: bytes, size: QSize) -> QImage:
    try:
        drawn = _svg.drawn(content, size.width(), size.height())
    except AvrinError:  # reported by the checks
        drawn = None
    if drawn is None:
        return QImage()
    lines = QImage(drawn, size.width(), size.height(), 4 * size.width(), QImage.Format.Format_ARGB32_Premultiplied)
    return lines.copy()  # a copy owns its pixels


_svg = Confined("avrin.app.painting.svg_process")


@functools.lru_cache(maxsize=1024)
def _brush(text: str) -> QBrush:
    return QBrush(colour_of(text)) if text else QBrush(Qt.BrushStyle.NoBrush)


@functools.lru_cache(maxsize=1024)
def _pen(text: str, width: float) -> QPen:
    pen = QPen(colour_of(text), width)
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
            painter.fillRect(rect, colour_of(box.fill))
        return
    painter.setBrush(_brush(box.fill))
    painter.setPen(_pen(box.edge, edge) if edge else Qt.PenStyle.NoPen)
    if radius > 0:
        painter.drawRoundedRect(rect, radius, radius)
    else:
        painter.drawRect(rect)


def _path(painter: QPainter, item: Path) -> None:
    place = painter.worldTransform()
    scale = place.m11()
    if place.m12() == 0 and place.m21() == 0 and place.m22() == scale and painter.device().devicePixelRatio() == 1:
        x, y = math.floor(place.dx()), math.floor(place.dy())
        drawn = _drawn_path(item, scale, place.dx() - x, place.dy() - y)
        if drawn is not None:
            painter.resetTransform()
            painter.drawImage(x + drawn[1], y + drawn[2], drawn[0])
            painter.setWorldTransform(place)
            return
    _fill_path(painter, item)


@functools.lru_cache(maxsize=1024)
def _drawn_path(item: Path, scale: float, right: float, down: float) -> tuple[QImage, int, int] | None:
    """Return a small outline as an image, with its corner relative to the whole pixel before the origin; else None.

    right, down: the subpixel offset of the origin, so that edges are antialiased alike. Hearts and
    other icons are static, and copying one takes a fifth of filling it.
    """
    grow = item.edge_width / 2 if item.edge else 0.0
    reach = _painter_path(item.commands).controlPointRect().adjusted(-grow, -grow, grow, grow)
    area = QTransform(scale, 0, 0, scale, right, down).mapRect(reach).toAlignedRect().adjusted(-1, -1, 1, 1)
    if area.width() > MOST_SIDE or area.height() > MOST_SIDE:
        return None
    image = QImage(area.size(), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    with painting(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(right - area.x(), down - area.y())
        painter.scale(scale, scale)
        _fill_path(painter, item)
    return image, area.x(), area.y()


def _fill_path(painter: QPainter, item: Path) -> None:
    path = _painter_path(item.commands)
    if item.fill:
        painter.fillPath(path, _brush(item.fill))
    if item.edge and item.edge_width:
        painter.strokePath(path, _pen(item.edge, item.edge_width))


_painter_path = functools.lru_cache(maxsize=1024)(outline_path)


@functools.lru_cache(maxsize=64)
def _loaded(source: str, _mark: tuple[int, int] | None, width: int, height: int, tint: str) -> QImage:
    image = load_picture(source, QSize(width, height))
    if tint and not image.isNull():
        colour = colour_of(tint)
        with painting(image) as painter:
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)
            painter.fillRect(image.rect(), QColor(colour.rgb()))
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationIn)
            mask = load_picture(source, QSize(width, height))
            painter.setOpacity(1.0)
            painter.drawImage(0, 0, mask)
            if colour.alpha() < 255:
                painter.fillRect(image.rect(), QColor(0, 0, 0, colour.alpha()))
    return image


def forget_files() -> None:
    """Drop what was drawn from files: those of the previous project, or ones that changed on disk."""
    _loaded.cache_clear()
    forget_letters()


def _picture(painter: QPainter, picture: Picture) -> None:
    if picture.part is not None and (size := picture_size(picture.source)) is not None and max(size) <= 8192:
        if not is_within(picture.part, size):
            note_fault(f"{FilePath(picture.source).name} has no such part")
            _unreadable(painter, QRectF(picture.x, picture.y, picture.width, picture.height))
            return
        whole = _loaded(picture.source, picture_mark(picture.source), *size, picture.tint)
        if not whole.isNull():
            painter.drawImage(QRectF(picture.x, picture.y, picture.width, picture.height), whole, QRectF(*picture.part))
            return
    scale = painter.worldTransform().m11()
    width, height = (min(8192, max(1, round(side * scale))) for side in (picture.width, picture.height))
    image = _loaded(picture.source, picture_mark(picture.source), width, height, picture.tint)
    where = QRectF(picture.x, picture.y, picture.width, picture.height)
    if image.isNull():
        note_fault(f"{FilePath(picture.source).name} {refusal(picture.source) or 'cannot be drawn'}")
        _unreadable(painter, where)
    else:
        painter.drawImage(where, image)


def _nine(painter: QPainter, nine: NineSlice) -> None:
    size = picture_size(nine.source)
    image = (
        _loaded(nine.source, picture_mark(nine.source), *size, "")
        if size is not None and max(size) <= 8192
        else QImage()
    )
    if image.isNull():
        _picture(painter, Picture(nine.x, nine.y, nine.width, nine.height, nine.source))
        return
    for target, source in nine_parts(nine, (image.width(), image.height())):
        painter.drawImage(QRectF(*target), image, QRectF(*source))


def _unreadable(painter: QPainter, where: QRectF) -> None:
    """Draw the placeholder of an unreadable picture."""
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


def _safely(painter: QPainter, group: Group) -> None:
    """Draw a group; if painting it fails, draw a placeholder and continue with the others."""
    painter.save()
    try:
        _group(painter, group)
    except Exception:  # an error in one group must not hide the rest of the HUD
        log.exception("a part of the picture could not be painted: %s", group.name)
        note_fault(f"{group.name or 'a part of the picture'} could not be drawn: an internal error")
        painter.restore()
        painter.save()
        painter.translate(group.dx, group.dy)
        painter.scale(group.scale, group.scale)
        _unreadable(painter, _box_of(group))
    finally:
        painter.restore()


def _box_of(group: Group) -> QRectF:
    """Return a group's approximate bounds, from its clip or boxes."""
    if group.clip is not None:
        return QRectF(group.clip.x, group.clip.y, group.clip.width, group.clip.height)
    boxes = [QRectF(s.x, s.y, s.width, s.height) for s in group.shapes if isinstance(s, Box | Picture | NineSlice)]
    return functools.reduce(lambda left_box, other: left_box.united(other), boxes, QRectF(0, 0, 24, 24))


def _group(painter: QPainter, group: Group) -> None:
    if group.opacity <= 0:
        return
    painter.translate(group.dx, group.dy)
    if group.scale != 1:
        painter.scale(group.scale, group.scale)
    if group.clip is not None:
        if group.clip.radius > 0:
            painter.setClipPath(_clip_path(group.clip), Qt.ClipOperation.IntersectClip)
        else:
            c = group.clip
            painter.setClipRect(QRectF(c.x, c.y, c.width, c.height), Qt.ClipOperation.IntersectClip)
    if group.eyes and group.clip is not None:
        _looked_at(painter, group)
    elif group.opacity < 1:
        _faded(painter, group)
    else:
        draw_shapes(painter, group.shapes)


def _looked_at(painter: QPainter, group: Group) -> None:
    """Draw a group with its colour vision simulated inside its clip."""
    assert group.clip is not None
    c, ratio = group.clip, painter.device().devicePixelRatio()
    transform = painter.worldTransform()
    area = transform.mapRect(QRectF(c.x, c.y, c.width, c.height)).toAlignedRect()
    if area.isEmpty():
        return
    image = QImage(area.size() * ratio, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.black)
    with painting(image) as apart:
        apart.setRenderHints(painter.renderHints())
        apart.scale(ratio, ratio)
        apart.translate(-area.topLeft())
        apart.setTransform(transform, True)
        draw_shapes(apart, group.shapes)
    painter.resetTransform()
    painter.drawImage(QRectF(area), as_seen_with(image, group.eyes))


def _faded(painter: QPainter, group: Group) -> None:
    """Draw overlapping shapes into one image first, so that they fade together."""
    reach = bounds(group.shapes)
    transform = painter.worldTransform()
    area = transform.mapRect(QRectF(*reach)).toAlignedRect().adjusted(-1, -1, 1, 1)
    if area.width() > 16_384 or area.height() > 16_384:
        area = area.intersected(painter.viewport())
    layer = QImage(area.size(), QImage.Format.Format_ARGB32_Premultiplied)
    layer.fill(Qt.GlobalColor.transparent)
    with painting(layer) as inner:
        inner.setRenderHints(painter.renderHints())
        inner.translate(-area.x(), -area.y())
        inner.setTransform(transform, True)
        draw_shapes(inner, group.shapes)
    painter.resetTransform()
    painter.setOpacity(painter.opacity() * group.opacity)
    painter.drawImage(area.topLeft(), layer)
    painter.setOpacity(1.0)
    painter.setTransform(transform)
