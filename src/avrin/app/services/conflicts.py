"""Conflicts of a merge, asked one after the other: ours or theirs. Each answer is an undo step."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from avrin.app.services.editor import Editor
from avrin.app.services.journaling import Ask
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal
from avrin.editor.selecting import select_widget
from avrin.errors import AvrinError
from avrin.project.project import Conflict
from avrin.storage.merge import conflict_title, resolved, value_words

__all__ = ["Conflicts"]

KEY = "conflict"


class Conflicts(QObject):
    """Asks about the project's first conflict until there is none; an undone answer is asked again."""

    asked = Signal(object)  # an Ask
    answered = Signal(str)  # the key of a question that needs no answer any more

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self._shown: Conflict | None = None
        editor.follow("conflicts", self)

    def on_change(self, _change: Change) -> None:
        """Ask about the first conflict."""
        found = self._editor.now.project.conflicts
        first = found[0] if found else None
        if first == self._shown:
            return
        self._shown = first
        if first is None:
            self.answered.emit(KEY)
            return
        more = f", 1 of {len(found)}" if len(found) > 1 else ""
        self.asked.emit(
            Ask(
                KEY, f"Changed by both{more}: {conflict_title(first)}",
                (
                    (f"ours: {value_words(first.ours)}", lambda: self._choose(first, theirs=False)),
                    (f"theirs: {value_words(first.theirs)}", lambda: self._choose(first, theirs=True)),
                ),
            )
        )  # fmt: skip

    def _choose(self, conflict: Conflict, *, theirs: bool) -> None:
        editor = self._editor
        try:
            project = resolved(editor.now.project, conflict, theirs=theirs)
        except AvrinError as error:
            editor.say(str(error), error=True)
            return
        editor.do(seal)
        editor.do(edit, project, f"{'theirs' if theirs else 'ours'}: {conflict_title(conflict)}")
        ident = conflict.at[1] if conflict.at[:1] == ("widgets",) and len(conflict.at) > 1 else ""
        if any(widget.id == ident for widget in project.widgets):
            editor.do(select_widget, ident)
