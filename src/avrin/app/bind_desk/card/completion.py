"""What could be written next: names with their values now, functions with their help, below the caret."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QPoint, QRect, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Part, Role, tell_chosen
from avrin.app.controls.theme import font, measure, mono, theme
from avrin.app.session.session import Session
from avrin.model import JOINING_WORDS, VALUE_WORDS
from avrin.render.values import said, with_unit
from avrin.rules import BUILT_IN, FUNCTIONS

__all__ = ["Completion", "Entry", "entries"]

ROW, SHOWN, WIDE, HELP = 22, 7, 420, 42


@dataclass(frozen=True, slots=True)
class Entry:
    """One thing to write. text: what is put in. beside: what stands at the right. help: a sentence about it."""

    text: str
    beside: str
    help: str
    call: bool = False


def entries(session: Session, begun: str) -> list[Entry]:
    """All that begins with, or has in it, what was begun; those that begin with it first."""
    found: list[Entry] = []
    for name, variable in session.project.all_variables().items():
        note = variable.note or f"{variable.type}, {variable.low:g} to {variable.high:g}" if (
            variable.low is not None and variable.high is not None) else variable.note or str(variable.type)  # fmt: skip
        found.append(Entry(name, with_unit(session.value(name), variable.unit), note))
    found += [Entry(d.name, said(session.value(d.name)), d.note or f"is {d.rule}") for d in session.project.derived]
    found += [Entry(name, "", help_) for name, (_, help_) in BUILT_IN.items()]
    for function in FUNCTIONS.values():
        beside = function.signature.removeprefix(function.name)
        found.append(Entry(function.name, beside, f"{function.help}  {function.example}", call=True))
    words = [word for word in (*JOINING_WORDS, *VALUE_WORDS) if begun and word.startswith(begun)]
    found += [Entry(word, "", "a word of the language") for word in words]
    low = begun.lower()
    first = [entry for entry in found if entry.text.lower().startswith(low)]
    rest = [entry for entry in found if low in entry.text.lower() and entry not in first] if low else []
    return [entry for entry in (*first, *rest) if entry.text != begun or entry.call]


class Completion(Assisted, QWidget):
    """A list over the card. It never takes the focus: the field's keys move in it."""

    def __init__(self, session: Session, take: Callable[[Entry], None]) -> None:
        super().__init__()
        self.session = session
        self._take = take
        self.entries: list[Entry] = []
        self.at = 0
        self._top = 0
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # one writes on while it is open: the field hands it its keys
        self.setMouseTracking(True)
        self.setAccessibleName("What could be written")

    assisted_role = Role.PopupMenu

    def assisted_parts(self) -> list[Part]:
        """Each thing that could be written, with its value or its help; a press writes it."""
        rows = self.entries[self._top : self._top + SHOWN]
        return [
            Part(
                entry.text, QRect(4, 4 + number * ROW, self.width() - 8, ROW), Role.MenuItem, entry.beside or entry.help,
                self._top + number == self.at, partial(self._choose, self._top + number),
            )
            for number, entry in enumerate(rows)
        ]  # fmt: skip

    def _choose(self, number: int) -> None:
        self.hide()
        self._take(self.entries[number])

    def offer(self, begun: str, over: QWidget, caret: QPoint) -> None:
        """Show what fits under a place of a window; nothing when nothing fits."""
        if self.parentWidget() is not over:  # a child of the window, not of the field: there it would be cut off
            self.setParent(over)
        self.entries = entries(self.session, begun)
        self.at = self._top = 0
        if not self.entries:
            self.hide()
            return
        self.resize(WIDE, 8 + min(SHOWN, len(self.entries)) * ROW + HELP)
        x = min(caret.x() - 8, over.width() - WIDE - 4)
        below = caret.y() + 4
        self.move(x, below if below + self.height() < over.height() else caret.y() - 24 - self.height())
        self.show()
        self.raise_()
        self.update()

    def key(self, key: int) -> bool:
        """A key of the field; whether it was meant for the list."""
        if not self.isVisible():
            return False
        if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            # Round at the ends: up from the first is the shortest way to the functions, which stand last.
            self.at = (self.at + (1 if key == Qt.Key.Key_Down else -1)) % len(self.entries)
            self._top = min(max(self._top, self.at - SHOWN + 1), self.at)
            tell_chosen(self, self.at - self._top)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab):
            self._choose(self.at)
        elif key == Qt.Key.Key_Escape:
            self.hide()
        else:
            return False
        return True

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t.raised)
        painter.setPen(QPen(t.line, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        shown = self.entries[self._top : self._top + SHOWN]
        for number, entry in enumerate(shown):
            row = QRect(4, 4 + number * ROW, self.width() - 8, ROW)
            if self._top + number == self.at:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(t.soft)
                painter.drawRoundedRect(QRectF(row), 3, 3)
            inner = row.adjusted(8, 0, -8, 0)
            painter.setFont(mono())
            painter.setPen(t.accent if entry.call else t.ink)
            painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, entry.text)
            left = round(QFontMetrics(mono()).horizontalAdvance(entry.text))
            painter.setPen(t.second)
            if entry.call:
                painter.drawText(inner.adjusted(left, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, entry.beside)
            else:
                painter.setFont(font("text", True))
                painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, entry.beside)
        foot = QRect(0, 4 + len(shown) * ROW + 2, self.width(), HELP)
        painter.setPen(QPen(t.line, 1))
        painter.drawLine(foot.left() + 8, foot.top(), foot.right() - 8, foot.top())
        painter.setPen(t.second)
        painter.setFont(font("small"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(foot.adjusted(12, 2, -12, -4), flags, self.entries[self.at].help)
        if len(self.entries) > SHOWN:
            text = f"{self.at + 1} of {len(self.entries)}"
            painter.setPen(t.third)
            painter.drawText(QRectF(self.width() - measure(text, "small") - 10, self.height() - 16, 80, 12), text)

    def _row_at(self, event: QMouseEvent) -> int:
        number = int((event.position().y() - 4) // ROW)
        return self._top + number if 0 <= number < min(SHOWN, len(self.entries)) else -1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if (at := self._row_at(event)) >= 0:
            self.at = at
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if (at := self._row_at(event)) >= 0:
            self._choose(at)

    def wheelEvent(self, event: QWheelEvent) -> None:
        step = -1 if event.angleDelta().y() > 0 else 1
        self._top = min(max(0, self._top + step), max(0, len(self.entries) - SHOWN))
        self.update()
