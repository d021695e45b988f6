"""Comments in a popup: write one about the selected widget at the playhead; list, visit, resolve and remove them."""

from __future__ import annotations

from datetime import date
from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup
from avrin.app.controls.scroller import thin_bars
from avrin.app.services.editor import Editor
from avrin.app.services.traces import Traces
from avrin.editor.changes import Change
from avrin.editor.comments import comment, comment_here, comment_place, remove_comment, resolve_comment, visit_comment
from avrin.errors import AvrinError
from avrin.project.project import Comment
from avrin.storage.author import author

__all__ = ["CommentsEdit"]

WIDE, HIGH = 440, 300  # pixels; the list scrolls beyond that


class CommentsEdit(Popup):
    """Each entry is one edit."""

    def __init__(self, editor: Editor, traces: Traces, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor, self._traces = editor, traces
        self._shown: object = None
        self.field = Field("new comment", WIDE - 28)
        self.field.returnPressed.connect(self._add)  # a half-written comment waits while a moment is looked for
        self.field.exited.connect(self.setFocus)
        self.about = text_label(size="small")
        self.list = QScrollArea()
        self.list.setWidgetResizable(True)
        self.list.setFrameShape(QScrollArea.Shape.NoFrame)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        thin_bars(self.list)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        column.setSpacing(6)
        for part in (self.about, self.field, self.list):
            column.addWidget(part)
        last = QHBoxLayout()
        last.addStretch(1)
        last.addWidget(Link("done", self.close_it, bold=True))
        column.addLayout(last)
        self.setFixedWidth(WIDE)
        editor.follow("popups", self)

    def on_change(self, _change: Change) -> None:
        """Show the comments, and what a new one would be about."""
        if self.isVisible():
            self._show()

    def open_it(self) -> None:
        """Open in the lower left of the picture, ready to write."""
        self._show()
        parent = self.parentWidget()
        assert parent is not None
        self.move(parent.mapFromGlobal(parent.mapToGlobal(QPoint(24, 64))))
        self.show()
        self.raise_()
        self.field.setFocus()

    def _show(self) -> None:
        now = self.editor.now
        self.about.setText(f"About {comment_place(now, comment_here(now))}; Enter adds it")
        shown = (now.project.comments, tuple(comment_place(now, one) for one in now.project.comments))
        if shown == self._shown:
            return
        self._shown = shown
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 4, 8, 0)
        column.setSpacing(2)
        # The open ones first, the newest at the top: a new one is seen at once.
        for number, one in sorted(enumerate(now.project.comments), key=lambda pair: (pair[1].resolved, -pair[0])):
            column.addLayout(self._line(number, one))
        if not now.project.comments:
            column.addWidget(text_label("There are no comments yet.", size="small"))
        column.addStretch(1)
        old = self.list.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()  # the edit may come from one of its links
        self.list.setWidget(body)
        self.list.setFixedHeight(min(HIGH, body.sizeHint().height() + 6))
        self.adjustSize()

    def _line(self, number: int, one: Comment) -> QVBoxLayout:
        who = ", ".join(part for part in (one.author, one.date) if part)
        text = text_label(one.text, "third" if one.resolved else "ink", wrap=True)
        text.setTextFormat(Qt.TextFormat.PlainText)
        text.setContentsMargins(7, 0, 0, 0)  # as in the field, and as a link has around its text
        acts = QHBoxLayout()
        acts.setContentsMargins(0, 0, 0, 6)
        acts.setSpacing(4)
        acts.addWidget(Link(comment_place(self.editor.now, one), partial(self._visit, number), bold=True))
        acts.addWidget(text_label(who, size="small"))
        acts.addStretch(1)
        word = "reopen" if one.resolved else "resolve"
        acts.addWidget(
            Link(word, lambda: self.editor.do(resolve_comment, number, resolved=not one.resolved), bold=True)
        )
        acts.addWidget(Link("×", partial(self.editor.do, remove_comment, number)))
        both = QVBoxLayout()
        both.setSpacing(0)
        both.addWidget(text)
        both.addLayout(acts)
        return both

    def _add(self) -> None:
        if not self.field.text().strip():
            return
        try:
            self.editor.do(comment, self.field.text(), author(), date.today().isoformat())
        except AvrinError as error:
            self.field.mark(True)
            self.editor.say(str(error), error=True)
            return
        self.field.show_text("")

    def _visit(self, number: int) -> None:
        one = self.editor.now.project.comments[number]
        if (
            one.trace
            and one.trace != self.editor.now.trace_name
            and self.editor.now.project.recording(one.trace) is not None
        ):
            try:
                self._traces.show(one.trace)
            except AvrinError as error:
                self.editor.say(str(error), error=True)
                return
        self.editor.do(visit_comment, number)
