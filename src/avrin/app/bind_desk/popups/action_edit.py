"""Edit an action in a popup: its key, its label, and its assignments."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from avrin.app.bind_desk.card.rule_row import RuleRow
from avrin.app.controls.field import Field
from avrin.app.controls.key_link import KeyLink
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup, row
from avrin.app.services.editor import Editor
from avrin.binding.places import RulePlace
from avrin.editor.changes import Change
from avrin.editor.edits import edit
from avrin.editor.playback import set_playing
from avrin.editor.snapshot import sources
from avrin.edits.action_line import action_line, parse_action
from avrin.errors import AvrinError
from avrin.project.project import Action, Assignment
from avrin.rules.rename import renamed
from avrin.trace.frames import KIND_OF

__all__ = ["ActionEdit"]

WIDTH_PX = 600


class ActionEdit(Popup):
    """Each change is one edit of the project."""

    kept = Signal()  # a new action was added

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self._label = ""
        self._shown = -1  # number of rows, one per assignment
        self.rows: list[RuleRow] = []
        self.fields: dict[str, Field] = {}
        self.line: Field | None = None  # a new action in one line, while there is no action yet
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(16, 10, 12, 10)
        self._column.setSpacing(6)
        self.setFixedWidth(WIDTH_PX)
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show the action, or its values at the playhead."""
        if change.of("selection") and self.isVisible():
            self._take_variable()
        if change.of("tracks"):
            self._refresh()
        elif change.of("figures"):
            self._values()

    @property
    def action(self) -> Action | None:
        """The edited action."""
        return next((a for a in self.editor.now.project.actions if a.label == self._label), None)

    def open_for(self, label: str) -> None:
        """Edit an action; create one if the label is empty."""
        editor = self.editor
        editor.do(set_playing, False)  # typing must not advance the clock
        if not label:
            self._begin()
            return
        self._label = label
        self._shown = -1
        self._refresh()
        self.show()
        self.raise_()
        self._values()
        self.fields["label"].setFocus()
        self.fields["label"].selectAll()

    def _begin(self) -> None:
        """Ask for a new action in one line, beginning with the selected widget's variable; Enter keeps it."""
        editor = self.editor
        self._label, self._shown, self.rows = "", -1, []
        self._clear()
        self.line = Field("new action in one line", 400)
        self.line.returnPressed.connect(self._add_line)  # leaving the field, to press a lane, keeps nothing yet
        self.line.exited.connect(self.setFocus)
        self.line.setPlaceholderText("Hit  H  hull -20")
        self.line.setToolTip("Label, key, variable, change; press a lane to name its variable")
        self._add("new action", self.line, None, Link("done", self.close_it, bold=True))
        project = editor.now.project
        keys = {action.key.upper() for action in project.actions}
        key = next((k for k in "123456789" if k not in keys), "")
        name = self._first_variable()
        kind = KIND_OF[project.all_variables()[name].type] if name else ""
        self.line.show_text(action_line("", key, name, kind))
        self._settle()
        self.line.setFocus()
        self.line.setCursorPosition(0)

    def _first_variable(self) -> str:
        """Return the selected variable, a variable of the selected widget, or the first number."""
        now = self.editor.now
        known = now.project.all_variables()
        used = sources(now.widget) if now.widget is not None else []
        first = [v.name for v in now.project.variables if v.type in ("int", "float")]
        return next((name for name in (now.selection.variable, *used, *first) if name in known), "")

    def _add_line(self) -> None:
        """Add the action that the line describes, and close."""
        editor, line = self.editor, self.line
        if line is None:
            return
        text = line.text()
        labels = {action.label for action in editor.now.project.actions}
        try:
            action = parse_action(text, editor.now.project.all_variables(), labels)
            if action.key and (taken := self._user_of(action.key)):
                raise AvrinError(f"the key {action.key} is already used by {taken}", advice="Choose another key")
        except AvrinError as error:
            line.mark(True)
            editor.say(str(error), error=True)
            return
        self.close_it()
        editor.do(edit, replace(editor.now.project, actions=(*editor.now.project.actions, action)), "add action")
        self.kept.emit()

    def _user_of(self, key: str) -> str:
        return next((a.label for a in self.editor.now.project.actions if a.key.upper() == key.upper()), "")

    def _take_variable(self) -> None:
        """Name the variable whose lane was pressed."""
        name = self.editor.now.selection.variable
        known = self.editor.now.project.all_variables()
        if self.line is None or name not in known:
            return
        words = self.line.text().split()
        at = next((i for i in reversed(range(len(words))) if words[i] in known), len(words))
        self.line.show_text(" ".join((*words[:at], name, *words[at + 1 :])))
        self.line.setFocus()

    def close_it(self) -> None:
        self.line = None
        super().close_it()
        self._label = ""

    def _refresh(self) -> None:
        action = self.action
        if action is None:
            if self.line is None:
                self.hide()
            return
        if len(action.does) != self._shown:
            self._shown = len(action.does)
            self._build(action)
        self.fields["label"].show_text(action.label)
        self.fields["key"].show_text(action.key)
        for number, (change, rule) in enumerate(zip(action.does, self.rows, strict=True)):
            rule.place = RulePlace("action", action.label, "does", str(number))
            self.fields[f"set{number}"].show_text(change.set)
            target = RulePlace("action", action.label, "does", str(number), "set")
            self.fields[f"set{number}"].mark(target in self.editor.now.bound.errors)
            rule.show_text()
        self._values()
        self._settle()

    def _settle(self) -> None:
        """Show it at its size above the footer."""
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move(16, parent.height() - self.height() - 40)
        if self.line is not None:
            self.show()
            self.raise_()

    def _clear(self) -> None:
        while (item := self._column.takeAt(0)) is not None:
            if (part := item.widget()) is not None:
                part.hide()
                part.deleteLater()
        self.rows, self.fields = [], {}

    def _build(self, action: Action) -> None:
        self.line = None
        self._clear()
        key = self._field("key", 70, self._set_key)
        self._add(
            "key", key, KeyLink(key, self._set_key), "does",
            self._field("label", 200, self._set_label), None,
            Link("remove", self._remove), Link("done", self.close_it, bold=True),
        )  # fmt: skip
        for number in range(len(action.does)):
            rule = RuleRow(self.editor, RulePlace("action", action.label, "does", str(number)), "=", chips=False)
            rule.findChild(QLabel).setFixedWidth(14)  # type: ignore[union-attr]
            self.rows.append(rule)
            field = self._field(f"set{number}", 130, lambda text, n=number: self._set_target(n, text))
            self._add("set", field, rule, Link("×", lambda n=number: self._drop(n)))  # type: ignore[misc]
        self._add(Link("+ set another", self._another, bold=True), None)

    def _add(self, *parts: QWidget | str | None) -> None:
        line = QWidget()
        line.setLayout(row(*parts, wide=RuleRow))
        self._column.addWidget(line)
        line.show()  # a layout shows its items only later, and until then gives them no height

    def _field(self, name: str, width: int, take: object) -> Field:
        field = Field(name, width)
        field.taken.connect(take)
        field.exited.connect(self.setFocus)
        self.fields[name] = field
        return field

    def _values(self) -> None:
        action = self.action
        if action is None or not self.isVisible():
            return
        steps = dict(self.editor.now.bound.actions.get(action.label, ()))
        for change, rule in zip(action.does, self.rows, strict=True):
            rule.show_values(steps.get(change.set))

    # -- edits ------------------------------------------------------------------------------------------------------

    def _edit(self, changed: Action | None, label: str) -> None:
        project, old = self.editor.now.project, self._label
        actions = [changed if a.label == old else a for a in project.actions]
        if changed is not None:
            self._label = changed.label
        self.editor.do(edit, replace(project, actions=tuple(a for a in actions if a is not None)), label)

    def _set_label(self, text: str) -> None:
        action, text = self.action, text.strip()
        if action is None:
            return
        if not text or any(a.label == text for a in self.editor.now.project.actions):
            self.fields["label"].mark(True)
            self.editor.say("An action needs a label of its own", error=True)
            return
        self._edit(replace(action, label=text[:60]), f"label of {action.label}")

    def _set_key(self, text: str) -> None:
        action, key = self.action, QKeySequence(text.strip()).toString()
        if action is None:
            return
        taken = next((a.label for a in self.editor.now.project.actions if a.key == key and a is not action), "")
        if (text.strip() and not key) or (key and taken):
            self.fields["key"].mark(True)
            self.editor.say(
                f"The key {key} is already used by {taken}" if taken else f"'{text}' is not a key", error=True
            )
            return
        self._edit(replace(action, key=key), f"key of {action.label}")

    def _set_target(self, number: int, text: str) -> None:
        action = self.action
        if action is not None:
            name = text.strip()
            does = tuple(self._setting(c, name) if i == number else c for i, c in enumerate(action.does))
            self._edit(replace(action, does=does), f"what {action.label} sets")

    def _setting(self, change: Assignment, name: str) -> Assignment:
        """Return an assignment to another variable: with the same rule, or the default one if the type differs."""
        known = self.editor.now.project.all_variables()
        old, new = known.get(change.set), known.get(name)
        if old is None or new is None:
            return replace(change, set=name)
        alike = KIND_OF[old.type] == KIND_OF[new.type]
        return Assignment(set=name, to=renamed(change.to, change.set, name) if alike else self._usual_rule(name))

    def _usual_rule(self, name: str) -> str:
        """Return the default rule for a variable: one less, negated, or empty."""
        variable = self.editor.now.project.all_variables().get(name)
        kind = KIND_OF[variable.type] if variable is not None else "text"
        return {"number": f"{name} - 1", "flag": f"not {name}"}.get(kind, name)

    def _another(self) -> None:
        action = self.action
        if action is not None:
            name = next(iter(self.editor.now.project.all_variables()), "")
            does = (*action.does, Assignment(set=name, to=self._usual_rule(name) or "0"))
            self._edit(replace(action, does=does), f"{action.label} sets more")

    def _drop(self, number: int) -> None:
        action = self.action
        if action is not None:
            does = tuple(c for i, c in enumerate(action.does) if i != number)
            self._edit(replace(action, does=does), f"{action.label} sets less")

    def _remove(self) -> None:
        action = self.action
        if action is not None:
            self._edit(None, f"remove {action.label}")
            self.close_it()
