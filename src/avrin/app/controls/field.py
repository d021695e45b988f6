"""A one-line text field."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QLineEdit, QWidget

from avrin.app.controls.keys import KeepsEscape
from avrin.app.controls.theme import font, groundless, theme

__all__ = ["Field"]


class Field(KeepsEscape, QLineEdit):
    """A small field. Enter commits its text, Escape restores the previous one."""

    taken = Signal(str)
    exited = Signal()

    def __init__(self, name: str, width: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._was = ""
        self.setAccessibleName(name)
        self.setFont(font())
        self.setFrame(False)
        self.setFixedSize(width, 21)
        self.setTextMargins(5, 0, 5, 0)
        self.setPalette(groundless())
        self._wrong = False
        self.editingFinished.connect(self.commit)

    def mark(self, wrong: bool) -> None:
        """Mark the text as invalid or valid."""
        self._wrong = wrong
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(t.critical if self._wrong else t.accent if self.hasFocus() else t.line)
        painter.setBrush(t.raised)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        painter.end()
        super().paintEvent(event)

    def show_text(self, text: str) -> None:
        """Show the current text."""
        self._was = text
        if self.text() != text:
            self.setText(text)
            self.setCursorPosition(0)  # show the start of a long text
        self.mark(False)

    def commit(self) -> None:
        """Commit the text."""
        if self.text() != self._was:
            self._was = self.text()
            self.taken.emit(self.text())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._was)
            self.exited.emit()
        else:
            super().keyPressEvent(event)
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                event.accept()  # surrounding widgets do not receive it
                self.exited.emit()
