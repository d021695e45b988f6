"""An action edited in place, over the lanes' lower edge: its key, its label, and what it sets to which rule."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from avrin.app.bind_desk.card.rule_row import RuleRow
from avrin.app.controls.field import Field
from avrin.app.controls.key_link import KeyLink
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup, row
from avrin.app.session.session import Session
from avrin.model import Action, Change
from avrin.widgets import RulePlace

__all__ = ["ActionEdit"]

WIDE = 600


class ActionEdit(Popup):
    """Each change is an edit of the project, undone with one key."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self._label = ""
        self._shape: tuple[object, ...] = ()
        self.rows: list[RuleRow] = []
        self.fields: dict[str, Field] = {}
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(16, 10, 12, 10)
        self._column.setSpacing(6)
        self.setFixedWidth(WIDE)
        session.project_changed.connect(self._refresh)
        session.values_changed.connect(self._values)

    @property
    def action(self) -> Action | None:
        """The action that is edited."""
        return next((a for a in self.session.project.actions if a.label == self._label), None)

    def open_for(self, label: str) -> None:
        """Edit an action; a new one when it has no label yet."""
        session = self.session
        if not label:
            number = 1
            taken = {action.label for action in session.project.actions}
            while (label := f"Action {number}") in taken:
                number += 1
            keys = {action.key.upper() for action in session.project.actions}
            key = next((k for k in "123456789" if k not in keys), "")
            first = next((v.name for v in session.project.variables if v.type in ("int", "float")), "")
            does = (Change(set=first, to=f"{first} - 1"),) if first else ()
            self._label = label
            added = (*session.project.actions, Action(label=label, key=key, does=does))
            session.edit(replace(session.project, actions=added), "new action")
        self._label = label
        self._shape = ()
        self._refresh()
        self.show()
        self.raise_()
        self._values()
        self.fields["label"].setFocus()
        self.fields["label"].selectAll()

    def close_it(self) -> None:
        """Put it away."""
        self._label = ""
        self.hide()

    def _refresh(self) -> None:
        action = self.action
        if action is None:
            self.hide()
            return
        shape = (action.label, len(action.does))
        if shape != self._shape:
            self._shape = shape
            self._build(action)
        self.fields["label"].show_text(action.label)
        self.fields["key"].show_text(action.key)
        for number, (change, rule) in enumerate(zip(action.does, self.rows, strict=True)):
            self.fields[f"set{number}"].show_text(change.set)
            target = RulePlace("action", action.label, "does", str(number), "set")
            self.fields[f"set{number}"].mark(target in self.session.bound.errors)
            rule.show_text()
        self._values()
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move(16, parent.height() - self.height() - 40)

    def _build(self, action: Action) -> None:
        while (item := self._column.takeAt(0)) is not None:
            if (part := item.widget()) is not None:
                part.hide()
                part.deleteLater()
        self.rows, self.fields = [], {}
        key = self._field("key", 70, self._set_key)
        self._add(
            "key", key, KeyLink(key, self._set_key), "does",
            self._field("label", 200, self._set_label), None,
            Link("remove", self._remove), Link("done", self.close_it, bold=True),
        )  # fmt: skip
        for number in range(len(action.does)):
            rule = RuleRow(self.session, RulePlace("action", action.label, "does", str(number)), "=", chips=False)
            rule.findChild(QLabel).setFixedWidth(14)  # type: ignore[union-attr]
            self.rows.append(rule)
            field = self._field(f"set{number}", 130, lambda text, n=number: self._set_target(n, text))
            self._add("set", field, rule, Link("×", lambda n=number: self._drop(n)))  # type: ignore[misc]
        self._add(Link("+ set another", self._another, bold=True), None)

    def _add(self, *parts: QWidget | str | None) -> None:
        line = QWidget()
        line.setLayout(row(*parts, wide=RuleRow))
        self._column.addWidget(line)

    def _field(self, name: str, width: int, take: object) -> Field:
        field = Field(name, width)
        field.taken.connect(take)
        field.left.connect(self.setFocus)
        self.fields[name] = field
        return field

    def _values(self) -> None:
        action = self.action
        if action is None or not self.isVisible():
            return
        steps = dict(self.session.bound.actions.get(action.label, ()))
        for change, rule in zip(action.does, self.rows, strict=True):
            rule.show_values(steps.get(change.set))

    # -- edits ------------------------------------------------------------------------------------------------------

    def _edit(self, changed: Action | None, label: str) -> None:
        project, old = self.session.project, self._label
        actions = [changed if a.label == old else a for a in project.actions]
        if changed is not None:
            self._label = changed.label
        self.session.edit(replace(project, actions=tuple(a for a in actions if a is not None)), label)

    def _set_label(self, text: str) -> None:
        action, text = self.action, text.strip()
        if action is None:
            return
        if not text or any(a.label == text for a in self.session.project.actions):
            self.fields["label"].mark(True)
            self.session.said.emit("An action needs a label of its own", True)
            return
        self._edit(replace(action, label=text[:60]), f"label of {action.label}")

    def _set_key(self, text: str) -> None:
        action, key = self.action, QKeySequence(text.strip()).toString()
        if action is None:
            return
        taken = next((a.label for a in self.session.project.actions if a.key == key and a is not action), "")
        if (text.strip() and not key) or (key and taken):
            self.fields["key"].mark(True)
            self.session.said.emit(f"The key {key} is taken by {taken}" if taken else f"'{text}' is no key", True)
            return
        self._edit(replace(action, key=key), f"key of {action.label}")

    def _set_target(self, number: int, text: str) -> None:
        action = self.action
        if action is not None:
            does = tuple(replace(c, set=text.strip()) if i == number else c for i, c in enumerate(action.does))
            self._edit(replace(action, does=does), f"what {action.label} sets")

    def _another(self) -> None:
        action = self.action
        if action is not None:
            name = next(iter(self.session.project.all_variables()), "")
            self._edit(
                replace(action, does=(*action.does, Change(set=name, to=name or "0"))), f"{action.label} sets more"
            )

    def _drop(self, number: int) -> None:
        action = self.action
        if action is not None:
            does = tuple(c for i, c in enumerate(action.does) if i != number)
            self._edit(replace(action, does=does), f"{action.label} sets less")

    def _remove(self) -> None:
        action = self.action
        if action is not None:
            self._edit(None, f"removal of {action.label}")
            self.close_it()
