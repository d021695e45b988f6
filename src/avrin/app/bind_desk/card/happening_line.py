"""The line of a variable's card that makes an event of what the variable does."""

from __future__ import annotations

from functools import partial

from avrin.app.bind_desk.card.line import Line
from avrin.app.controls.link import Link
from avrin.app.services.editor import Editor
from avrin.binding.event_kinds import Happening
from avrin.editor.edits import derive_event

__all__ = ["HappeningLine"]


class HappeningLine(Line):
    """A link for each thing a variable can do; hidden for other names."""

    def __init__(self, editor: Editor, name: str) -> None:
        super().__init__("event", level=True)
        variable = editor.now.variable(name) or editor.now.undeclared(name)
        words: dict[Happening, str] = {"changes": "when it changes"}
        if variable is not None and variable.type != "text":
            number = variable.type in ("int", "float")
            words |= {"rises": "rises" if number else "turns true", "falls": "falls" if number else "turns false"}
        self.row.addSpacing(-7)  # a link has padding around its text
        for happening, text in words.items():
            link = Link(text, partial(editor.do, derive_event, name, happening), bold=True)
            link.setToolTip("Makes an event of it, for feeds, counts and rules")
            self.row.addWidget(link)
        self.row.addStretch(1)
        if variable is None:
            self.hide()
