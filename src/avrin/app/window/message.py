"""A message above the window's lower edge: what was done, or what went wrong."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.theme import font, measure, theme

__all__ = ["Message"]

SHOWN = 4000  # milliseconds a message is shown; twice that for an error


class Message(Assisted, QWidget):
    """Disappears after a while, or when pressed."""

    assisted_role = Role.AlertMessage

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._text = ""
        self._error = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.hide()

    def say(self, text: str, error: bool) -> None:
        """Show a message for a few seconds; an error twice as long."""
        self._text, self._error = text, error
        self.setAccessibleName(text)
        self._timer.start(SHOWN * (2 if error else 1))
        self.place()
        self.show()
        self.raise_()
        self.update()
        if QAccessible.isActive():
            QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self, text))

    def text(self) -> str:
        """The latest message."""
        return self._text

    def place(self) -> None:
        """Move to the centre of the lower edge, as wide as the text, wrapped if necessary."""
        most = self._window.width() - 120
        wide = min(most, round(measure(self._text)) + 40)
        lines = 1 + round(measure(self._text)) // max(1, most - 40)
        self.resize(wide, 18 + 16 * lines)
        self.move((self._window.width() - wide) // 2, self._window.height() - self.height() - 40)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.critical.darker(125) if self._error else t.ink)
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        painter.setFont(font())
        painter.setPen("#ffffff" if self._error else t.desk)
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(self.rect().adjusted(16, 6, -16, -6), flags, self._text)

    def mousePressEvent(self, _event: object) -> None:
        self.hide()
