"""Edit a roster in a popup: its name and slots; or create one from similar columns, or from scratch."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QGridLayout, QWidget

from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup, row
from avrin.app.services.editor import Editor
from avrin.editor.edits import edit
from avrin.errors import AvrinError
from avrin.onboarding.rosters import found_by, rename_roster, widened, with_roster, without_roster
from avrin.project.project import Roster, Variable
from avrin.storage.files import check_name

__all__ = ["RosterEdit"]


class RosterEdit(Popup):
    """Each field is one edit; a new roster is created from all three at once."""

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.name = ""  # of the edited roster; "" for a new one
        self.fields = {
            "name": Field("name", 150),
            "slots": Field("slots", 50),
            "columns": Field("columns", 190),
            "field": Field("add a field", 150),
        }
        self.fields["name"].setPlaceholderText("crew")
        self.fields["slots"].setPlaceholderText("4")
        self.fields["columns"].setPlaceholderText("crew#_   (# is the number)")
        for key, field in self.fields.items():
            field.taken.connect(lambda text, key=key: self._taken(key, text))
            field.exited.connect(self.setFocus)
        self._title = text_label("", "ink", bold=True)
        self._apart = Link("dissolve it", self._take_apart, bold=True)
        self._make = Link("create it", self._make_roster, bold=True)
        self._columns = text_label("from columns", size="small")
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 10, 12, 12)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        grid.addWidget(self._title, 0, 0, 1, 2)
        grid.addWidget(text_label("name", size="small"), 1, 0)
        grid.addLayout(row(self.fields["name"], "slots", self.fields["slots"], None), 1, 1)
        grid.addWidget(self._columns, 2, 0)
        grid.addLayout(row(self.fields["columns"], None), 2, 1)
        self._more = text_label("fields", size="small")
        grid.addWidget(self._more, 3, 0)
        self.fields["field"].setPlaceholderText("add a field")
        grid.addLayout(row(self.fields["field"], None), 3, 1)
        grid.addLayout(row(self._make, self._apart, None, Link("done", self.close_it, bold=True)), 4, 1)

    def open_for(self, name: str) -> None:
        """Edit a roster by name; "" creates one."""
        self.name = name
        roster = next((one for one in self.editor.now.project.rosters if one.name == name), None)
        self._title.setText(f"Roster {name}" if roster is not None else "A new roster")
        self.fields["name"].show_text(name)
        self.fields["slots"].show_text(str(roster.slots) if roster is not None else "")
        self.fields["columns"].show_text("")
        for part in (self._make, self._columns, self.fields["columns"]):
            part.setVisible(roster is None)
        for part in (self._apart, self._more, self.fields["field"]):
            part.setVisible(roster is not None)
        self.fields["field"].show_text("")
        self._more.setToolTip(", ".join(field.name for field in roster.fields) if roster is not None else "")
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move((parent.width() - self.width()) // 2, max(8, parent.height() - self.height() - 60))
        self.show()
        self.raise_()
        self.fields["name"].setFocus()

    def _taken(self, key: str, text: str) -> None:
        if not self.name:
            return
        editor = self.editor
        try:
            if key == "name" and text.strip() != self.name:
                editor.do(
                    edit,
                    rename_roster(editor.now.project, self.name, text.strip(), editor.now.may_have),
                    f"rename {self.name}",
                )
                self.open_for(text.strip())
            elif key == "slots":
                editor.do(edit, widened(editor.now.project, self.name, _parse_slots(text)), f"slots of {self.name}")
            elif key == "field":
                self._add_field(text.strip())
        except AvrinError as error:
            self.fields[key].mark(True)
            editor.say(str(error), error=True)

    def _add_field(self, name: str) -> None:
        """Add a number field to each slot."""
        editor = self.editor
        roster = next(one for one in editor.now.project.rosters if one.name == self.name)
        check_name(name, [field.name for field in roster.fields])
        wider = replace(roster, fields=(*roster.fields, Variable(name=name, type="float", start=0)))
        rosters = tuple(wider if one.name == self.name else one for one in editor.now.project.rosters)
        editor.do(edit, replace(editor.now.project, rosters=rosters), f"field {name} of {self.name}")
        self.open_for(self.name)

    def _make_roster(self) -> None:
        """Create a roster: from columns that match a pattern, or with a single field."""
        editor, project = self.editor, self.editor.now.project
        name, slots, pattern = (self.fields[key].text().strip() for key in ("name", "slots", "columns"))
        try:
            if pattern:
                own = {new: old for one in project.traces for old, new in one.names.items()}
                columns = {own.get(n, n): c for n, c in editor.now.recorded.columns.items() if "[" not in n}
                found = found_by(pattern, columns, name)
                made = with_roster(project, found, editor.now.may_have)
                if slots:
                    made = widened(made, found.name, _parse_slots(slots))
                name = found.name
            else:
                check_name(name, [*(v.name for v in project.variables), *(one.name for one in project.rosters)])
                first = Variable(name="score", type="int", start=0)
                roster = Roster(name=name, slots=1, fields=(first,))
                made = widened(replace(project, rosters=(*project.rosters, roster)), name, _parse_slots(slots or "4"))
        except AvrinError as error:
            editor.say(str(error), error=True)
            return
        editor.do(edit, made, f"roster {name}")
        self.close_it()
        editor.say(f"Roster {name}.  Ctrl+Z undoes it")

    def _take_apart(self) -> None:
        editor = self.editor
        editor.do(edit, without_roster(editor.now.project, self.name, editor.now.may_have), f"dissolve {self.name}")
        self.close_it()


def _parse_slots(text: str) -> int:
    if not text.strip().isdigit():
        raise AvrinError(f"'{text}' is not a number of slots", advice="Write for example 4")
    return int(text)
