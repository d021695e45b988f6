"""Chips: the variables an expression uses, each with its current value."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Part, Role, tell_chosen
from avrin.app.controls.keys import KeepsKeys
from avrin.app.controls.theme import font, measure, theme

__all__ = ["Chips"]

TALL, APART = 20, 6


class Chips(KeepsKeys, Assisted, QWidget):
    """A wrapping row of chips. A press goes to the variable's lane."""

    kept_keys = frozenset((Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Space))
    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._chips: list[tuple[str, str]] = []
        self._boxes: list[QRectF] = []
        self._at = -1
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def show_values(self, chips: list[tuple[str, str]]) -> None:
        """Show names with values."""
        if chips == self._chips:
            return
        self._chips = chips
        self.setAccessibleName("fed by " + ", ".join(f"{name} {value}" for name, value in chips))
        self._lay_out()
        self.update()

    def assisted_parts(self) -> list[Part]:
        """Return each chip with its value; a press goes to its lane."""
        at = max(0, self._at)
        return [
            Part(name, box, Role.Button, value, number == at and self.hasFocus(), partial(self.chosen.emit, name))
            for number, ((name, value), box) in enumerate(zip(self._chips, self._boxes, strict=True))
        ]

    def names(self) -> list[str]:
        """Return the variables shown."""
        return [name for name, _ in self._chips]

    def chip_left(self, name: str) -> QPoint | None:
        """Return the left end of a chip, where its ribbon starts."""
        for (known, _), box in zip(self._chips, self._boxes, strict=True):
            if known == name:
                return QPoint(round(box.left()), round(box.center().y()))
        return None

    def _lay_out(self) -> None:
        x, y = 0.0, 0.0
        self._boxes = []
        for name, value in self._chips:
            # Values change all the time: a minimum width keeps the row from jumping.
            wide = measure(name, "small", True) + max(measure(value, "small"), 34.0) + 26
            if x and x + wide > self.width():
                x, y = 0.0, y + TALL + 4
            self._boxes.append(QRectF(x, y, wide, TALL))
            x += wide + APART
        height = int(y) + TALL if self._chips else 0
        if height != self.minimumHeight():
            self.setFixedHeight(height)

    def resizeEvent(self, _event: object) -> None:
        self._lay_out()

    def sizeHint(self) -> QSize:
        return QSize(200, self.minimumHeight())

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, ((name, value), box) in enumerate(zip(self._chips, self._boxes, strict=True)):
            focused = self.hasFocus() and i == max(0, self._at)
            painter.setPen(QPen(t.accent, 1.5) if i == self._at or focused else Qt.PenStyle.NoPen)
            painter.setBrush(t.soft)
            painter.drawRoundedRect(box.adjusted(0.75, 0.75, -0.75, -0.75), TALL / 2, TALL / 2)
            painter.setFont(font("small", True))
            painter.setPen(t.accent)
            painter.drawText(box.adjusted(9, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setFont(font("small"))
            painter.setPen(t.ink)
            painter.drawText(
                box.adjusted(0, 0, -9, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, value
            )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = next((i for i, box in enumerate(self._boxes) if box.contains(event.position())), -1)
        if at != self._at:
            self._at = at
            self.setCursor(Qt.CursorShape.PointingHandCursor if at >= 0 else Qt.CursorShape.ArrowCursor)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for (name, _), box in zip(self._chips, self._boxes, strict=True):
            if box.contains(event.position()):
                self.chosen.emit(name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self._chips:
            self.chosen.emit(self._chips[max(0, self._at)][0])
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self._chips:
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self._at = (max(0, self._at) + step) % len(self._chips)
            tell_chosen(self, self._at)
            self.update()
        else:
            super().keyPressEvent(event)

    def leaveEvent(self, _event: object) -> None:
        self._at = -1
        self.update()
