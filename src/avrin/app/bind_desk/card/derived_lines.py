"""A derived value on the card: its name, rule and note, and inlining it again."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avrin.app.bind_desk.card.line import Line
from avrin.app.bind_desk.card.rule_row import RuleRow
from avrin.app.controls.field import Field
from avrin.app.controls.link import Link
from avrin.app.services.editor import Editor
from avrin.binding.derived import without_derived
from avrin.binding.places import RulePlace
from avrin.editor.edits import edit, rename
from avrin.editor.selecting import select_variable
from avrin.errors import AvrinError

__all__ = ["DerivedLines"]


class DerivedLines(QWidget):
    """Each field is one edit."""

    def __init__(self, editor: Editor, name: str) -> None:
        super().__init__()
        self.editor = editor
        self.derived = next(one for one in editor.now.project.derived if one.name == name)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.name = Field("name of the derived value", 180)
        self.name.show_text(name)
        self.name.taken.connect(self._rename)
        self.name.exited.connect(self.setFocus)
        self.note = Field("note of the derived value", 306)
        self.note.show_text(self.derived.note)
        self.note.setPlaceholderText("purpose")
        self.note.taken.connect(self._noted)
        self.note.exited.connect(self.setFocus)
        self.rule = RuleRow(editor, RulePlace("derived", name), "is")
        line = Line("name", level=True)
        line.row.addWidget(self.name)
        line.row.addStretch(1)
        apart = Link("dissolve it", self._inline, bold=True)
        apart.setToolTip("Replaces its name with its rule everywhere")
        line.row.addWidget(apart)
        column.addWidget(line)
        column.addWidget(self.rule)
        line = Line("note", level=True)
        line.row.addWidget(self.note)
        line.row.addStretch(1)
        column.addWidget(line)

    def refresh(self) -> None:
        """Update for the playhead or another rule."""
        editor, name = self.editor, self.derived.name
        if editor.now.is_derived(name) and self.rule.place not in editor.now.bound.errors:
            self.rule.show_values(editor.now.bound.scope.derived(name))
        else:
            self.rule.show_values(None)

    def _rename(self, text: str) -> None:
        editor = self.editor
        try:
            editor.do(rename, self.derived.name, text.strip())
        except AvrinError as error:
            self.name.mark(True)
            editor.say(str(error), error=True)
        else:
            editor.do(select_variable, text.strip())

    def _noted(self, text: str) -> None:
        editor, name = self.editor, self.derived.name
        derived = tuple(
            replace(one, note=text.strip()) if one.name == name else one for one in editor.now.project.derived
        )
        editor.do(edit, replace(editor.now.project, derived=derived), f"note of {name}")

    def _inline(self) -> None:
        editor = self.editor
        editor.do(edit, without_derived(editor.now.project, self.derived.name), f"inline {self.derived.name}")
        editor.do(select_variable, "")
        editor.say(f"{self.derived.name} was replaced by its rule.  Ctrl+Z restores it")
