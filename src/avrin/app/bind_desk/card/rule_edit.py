"""The rule field: grows with its text, highlights its syntax, underlines an error at its characters."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPoint, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QKeySequence,
    QPainter,
    QPen,
    QResizeEvent,
    QSyntaxHighlighter,
    QTextCursor,
    QTextDocument,
    QTextOption,
)
from PySide6.QtWidgets import QPlainTextEdit, QSizePolicy, QToolTip

from avrin.app.controls.keys import KeepsEscape
from avrin.app.controls.theme import groundless, mono, theme
from avrin.app.controls.utf16 import characters_before, units_before
from avrin.app.services.editor import Editor
from avrin.binding.own_examples import own_example
from avrin.errors import AvrinError
from avrin.project.reserved_words import JOINING_WORDS, VALUE_WORDS
from avrin.render.values import format_value
from avrin.rules.errors import RuleError
from avrin.rules.parts import part_at, word_before

if TYPE_CHECKING:
    from avrin.app.bind_desk.card.completion import Completion
    from avrin.editor.completion import Entry

__all__ = ["RuleEdit"]

MOST_LINES = 6
PAD = 5  # pixels above and below the text
TOKENS = re.compile(
    r'(?P<text>"(?:\\.|[^"\\])*")|(?P<number>\b\d+(?:\.\d+)?(?:%|(?:ms|min|s)\b)?)'
    rf"|(?P<word>\b(?:{'|'.join((*JOINING_WORDS, *VALUE_WORDS))})\b)|(?P<call>\b[^\W\d]\w*(?=\())"
)


class RuleEdit(KeepsEscape, QPlainTextEdit):
    """Edits a rule or a template. Enter and Tab leave it; the window's undo works in it."""

    edited = Signal(str)
    exited = Signal()
    undo_wanted = Signal()
    redo_wanted = Signal()

    def __init__(self, name: str, editor: Editor, *, template: bool = False) -> None:
        super().__init__()
        self.editor = editor
        self.template = template
        self._completion: Completion | None = None
        self._error: AvrinError | None = None
        self._setting = False
        self._text = ""
        self._colours = _Colours(self.document(), template)
        self.setAccessibleName(name)
        self.setFont(mono())
        self.setUndoRedoEnabled(False)  # one history for the whole window
        self.setTabChangesFocus(True)
        self.setWordWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.document().setDocumentMargin(0)
        self.setViewportMargins(8, PAD, 8, PAD)
        self.setPalette(groundless())
        self.setFrameShape(QPlainTextEdit.Shape.NoFrame)
        if template:
            value = own_example("hull", editor.now.project)
            self.setPlaceholderText(f"text, with values in braces: {{{value}}}")
        self.textChanged.connect(self._changed)
        self._fit()

    def show_rule(self, text: str) -> None:
        """Show a rule; the caret keeps its position while the user types."""
        if text != self.toPlainText():
            self._setting = True
            at = self.textCursor().position()
            self.setPlainText(text)
            cursor = self.textCursor()
            cursor.setPosition(min(at, units_before(text, len(text))))
            self.setTextCursor(cursor)
            self._setting = False
            self._fit()

    def show_error(self, error: AvrinError | None) -> None:
        """Underline an error, or None."""
        if error is not self._error:
            self._error = error
            self._colours.mark(error.span if isinstance(error, RuleError) else None)
            self.viewport().update()
            self.update()

    def _changed(self) -> None:
        if "\n" in self.toPlainText():  # pasted lines are joined, which calls this again
            at = self.textCursor().position()
            self.setPlainText(self.toPlainText().replace("\n", " "))
            cursor = self.textCursor()
            cursor.setPosition(at)
            self.setTextCursor(cursor)
            return
        self._fit()
        # Qt reports highlighting as a change; only a different text counts.
        text = self.toPlainText()
        if text != self._text:
            self._text = text
            if not self._setting:
                self.edited.emit(text)

    def _fit(self) -> None:
        """Resize to the text's height."""
        lines = max(1, min(MOST_LINES, int(self.document().size().height())))
        height = round(lines * QFontMetricsF(self.font()).lineSpacing()) + 2 * PAD + 1
        if height != self.height():
            self.setFixedHeight(height)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def sizeHint(self) -> QSize:
        return QSize(200, self.height())

    # -- completion and values --------------------------------------------------------------------------------------

    @property
    def completion(self) -> Completion:
        """The completion list, created on first use."""
        if self._completion is None:
            from avrin.app.bind_desk.card.completion import Completion  # late: 5 ms

            self._completion = Completion(self.editor, self._take)
            self.destroyed.connect(self._completion.deleteLater)  # its parent is the window, which remains
        return self._completion

    @property
    def caret(self) -> int:
        """Return the number of characters before the caret."""
        return characters_before(self.toPlainText(), self.textCursor().position())

    @property
    def marked(self) -> tuple[int, int]:
        """Return the selected characters as start and end; equal without a selection."""
        text, cursor = self.toPlainText(), self.textCursor()
        return characters_before(text, cursor.selectionStart()), characters_before(text, cursor.selectionEnd())

    def _offered(self, key: int) -> bool:
        """Return whether a key was handled by the completion list."""
        return self._completion is not None and self._completion.key(key)

    def _withdraw(self) -> None:
        if self._completion is not None:
            self._completion.hide()

    def offer(self, *, asked: bool = False) -> None:
        """Show completions at the caret. asked: even if nothing is typed."""
        begun = word_before(self.toPlainText(), self.caret, template=self.template)
        if begun is None or (not begun and not asked):
            self._withdraw()
            return
        corner = self.cursorRect().bottomLeft()
        window = self.window()
        self.completion.offer(begun, window, self.viewport().mapTo(window, corner))

    def _take(self, entry: Entry) -> None:
        """Insert an entry in place of the typed text; for a function with brackets, and the caret between them."""
        cursor = self.textCursor()
        begun = word_before(self.toPlainText(), self.caret, template=self.template) or ""
        for _ in begun:
            cursor.deletePreviousChar()
        text = self.toPlainText()
        after = text[characters_before(text, cursor.position()) :]
        call = entry.call and not after.startswith("(")
        icon = entry.text.startswith("@") and not after.startswith("}")
        cursor.insertText(entry.text + ("()" if call else "}" if icon else ""))
        if call:
            cursor.movePosition(QTextCursor.MoveOperation.Left)
        self.setTextCursor(cursor)
        self._withdraw()

    def value_at(self, point: QPoint) -> str:
        """Return the sub-expression at a point of the viewport with its current value; "" for none."""
        cursor = self.cursorForPosition(point)
        at = characters_before(self.toPlainText(), cursor.position())
        if point.x() < self.cursorRect(cursor).left():
            at -= 1  # the caret goes to the nearer side of a character; the character itself is meant
        part = part_at(self.toPlainText(), at, template=self.template)
        if part is None:
            return ""
        try:
            step = self.editor.now.bound.scope.rule(part.rule)
        except RuleError:
            return ""
        return f"{part.rule} = {format_value(self.editor.now.tracks.value(step, self.editor.now.frame))}"

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            told = self.value_at(event.pos())
            if told:
                QToolTip.showText(event.globalPos(), told, self)
            else:
                QToolTip.hideText()
            return True
        return super().viewportEvent(event)

    def event(self, event: QEvent) -> bool:
        """Let Tab go to the next field, or accept a completion."""
        if (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Tab
            and self._offered(event.key())
        ):
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._offered(event.key()):
            return
        if event.key() == Qt.Key.Key_Space and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.offer(asked=True)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.exited.emit()
        elif event.matches(QKeySequence.StandardKey.Undo):
            self.undo_wanted.emit()
        elif event.matches(QKeySequence.StandardKey.Redo):
            self.redo_wanted.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self.clearFocus()
        else:
            before = self.toPlainText()
            super().keyPressEvent(event)
            if self.toPlainText() != before:
                self.offer()
            elif event.text() or event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End):
                self._withdraw()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if parent := self.parentWidget():
            parent.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._withdraw()
        self.exited.emit()
        if parent := self.parentWidget():
            parent.update()

    def paint_frame(self, painter: QPainter) -> None:
        """Paint the field's background and edge, called by its parent widget."""
        t = theme()
        colour = t.critical if self._error is not None else t.accent if self.hasFocus() else t.line
        painter.setPen(QPen(colour, 2 if self.hasFocus() else 1))
        painter.setBrush(t.raised)
        painter.drawRoundedRect(self.geometry().toRectF().adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)


class _Colours(QSyntaxHighlighter):
    """Highlights tokens quietly and underlines the error."""

    def __init__(self, document: QTextDocument, template: bool) -> None:
        super().__init__(document)
        self._template = template
        self._span: tuple[int, int] | None = None
        t = theme()
        text = QColor("#8a5a16") if not t.dark else QColor("#dcb06a")
        self._inks = {"text": text, "number": t.ink, "word": t.accent, "call": t.accent}

    def mark(self, span: tuple[int, int] | None) -> None:
        """Underline these characters."""
        self._span = span
        self.rehighlight()

    def _ink(self, text: str, match: re.Match[str], ink: str) -> None:
        start, end = (units_before(text, at) for at in match.span())
        self.setFormat(start, end - start, self._inks[ink])

    def highlightBlock(self, text: str) -> None:
        if self._template:
            for match in re.finditer(r"\{[^{}]*\}", text):
                self._ink(text, match, "word")
        else:
            for match in TOKENS.finditer(text):
                self._ink(text, match, str(match.lastgroup))
        if self._span is None:
            return
        from PySide6.QtGui import QTextCharFormat  # late: 4 ms

        first = min(self._span[0], max(0, len(text) - 1))
        start, end = (units_before(text, at) for at in (first, max(first + 1, min(self._span[1], len(text)))))
        for at in range(start, end):
            marked = self.format(at)
            marked.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            marked.setUnderlineColor(theme().critical)
            marked.setForeground(theme().critical)
            self.setFormat(at, 1, marked)
