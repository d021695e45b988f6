"""The ribbons that tie the selected widget's chips to their lanes, run through the gutters; and what a drag carries."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avrin.app.theme import font, measure, theme

__all__ = ["Ribbon", "Ribbons"]

BEND = 6.0  # radius of a ribbon's corners
Ribbon = list[QPointF]  # corner points, from the chip to the lane


class Ribbons(QWidget):
    """Lies over the desk and lets every press through."""

    def __init__(self, parent: QWidget, find: Callable[[], list[Ribbon]]) -> None:
        super().__init__(parent)
        self._find = find
        self._carried: tuple[str, QPoint] | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)

    def carry(self, name: str, place: QPoint | None) -> None:
        """A variable is dragged at a place of the desk; None when it is put down."""
        self._carried = None if place is None else (name, place)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, corners in reversed(list(enumerate(self._find()))):
            colour = QColor(t.accent)
            colour.setAlphaF(1.0 if i == 0 else 0.4)
            painter.setPen(QPen(colour, 1.6 if i == 0 else 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(_rounded(corners))
            painter.setBrush(colour)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawEllipse(corners[-1], 3, 3)
        if self._carried is not None:
            self._paint_carried(painter, *self._carried)

    @staticmethod
    def _paint_carried(painter: QPainter, name: str, place: QPoint) -> None:
        t = theme()
        box = QRectF(place.x() + 10, place.y() + 8, measure(name, "small", True) + 20, 22)
        painter.setPen(QPen(t.accent, 1))
        painter.setBrush(t.soft)
        painter.drawRoundedRect(box, 11, 11)
        painter.setPen(t.accent)
        painter.setFont(font("small", True))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


def _rounded(corners: Ribbon) -> QPainterPath:
    """A line through the corners, each rounded as far as its two sides allow."""
    path = QPainterPath(corners[0])
    for before, at, after in zip(corners[:-2], corners[1:-1], corners[2:], strict=True):
        bend = min(BEND, _long(at - before) / 2, _long(after - at) / 2)
        path.lineTo(at + _towards(before - at, bend))
        path.quadTo(at, at + _towards(after - at, bend))
    path.lineTo(corners[-1])
    return path


def _long(way: QPointF) -> float:
    return abs(way.x()) + abs(way.y())


def _towards(way: QPointF, far: float) -> QPointF:
    long = _long(way)
    return way * (far / long) if long else QPointF()
