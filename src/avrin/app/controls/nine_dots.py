"""Choose one of nine points of a box: corners, side centres and centre, by mouse or arrow keys."""

from __future__ import annotations

from typing import get_args

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.keys import ARROWS, KeepsKeys
from avrin.app.controls.theme import theme
from avrin.project.project import Anchor

__all__ = ["NineDots"]

POINTS: tuple[Anchor, ...] = get_args(Anchor)  # row by row
SIDE, EDGE = 62, 9
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class NineDots(KeepsKeys, Assisted, QWidget):
    """Shows the current point and lets the user choose another one."""

    taken = Signal(str)
    kept_keys = ARROWS
    assisted_role = Role.List

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedSize(SIDE, SIDE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.point: Anchor = "top-left"

    def assisted_value(self) -> str:
        """Return the current point."""
        return self.point

    def show_point(self, point: Anchor) -> None:
        """Show the current point."""
        self.point = point
        self.update()

    def dot(self, point: Anchor) -> QPointF:
        """Return the position of a point's dot."""
        row, column = divmod(POINTS.index(point), 3)
        step = (SIDE - 2 * EDGE) / 2
        return QPointF(EDGE + column * step, EDGE + row * step)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        def away(point: Anchor) -> float:
            return (self.dot(point) - event.position()).manhattanLength()

        self._take(min(POINTS, key=away))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        row, column = divmod(POINTS.index(self.point), 3)
        across, down = min(max(0, column + step[0]), 2), min(max(0, row + step[1]), 2)
        self._take(POINTS[down * 3 + across])

    def _take(self, point: Anchor) -> None:
        if point != self.point:
            self.show_point(point)
            self.taken.emit(point)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t, painter = theme(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(t.accent if self.hasFocus() else t.line, 1))
        painter.setBrush(t.raised)
        painter.drawRoundedRect(QRectF(EDGE, EDGE, SIDE - 2 * EDGE, SIDE - 2 * EDGE), 2, 2)
        for point in POINTS:
            chosen = point == self.point
            painter.setPen(QPen(t.desk, 2))
            painter.setBrush(t.accent if chosen else t.third)
            radius = 6.0 if chosen else 4.0
            painter.drawEllipse(self.dot(point), radius, radius)
