"""Ribbons that connect the selected widget's chips to their lanes, and the chip of a drag."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen, QRegion
from PySide6.QtWidgets import QWidget

from avrin.app.controls.theme import font, measure, theme

__all__ = ["Ribbon", "Ribbons"]

BEND = 6.0  # radius of a ribbon's corners
Ribbon = list[QPointF]  # corner points, from the chip to the lane


class Ribbons(QWidget):
    """An overlay transparent to the mouse, masked to its content so that nothing else repaints for it.

    behind: widgets that cover the ribbons.
    """

    def __init__(self, parent: QWidget, find: Callable[[], list[Ribbon]], behind: QWidget) -> None:
        super().__init__(parent)
        self._find = find
        self._behind = behind
        self._carried: tuple[str, QPoint] | None = None
        self._bars: list[tuple[QRect, QColor]] = []
        self._bends: list[tuple[QPainterPath, QPen]] = []
        self._ends: list[tuple[QPointF, QColor]] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.refresh)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)

    def later(self) -> None:
        """Schedule an update, after all layouts have settled."""
        self._timer.start(0)

    @property
    def busy(self) -> bool:
        """Whether an update is pending."""
        return self._timer.isActive()

    def refresh(self) -> None:
        """Update the ribbons."""
        self._bars, self._bends, self._ends = [], [], []
        for i, corners in reversed(list(enumerate(self._find()))):
            colour = QColor(theme().accent)
            colour.setAlphaF(1.0 if i == 0 else 0.4)
            self._add(corners, colour, 2 if i == 0 else 1)
        shown = QRegion()
        for bar, _ in self._bars:
            shown += bar
        for bend, _ in self._bends:
            shown += bend.boundingRect().toAlignedRect().adjusted(-2, -2, 2, 2)
        for end, _ in self._ends:
            shown += QRectF(end - QPointF(4, 4), end + QPointF(4, 4)).toAlignedRect()
        if self._behind.isVisible():
            corner = self.mapFromGlobal(self._behind.mapToGlobal(QPoint()))
            shown -= QRegion(QRect(corner, self._behind.size()))
        if self._carried is not None:
            shown += _chip(*self._carried).toAlignedRect().adjusted(-1, -1, 1, 1)
        self.setMask(shown)
        self.setVisible(not shown.isEmpty())
        self.update()

    def carry(self, name: str, place: QPoint | None) -> None:
        """Show a dragged variable at a position of the desk; None to hide it."""
        self._carried = None if place is None else (name, place)
        self.refresh()

    def _add(self, corners: Ribbon, colour: QColor, wide: int) -> None:
        """Add a ribbon: vertical and horizontal bars, rounded corners, and a dot at its end."""
        half = wide / 2
        for i, (start, end) in enumerate(pairwise(corners)):
            from_corner = _towards(end - start, BEND) if i else QPointF()
            to_corner = _towards(start - end, BEND) if i < len(corners) - 2 else QPointF()
            box = QRectF(start + from_corner, end + to_corner).normalized()
            box = box.adjusted(0, -half, 0, half) if start.y() == end.y() else box.adjusted(-half, 0, half, 0)
            self._bars.append((box.toRect(), colour))
        for before, at, after in zip(corners[:-2], corners[1:-1], corners[2:], strict=True):
            path = QPainterPath(at + _towards(before - at, BEND))
            path.quadTo(at, at + _towards(after - at, BEND))
            self._bends.append((path, QPen(colour, wide)))
        self._ends.append((corners[-1], colour))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        for bar, colour in self._bars:
            painter.fillRect(bar, colour)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for bend, pen in self._bends:
            painter.setPen(pen)
            painter.drawPath(bend)
        painter.setPen(Qt.PenStyle.NoPen)
        for end, colour in self._ends:
            painter.setBrush(colour)
            painter.drawEllipse(end, 3, 3)
        if self._carried is not None:
            self._paint_carried(painter, *self._carried)

    @staticmethod
    def _paint_carried(painter: QPainter, name: str, place: QPoint) -> None:
        t = theme()
        box = _chip(name, place)
        painter.setPen(QPen(t.accent, 1))
        painter.setBrush(t.soft)
        painter.drawRoundedRect(box, 11, 11)
        painter.setPen(t.accent)
        painter.setFont(font("small", True))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


def _chip(name: str, place: QPoint) -> QRectF:
    """Return the rectangle of the dragged variable's chip next to the pointer."""
    return QRectF(place.x() + 10, place.y() + 8, measure(name, "small", True) + 20, 22)


def _towards(way: QPointF, far: float) -> QPointF:
    """Return a vector of length `far` along a horizontal or vertical one, at most half of it."""
    long = abs(way.x()) + abs(way.y())
    return way * (min(far, long / 2) / long) if long else QPointF()
