"""A one-line text field, and conversion between values and text."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QLineEdit, QWidget

from avrin.app.controls.keys import KeepsEscape
from avrin.app.controls.theme import font, groundless, theme
from avrin.errors import AvrinError
from avrin.project.numbers import rule_number
from avrin.project.project import VariableType
from avrin.trace.frames import Value

__all__ = ["Field", "parsed", "pixels", "written"]

FURTHEST = 100_000.0  # pixels of a place's offset


def parsed(text: str, type_: VariableType) -> Value:
    """Parse a value typed by the user; None for an empty text. Raises AvrinError for another type."""
    text = text.strip()
    if type_ == "text":
        return text
    if not text:
        return None
    if type_ == "bool":
        known = {
            "yes": True,
            "true": True,
            "1": True,
            "on": True,
            "no": False,
            "false": False,
            "0": False,
            "off": False,
        }
        if text.lower() not in known:
            raise AvrinError(f"'{text}' is neither yes nor no")
        return known[text.lower()]
    try:
        number = float(text.replace(",", ".").replace("−", "-").replace(" ", ""))
    except ValueError:
        raise AvrinError(f"'{text}' is not a number") from None
    if number != number or number in (float("inf"), float("-inf")):
        raise AvrinError(f"'{text}' is not a value a game can show")
    return float(round(number)) if type_ == "int" else number


def pixels(text: str) -> float:
    """Parse a number of pixels, clamped to a place's limits. Raises AvrinError for an invalid number."""
    try:
        number = float(text.replace(",", ".").replace("−", "-"))
    except ValueError:
        number = math.nan
    if math.isnan(number):
        raise AvrinError(f"'{text}' is not a number of pixels", advice="Write for example 24")
    return max(-FURTHEST, min(FURTHEST, number))


def written(value: object) -> str:
    """Return the text of a value for a field."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return rule_number(value) if isinstance(value, int | float) else str(value)


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
