"""Marks over the HUD picture: outlines, handles, the line to the anchor, the tag with the position."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from avrin.app.controls.theme import font, measure, theme
from avrin.project.project import Place
from avrin.render.layout import Rect, anchor_point

__all__ = [
    "CORNERS",
    "anchor_line",
    "beside",
    "comment",
    "extent",
    "follow_line",
    "frame",
    "grid",
    "handles",
    "lines",
    "note",
    "note_box",
    "outline",
    "reach",
    "sweep",
    "tag",
    "tag_box",
]

HANDLE = 7.0  # side of a corner's handle, in pixels
CORNERS = ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0))
MAX_DASHED_PX = 3000.0  # pixels up to which a line may be dashed
TAG = 280  # pixels of the widest tag with its margin
ARM = 9.0  # pixels of the strokes that mark an anchor


def comment(painter: QPainter, x: float, top: float) -> None:
    """Paint the mark of a comment: a speech bubble whose tip is at x, 11 pixels below `top`."""
    painter.setPen(QPen(theme().raised, 1))
    painter.setBrush(theme().accent)
    painter.drawRoundedRect(QRectF(x - 4, top, 9, 7), 2, 2)
    painter.drawPolygon(QPolygonF([QPointF(x - 1, top + 7), QPointF(x + 3, top + 7), QPointF(x, top + 11)]))


def outline(painter: QPainter, rect: QRectF, colour: QColor, width: float) -> None:
    """Outline a hovered widget or the target of a drag."""
    painter.setPen(QPen(colour, width))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(rect.adjusted(-2, -2, 2, 2), 3, 3)


def lines(painter: QPainter, segments: list[tuple[QPointF, QPointF]]) -> None:
    """Draw the alignment lines a moving widget snaps to."""
    painter.setPen(QPen(QColor("#7fd0c9"), 1, Qt.PenStyle.DashLine))
    for start, end in segments:
        painter.drawLine(start, end)


def sweep(painter: QPainter, rect: QRectF) -> None:
    """Draw the rectangle that selects widgets."""
    painter.setPen(QPen(QColor("#7fd0c9"), 1))
    painter.setBrush(QColor(127, 208, 201, 36))
    painter.drawRect(rect.normalized())


def grid(painter: QPainter, area: QRectF, scale: float) -> None:
    """Draw the grid between the screen's pixels. area: of whole pixels. scale: view pixels per screen pixel."""
    colour, box = (
        QColor(255, 255, 255, 38),
        area.toAlignedRect(),
    )  # filled: stroking a line takes ten times as long
    for column in range(1, round(area.width() / scale)):
        painter.fillRect(round(area.x() + column * scale), box.top(), 1, box.height(), colour)
    for row in range(1, round(area.height() / scale)):
        painter.fillRect(box.left(), round(area.y() + row * scale), box.width(), 1, colour)


def frame(painter: QPainter, rect: QRectF, shown: bool, *, pulled: bool = True) -> None:
    """Draw a selected widget's box, dashed while it is hidden; with handles if it can be resized."""
    style = Qt.PenStyle.SolidLine if shown else _broken(Qt.PenStyle.DashLine, rect.topLeft(), rect.bottomRight())
    painter.setPen(QPen(QColor(255, 255, 255, 230), 1.5, style))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(rect)
    if not pulled:
        return
    painter.setPen(QPen(QColor("#142027"), 1))
    painter.setBrush(QColor("#ffffff"))
    for handle in handles(rect):
        painter.drawRect(handle)


def _broken(style: Qt.PenStyle, start: QPointF, end: QPointF) -> Qt.PenStyle:
    """Return dots or dashes; a solid line if it would have thousands, mostly out of sight, and delay the frame."""
    return style if (end - start).manhattanLength() < MAX_DASHED_PX else Qt.PenStyle.SolidLine


def extent(painter: QPainter, rect: QRectF, most: Rect, unit: float) -> None:
    """Draw the selected widget's largest extent from its box's corner. unit: pixels per reference pixel."""
    reach = QRectF(rect.x() + most.x * unit, rect.y() + most.y * unit, most.width * unit, most.height * unit)
    painter.setPen(
        QPen(QColor(255, 255, 255, 200), 1, _broken(Qt.PenStyle.DotLine, reach.topLeft(), reach.bottomRight()))
    )
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(reach)


def handles(rect: QRectF) -> list[QRectF]:
    """Return the resize handles at the corners of a widget's box, in the order of `CORNERS`."""
    half = HANDLE / 2
    return [
        QRectF(rect.x() + x * rect.width() - half, rect.y() + y * rect.height() - half, HANDLE, HANDLE)
        for x, y in CORNERS
    ]


def anchor_line(painter: QPainter, place: Place, rect: QRectF, safe: QRectF) -> None:
    """Draw the line from the anchor in the screen's safe area to the widget's pivot."""
    ax, ay = anchor_point(place.anchor)
    px, py = anchor_point(place.pivot)
    start = _anchor(place, safe)
    end = QPointF(rect.x() + px * rect.width(), rect.y() + py * rect.height())
    painter.setPen(QPen(QColor(255, 255, 255, 170), 1, _broken(Qt.PenStyle.DotLine, start, end)))
    painter.drawLine(start, end)
    painter.setPen(QPen(QColor("#ffffff"), 3))
    if ax != 0.5:
        painter.drawLine(start, start + QPointF(ARM if ax == 0 else -ARM, 0))
    if ay != 0.5:
        painter.drawLine(start, start + QPointF(0, ARM if ay == 0 else -ARM))
    if ax == ay == 0.5:
        painter.drawPoint(start)


def follow_line(painter: QPainter, place: Place, rect: QRectF) -> None:
    """Draw the line from the followed position to the widget's pivot."""
    px, py = anchor_point(place.pivot)
    unit = rect.width() / place.size[0]
    end = QPointF(rect.x() + px * rect.width(), rect.y() + py * rect.height())
    start = end - QPointF(*place.offset) * unit
    painter.setPen(QPen(QColor(255, 255, 255, 170), 1, _broken(Qt.PenStyle.DotLine, start, end)))
    painter.drawLine(start, end)
    painter.setPen(QPen(QColor("#ffffff"), 3))
    painter.drawPoint(start)


def _anchor(place: Place, safe: QRectF) -> QPointF:
    x, y = anchor_point(place.anchor)
    return QPointF(safe.x() + x * safe.width(), safe.y() + y * safe.height())


def reach(place: Place, rect: QRectF, safe: QRectF) -> QRect:
    """Return the bounds of a selected widget's frame, line and tag."""
    to_anchor = QRectF(_anchor(place, safe), rect.center()).normalized()
    return rect.united(to_anchor).adjusted(-TAG, -24, TAG, 24).toAlignedRect()


def beside(rect: QRectF, width: float, area: QRectF) -> QRectF:
    """Return the box of a tag: right of a widget's box, or left without room, inside the picture's area."""
    left = rect.right() + 9 if rect.right() + width + 14 < area.right() else rect.left() - width - 9
    top = min(max(rect.bottom() - 20, area.top() + 4), area.bottom() - 24)
    return QRectF(max(left, area.x() + 4), top, width, 20)


def tag_box(text: str, rect: QRectF, area: QRectF) -> QRectF:
    """Return the box of the tag with a text."""
    return beside(rect, measure(text, "small") + 14, area)


def note_box(text: str, area: QRectF) -> QRectF:
    """Return the box of a note about the whole picture: in its lower left corner."""
    return QRectF(area.x() + 8, area.bottom() - 28, measure(text, "small") + 14, 20)


def note(painter: QPainter, text: str, box: QRectF) -> None:
    """Draw a note about the whole picture."""
    _words(painter, text, box, QColor(20, 32, 39, 205), QColor("#f4f1ea"))


def tag(painter: QPainter, text: str, rect: QRectF, area: QRectF) -> None:
    """Draw a widget's position in words next to its box."""
    box = tag_box(text, rect, area)
    _words(painter, text, box, QColor(251, 249, 245, 235), QColor("#24211d"))


def _words(painter: QPainter, text: str, box: QRectF, ground: QColor, ink: QColor) -> None:
    """Draw words on a background."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ground)
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(ink)
    painter.setFont(font("small"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
