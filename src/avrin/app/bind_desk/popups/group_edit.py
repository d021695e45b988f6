"""Edit a group in a popup: its name, parent, visibility, opacity and offset."""

from __future__ import annotations

from functools import partial
from typing import Literal

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QGridLayout, QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.popup import Popup
from avrin.app.services.editor import Editor
from avrin.binding.places import RulePlace
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal
from avrin.edits.groups import group_changed, group_holds, group_renamed
from avrin.edits.identity import ungrouped
from avrin.edits.typed import PIXELS
from avrin.errors import AvrinError
from avrin.project.numbers import counted
from avrin.project.project import Group

__all__ = ["GroupEdit"]

Rule = Literal["visible", "opacity"]


class GroupEdit(Popup):
    """Each field is one edit."""

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.ident = ""
        self.name = Field("name of the group", 150)
        self.name.taken.connect(self._rename)
        self.rules: dict[Rule, Field] = {"visible": Field("visible while", 236), "opacity": Field("opacity", 236)}
        self.rules["visible"].setPlaceholderText("always")
        self.rules["opacity"].setPlaceholderText("1")
        for rule, field in self.rules.items():
            field.taken.connect(partial(self._ruled, rule))
        self.offset = tuple(NumberField(f"offset {side}", 70, PIXELS, editor.show_error) for side in ("right", "down"))
        for axis, field in enumerate(self.offset):
            field.entered.connect(partial(self._moved, axis))
        for field in (self.name, *self.rules.values(), *self.offset):
            field.exited.connect(self.setFocus)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(16, 10, 12, 12)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(6)
        self.outer = Choice("inside", [""])
        self.outer.taken.connect(lambda value: self._edit_group("group", group=str(value)))
        self._title = text_label("", "ink", bold=True)
        self._grid.addWidget(self._title, 0, 0, 1, 4)
        for at, (said, part) in enumerate(
            (("name", self.name), ("visible while", self.rules["visible"]), ("solid", self.rules["opacity"])), start=1
        ):
            self._grid.addWidget(text_label(said, size="small"), at, 0)
            self._grid.addWidget(part, at, 1, 1, 3, Qt.AlignmentFlag.AlignLeft)
        self._grid.addWidget(text_label("offset", size="small"), 4, 0)
        self._grid.addWidget(self.offset[0], 4, 1)
        self._grid.addWidget(self.offset[1], 4, 2)
        self._grid.addWidget(text_label("inside", size="small"), 5, 0)
        self._grid.addWidget(self.outer, 5, 1, 1, 3, Qt.AlignmentFlag.AlignLeft)
        self._grid.addWidget(Link("dissolve it", self._dissolve, bold=True), 6, 1)
        self._grid.addWidget(Link("done", self.close_it, bold=True), 6, 3)
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show the group as it is now."""
        if change.of("tracks"):
            self._show()

    @property
    def _group(self) -> Group | None:
        return next((group for group in self.editor.now.project.groups if group.id == self.ident), None)

    def open_for(self, ident: str) -> None:
        """Edit a group by id, in the centre of the picture."""
        self.ident = ident
        self._show()
        self.adjustSize()
        parent = self.parentWidget()
        assert parent is not None
        self.move(QPoint((parent.width() - self.width()) // 2, max(8, parent.height() // 3 - self.height() // 2)))
        self.show()
        self.raise_()
        self.name.setFocus()
        self.name.selectAll()

    def _show(self) -> None:
        group, editor = self._group, self.editor
        if group is None:
            self.hide()
            return
        count = sum(group_holds(editor.now.project, group.id, widget.group) for widget in editor.now.project.widgets)
        self._title.setText(f"Group of {counted(count, 'widget')}")
        self.name.show_text(group.id)
        for part, field in self.rules.items():
            field.show_text(getattr(group, part))
            field.mark(RulePlace("group", group.id, part) in editor.now.bound.errors)
        for field, number in zip(self.offset, group.offset, strict=True):
            field.show_text(f"{number:g}")
        others = [one.id for one in editor.now.project.groups if not group_holds(editor.now.project, group.id, one.id)]
        self.outer.offer(["", *others])
        self.outer.show_value(group.group)

    def _rename(self, text: str) -> None:
        was, editor = self.ident, self.editor
        try:
            made = group_renamed(editor.now.project, was, text)
        except AvrinError as error:
            self.name.mark(True)
            editor.say(str(error), error=True)
            return
        at = [group.id for group in editor.now.project.groups].index(was)
        self.ident = made.groups[at].id
        editor.do(seal)
        editor.do(edit, made, f"name of group {was}")

    def _ruled(self, part: Rule, text: str) -> None:
        self._edit_group(part, **{part: text.strip()})
        error = self.editor.now.bound.errors.get(RulePlace("group", self.ident, part))
        if text.strip() and error is not None:
            self.editor.say(str(error), error=True)

    def _moved(self, axis: int, number: float) -> None:
        group = self._group
        assert group is not None
        self._edit_group("offset", offset=(number, group.offset[1]) if axis == 0 else (group.offset[0], number))

    def _edit_group(self, what: str, **fields: object) -> None:
        editor = self.editor
        try:
            made = group_changed(editor.now.project, self.ident, **fields)
        except AvrinError as error:
            editor.say(str(error), error=True)
            return
        editor.do(seal)
        editor.do(edit, made, f"{what} of group {self.ident}")

    def _dissolve(self) -> None:
        editor = self.editor
        inside = [widget.id for widget in editor.now.project.widgets if widget.group == self.ident]
        editor.do(seal)
        editor.do(edit, ungrouped(editor.now.project, inside), f"dissolve group {self.ident}")
        self.close_it()
