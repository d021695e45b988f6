"""Pending questions below the header: a line each, with choices; they block nothing."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.services.journaling import Ask
from avrin.app.window.notice_bar import NoticeBar

__all__ = ["Notices"]

MARGIN = 20


class Notices(QWidget):
    """Shows the latest question of each kind until it is answered."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self.lines: dict[str, _Line] = {}
        self.hide()

    def ask(self, ask: Ask) -> None:
        """Show a question, replacing one of its kind."""
        self.withdraw(ask.key)
        line = self.lines[ask.key] = _Line(ask, partial(self.withdraw, ask.key))
        self._column.addWidget(line)
        line.show()
        self.show()
        if QAccessible.isActive():
            QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self, ask.text))

    def withdraw(self, key: str) -> None:
        """Remove a question that needs no answer any more."""
        line = self.lines.pop(key, None)
        if line is not None:
            line.hide()
            self._column.removeWidget(line)
            line.deleteLater()  # the answer may come from one of its links, during a press
        self.setVisible(bool(self.lines))


class _Line(NoticeBar):
    """One question: the situation, and the choices."""

    def __init__(self, ask: Ask, understood: partial[None]) -> None:
        super().__init__()
        self.setAccessibleName(ask.text)
        row = QHBoxLayout(self)
        row.setContentsMargins(MARGIN, 5, MARGIN - 7, 5)
        row.setSpacing(4)
        text = text_label(ask.text, "ink", wrap=True)
        text.setTextFormat(Qt.TextFormat.PlainText)
        row.addWidget(text, 1)
        row.addSpacing(12)
        for word, does in ask.choices or (("understood", understood),):
            row.addWidget(Link(word, does, bold=True))
