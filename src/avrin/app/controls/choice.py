"""A choice from a few values: Qt's combo box, flat until it is hovered."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QComboBox

from avrin.app.controls.keys import KeepsKeys
from avrin.app.controls.theme import font, measure, sheet, theme

__all__ = ["Choice"]

HEIGHT_PX = 26
LETTERS = frozenset(Qt.Key(code) for code in range(Qt.Key.Key_A, Qt.Key.Key_Z + 1))  # choose a value by how it begins
LIST = """
    background: {raised}; color: {ink}; border: 1px solid {line}; padding: 4px; outline: 0;
    selection-background-color: {soft}; selection-color: {ink};
"""
BESIDE = 12  # pixels at each side of a text in the list
ARROW = 22  # pixels for the arrow at the right, which indicates a list


class Choice(KeepsKeys, QComboBox):
    """A choice shown in words. taken: emitted when the user chose another value."""

    taken = Signal(object)
    kept_keys = LETTERS

    def __init__(self, name: str, values: Sequence[object]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFont(font())
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self._size = QSize(0, HEIGHT_PX)
        self.offer(values)
        # Later: the receiver may offer other values, or remove this control, during the key event that chose.
        self.activated.connect(self._take, Qt.ConnectionType.QueuedConnection)

    def offer(self, values: Sequence[object]) -> None:
        """Set the available values."""
        if [self.itemData(at) for at in range(self.count())] == list(values) and self.count():
            return
        self.clear()
        for value in values:
            self.addItem(_word(value), value)
        widest = max((measure(_word(value), "text", True) for value in values), default=0.0)
        self._size = QSize(round(widest) + 7 + ARROW, HEIGHT_PX)
        self.setFixedSize(self._size)

    def _take(self, number: int) -> None:
        self.taken.emit(self.itemData(number))

    def show_value(self, value: object) -> None:
        """Show the current value; nothing if it is not among the values."""
        self.setCurrentIndex(self.findData(value))

    def showPopup(self) -> None:
        self.view().setStyleSheet(sheet(LIST))
        self.view().setMinimumWidth(self.view().sizeHintForColumn(0) + 2 * BESIDE)
        super().showPopup()

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()  # it scrolls the surrounding view

    def sizeHint(self) -> QSize:
        return self._size

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse() or self.hasFocus():
            painter.setPen(QPen(t.accent, 2) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(t.raised if self.underMouse() else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        painter.setFont(font("text", True))
        painter.setPen(t.accent)
        painter.drawText(QRectF(7, 0, self.width(), self.height()), Qt.AlignmentFlag.AlignVCenter, self.currentText())
        painter.setPen(QPen(t.second, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        x = 7 + measure(self.currentText(), "text", True) + 6  # next to the text, wherever it ends
        y = self.height() / 2 - 1
        painter.drawPolyline(QPolygonF([QPointF(x, y), QPointF(x + 3.5, y + 3.5), QPointF(x + 7, y)]))


def _word(value: object) -> str:
    return {True: "yes", False: "no"}[value] if isinstance(value, bool) else str(value) or "none"
