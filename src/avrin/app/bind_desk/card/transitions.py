"""A widget's enter and leave transitions and its pop on the card."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avrin.app.bind_desk.card.line import Line
from avrin.app.bind_desk.card.rule_row import RuleRow
from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.number_field import NumberField
from avrin.app.services.editor import Editor
from avrin.binding.places import RulePlace
from avrin.editor.edits import seal, set_widget
from avrin.edits.typed import NumberInput, value_text
from avrin.project.project import Passage, Pop, Widget

__all__ = ["Transitions"]

HOW = {"at once": "", "fading": "fade", "sliding": "slide", "growing": "grow"}
INPUTS = {
    "seconds": NumberInput("a time of 0.001 to 60 seconds", "0.2", unit="s", low=0.001, high=60),
    "size": NumberInput("a size of 0.01 to 10", "1.5", low=0.01, high=10),
}


class Transitions(QWidget):
    """row: the rule of its pop, None without one."""

    chosen = Signal(str)  # a chip was pressed

    def __init__(self, editor: Editor, ident: str) -> None:
        super().__init__()
        self.editor = editor
        self.ident = ident
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.choices: dict[str, Choice] = {}
        self.fields: dict[tuple[str, str], Field] = {}
        self.row: RuleRow | None = None
        ways = Line("comes", level=True)
        ways.setToolTip("How it enters and leaves the screen, and in how many seconds")
        ways.row.addSpacing(-7)  # a choice has padding around its text
        self._way(ways, "enter", "comes")
        ways.row.addSpacing(10)
        ways.row.addWidget(text_label("goes"))
        self._way(ways, "leave", "goes")
        ways.row.addStretch(1)
        column.addWidget(ways)
        if self._widget.pop is not None:
            self.row = RuleRow(editor, RulePlace("widget", ident, "pop", "when"), "pops when")
            self.row.setToolTip("Whenever this turns true it jumps to another size and shrinks back")
            self.row.chosen.connect(self.chosen)
            column.addWidget(self.row)
            sizes = Line("", level=True)
            self._number(sizes, "pop", "size", "to", "times its size")
            self._number(sizes, "pop", "seconds", "for", "s")
            sizes.row.addStretch(1)
            column.addWidget(sizes)
        self.refresh()

    @property
    def _widget(self) -> Widget:
        return self.editor.now.project.widget(self.ident)

    def _way(self, line: Line, part: str, label: str) -> None:
        choice = self.choices[part] = Choice(f"{label}", list(HOW))
        choice.taken.connect(lambda word: self._go(part, HOW[str(word)]))
        line.row.addWidget(choice)
        self._number(line, part, "seconds", "", "s")

    def _number(self, line: Line, part: str, name: str, before: str, after: str) -> None:
        field = self.fields[part, name] = NumberField(f"{part} {name}", 44, INPUTS[name], self.editor.show_error)
        field.entered.connect(partial(self._take, part, name))
        field.exited.connect(self.setFocus)
        for word in (before, field, after):
            if isinstance(word, str) and word:
                label = text_label(word)
                line.row.addWidget(label)
                line.row.addSpacing(4)
                field.setProperty("unit", label)
            elif isinstance(word, QWidget):
                line.row.addWidget(word)

    def refresh(self) -> None:
        """Show the current state."""
        widget = next((one for one in self.editor.now.project.widgets if one.id == self.ident), None)
        if widget is None:
            return
        for part, choice in self.choices.items():
            passage = getattr(widget, part)
            how = passage.how if passage is not None else ""
            choice.show_value(next(word for word, known in HOW.items() if known == how))
        for (part, name), field in self.fields.items():
            value = getattr(widget, part)
            field.setVisible(value is not None)
            field.property("unit").setVisible(value is not None)
            field.show_text(value_text(getattr(value, name)) if value is not None else "")

    def _go(self, part: str, how: str) -> None:
        now = getattr(self._widget, part)
        self._set_part(part, None if not how else replace(now or Passage(), how=how))

    def _take(self, part: str, name: str, value: float) -> None:
        self._set_part(part, replace(getattr(self._widget, part), **{name: value}))

    def _set_part(self, part: str, value: Passage | Pop | None) -> None:
        self.editor.do(seal)
        said = {"enter": "enter transition", "leave": "leave transition", "pop": "pop"}[part]
        self.editor.do(set_widget, replace(self._widget, **{part: value}), f"{said}, {self._widget.title}")
