"""The card of several selected widgets: their names, and commands for all of them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avrin.app.bind_desk.card.line import Line
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.services.editor import Editor
from avrin.editor.arranging import (
    align,
    distribute,
    duplicate,
    grid,
    group,
    hide_selected,
    lock_selected,
    order,
    remove,
    same_size,
    ungroup,
)
from avrin.edits.order import STEPS
from avrin.edits.placing import WAYS

__all__ = ["Several"]

A_LINE = 3  # names per row
MAX_NAMES = 24  # names shown


class Several(QWidget):
    """Links; each is one undo step."""

    one_wanted = Signal(str)

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        do, doing = editor.do, editor.doing
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(text_label(f"{len(editor.now.chosen)} widgets", "ink", "title", bold=True))
        column.addSpacing(4)
        for name, words in (
            ("align", {way: partial(do, align, way) for way in WAYS}),
            ("distribute", {"horizontally": partial(do, distribute, across=True),
                            "vertically": partial(do, distribute, across=False)}),
            ("same", {"width": partial(do, same_size, wide=True), "height": partial(do, same_size, high=True)}),
            ("order", {step: partial(do, order, step) for step in STEPS}),
            ("together", {"group": doing(group), "ungroup": doing(ungroup)}),
            ("these", {"duplicate": doing(duplicate), "hide": doing(hide_selected),
                       "lock": doing(lock_selected), "remove": doing(remove)}),
        ):  # fmt: skip
            line = Line(name, level=True)
            line.row.addSpacing(-7)  # a link has padding around its text
            for word, act in words.items():
                line.row.addWidget(Link(word, act, bold=True))
            line.row.addStretch(1)
            column.addWidget(line)
        line = Line("grid", level=True)
        self.columns = Field("columns of the grid", 44)
        self.columns.setPlaceholderText("4")
        self.columns.taken.connect(lambda text: self._grid(editor, text))
        line.row.addWidget(self.columns)
        line.row.addWidget(text_label("  per row, starting at the first one's corner"))
        line.row.addStretch(1)
        column.addWidget(line)
        column.addSpacing(4)
        names = QVBoxLayout()
        names.setSpacing(0)
        self._names(names, editor)
        column.addLayout(names)

    def _names(self, column: QVBoxLayout, editor: Editor) -> None:
        chosen = editor.now.chosen
        for at in range(0, min(len(chosen), MAX_NAMES), A_LINE):
            line = Line("which" if not at else "", level=True)
            line.row.addSpacing(-7)
            for ident in chosen[at : at + A_LINE]:
                title = editor.now.project.widget(ident).title
                line.row.addWidget(Link(title, partial(self.one_wanted.emit, ident)))
            line.row.addStretch(1)
            column.addWidget(line)
        if len(chosen) > MAX_NAMES:
            line = Line()
            line.row.addWidget(text_label(f"and {len(chosen) - MAX_NAMES} more"))
            column.addWidget(line)

    def _grid(self, editor: Editor, text: str) -> None:
        if text.strip().isdigit() and 0 < int(text) <= len(editor.now.chosen):
            editor.do(grid, int(text))
        else:
            self.columns.mark(True)
            editor.say(f"'{text}' is not a number of widgets per row.  Write for example 4", error=True)
