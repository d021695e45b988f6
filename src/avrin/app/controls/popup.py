"""A small popup of fields over the window, edited in place and put away with Escape; and how its lines are laid out."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from avrin.app.controls.inked import inked
from avrin.app.controls.keys import KeepsEscape
from avrin.app.controls.theme import theme

__all__ = ["Popup", "row"]


class Popup(KeepsEscape, QFrame):
    """Paper with an edge. Enter and Escape put it away when no field takes them."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.hide()

    def close_it(self) -> None:
        """Put it away."""
        self.hide()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.close_it()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(t.line, 1))
        painter.setBrush(t.desk)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)


def row(*parts: QWidget | str | None, wide: type[QWidget] | None = None) -> QHBoxLayout:
    """Parts beside one another: fields, words; None takes what room is left, as do parts of the kind `wide`."""
    line = QHBoxLayout()
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(6)
    for part in parts:
        if part is None:
            line.addStretch(1)
        elif isinstance(part, str):
            line.addWidget(inked(part, size="small"))
        else:
            line.addWidget(part, 1 if wide is not None and isinstance(part, wide) else 0)
    return line
