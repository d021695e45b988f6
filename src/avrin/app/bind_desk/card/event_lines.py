"""An event on the card: its name, the rules it is derived by, its arguments and note; declared from the recording."""

from __future__ import annotations

from collections.abc import Callable
from typing import get_args

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avrin.app.bind_desk.card.line import Line
from avrin.app.bind_desk.card.rule_row import RuleRow
from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.link import Link
from avrin.app.services.editor import Editor
from avrin.binding.event_kinds import event_declared, event_renamed, event_undeclared
from avrin.binding.places import RulePlace
from avrin.editor.edits import edit, seal
from avrin.editor.selecting import select_variable
from avrin.errors import AvrinError
from avrin.project.project import EventKind, Project, VariableType
from avrin.storage.files import check_name
from avrin.trace.frames import event_column

__all__ = ["EventLines"]


class EventLines(QWidget):
    """Each field is one edit."""

    rules_wanted = Signal()  # for when it happens

    def __init__(self, editor: Editor, name: str, *, derives: bool = False) -> None:
        """derives: whether it has fields for rules although it has no rule yet."""
        super().__init__()
        self.rows: list[RuleRow] = []
        self.derives = False
        self.editor = editor
        self.event_name = name
        self.declared = next((one for one in editor.now.project.events if one.name == name), None)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(6)
        if self.declared is None:
            self._line("", Link("declare it", self._declare, bold=True), spaced=True)
            return
        self.name = self._field("name of the event", name, 180, self._rename)
        self._line("name", self.name, Link("undeclare it", self._undeclare, bold=True))
        self.derives = derives or bool(self.declared.when or self.declared.values)
        if self.derives:
            self._add_rules(self.declared)
        else:
            more = Link("+ when it happens, by a rule", self._derive, bold=True)
            more.setToolTip("Derives the event from variables, for recordings that do not contain it")
            self._line("when", more, spaced=True)
        self.types: dict[str, Choice] = {}
        for arg, type_ in self.declared.args.items():
            choice = self.types[arg] = Choice(f"type of {arg}", get_args(VariableType))
            choice.show_value(type_)
            choice.taken.connect(lambda value, arg=arg: self._typed(arg, value))
            away = Link("×", lambda arg=arg: self._typed(arg, None))  # type: ignore[misc]
            away.setToolTip(f"Removes the argument {arg}")
            self._line(arg, choice, away, spaced=True)
            if self.derives:
                self._add_rule("is", "values", arg)
        self.more = self._field("add an argument", "", 120, lambda text: self._typed(text.strip(), "float"))
        self.more.setPlaceholderText("add an argument")
        self._line("", self.more)
        self.note = self._field("note of the event", self.declared.note, 300, self._noted)
        self.note.setPlaceholderText("meaning")
        self._line("note", self.note)

    def _field(self, name: str, text: str, wide: int, taken: Callable[[str], None]) -> Field:
        field = Field(name, wide)
        field.show_text(text)
        field.taken.connect(taken)
        field.exited.connect(self.setFocus)
        return field

    def _line(self, label: str, first: QWidget, last: QWidget | None = None, *, spaced: bool = False) -> None:
        line = Line(label, level=True)
        if spaced:
            line.row.addSpacing(-7)  # texts have padding
        line.row.addWidget(first)
        line.row.addStretch(1)
        if last is not None:
            line.row.addWidget(last)
        self._column.addWidget(line)

    def _edit_event(self, what: str, change: Callable[[Project], Project], field: Field | None = None) -> bool:
        editor = self.editor
        try:
            project = change(editor.now.project)
        except AvrinError as error:
            if field is not None:
                field.mark(True)
            editor.say(str(error), error=True)
            return False
        editor.do(seal)
        editor.do(edit, project, f"{what} of {self.event_name}")
        return True

    def _add_rules(self, declared: EventKind) -> None:
        """Add the fields of a derived event: when it happens, how often, and for which slots."""
        self._add_rule("when", "when")
        self._add_rule("times", "times")
        self.rows[-1].edit.setPlaceholderText("1")
        rosters = [roster.name for roster in self.editor.now.project.rosters]
        if rosters or declared.over:
            self.over = Choice(
                "slots of the event", ["", *dict.fromkeys([*rosters, declared.over] if declared.over else rosters)]
            )
            self.over.show_value(declared.over)
            self.over.setToolTip("A roster whose slots each have the event; rules then know slot")
            self.over.taken.connect(
                lambda name: self._edit_event("slots", lambda project: self._with(project, over=str(name)))
            )
            self._line("each of", self.over, spaced=True)

    def _add_rule(self, label: str, part: str, name: str = "") -> None:
        row = RuleRow(self.editor, RulePlace("event", self.event_name, part, name), label, chips=False)
        self.rows.append(row)
        self._column.addWidget(row)

    def _derive(self) -> None:
        self.rules_wanted.emit()

    def refresh(self) -> None:
        """Update the rules' results for the playhead."""
        editor = self.editor
        for row in self.rows:
            row.show_values(editor.now.bound.event_rules.get(row.place))

    def _declare(self) -> None:
        recorded = self.editor.now.recorded
        self._edit_event("declaration", lambda project: event_declared(project, recorded, self.event_name))

    def _undeclare(self) -> None:
        self._edit_event("declaration", lambda project: event_undeclared(project, self.event_name))

    def _rename(self, text: str) -> None:
        new = text.strip()
        if self._edit_event("name", lambda project: event_renamed(project, self.event_name, new), self.name):
            self.editor.do(select_variable, event_column(new))

    def _noted(self, text: str) -> None:
        self._edit_event("note", lambda project: self._with(project, note=text.strip()))

    def _typed(self, arg: str, type_: str | None) -> None:
        """Set or remove an argument's type."""
        assert self.declared is not None
        args = {key: one for key, one in self.declared.args.items() if key != arg or type_ is not None}
        values = {key: rule for key, rule in self.declared.values.items() if key in args}
        variable = self.editor.now.variable(arg)
        if type_ is not None:
            new = arg not in args and variable is not None
            args[arg] = variable.type if new and variable is not None else type_  # type: ignore[assignment]
            if new and self.derives:  # an argument named like a variable has its value
                values[arg] = arg

        def made(project: Project) -> Project:
            check_name(arg, ())
            return self._with(project, args=args, values=values)

        self._edit_event(f"argument {arg}", made, self.more)

    def _with(self, project: Project, **fields: object) -> Project:
        def changed(event: EventKind) -> EventKind:
            return replace(event, **fields) if event.name == self.event_name else event

        return replace(project, events=tuple(map(changed, project.events)))
