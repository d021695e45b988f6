"""A widget's group, roster, style and note on the card."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avrin.app.bind_desk.card.line import Line
from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.link import Link
from avrin.app.services.editor import Editor
from avrin.editor.edits import edit, seal
from avrin.edits.identity import grouped
from avrin.edits.styles import restyled, style_made, style_removed
from avrin.errors import AvrinError
from avrin.offers.drop_results import repeated
from avrin.project.project import Project, Widget

__all__ = ["Belongs"]

NEW = "new …"


class Belongs(QWidget):
    """Each choice is one edit."""

    group_wanted = Signal(str)

    def __init__(self, editor: Editor, ident: str) -> None:
        super().__init__()
        self.editor = editor
        self.ident = ident
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self.choices: dict[str, Choice] = {}
        self._edit = Link("edit it", lambda: self.group_wanted.emit(self._widget.group), bold=True)
        self.style_name = Field("name of the new style", 120)
        self.style_name.setPlaceholderText("its name")
        self.style_name.taken.connect(self._make_style)
        self.style_name.exited.connect(self._leave)
        self.style_name.hide()
        self._for_all = Link("change it for all", self._restyle, bold=True)
        self._off_all = Link("remove it from all", self._unstyle, bold=True)
        self._off_all.setToolTip("Removes the style; its users keep the same look")
        self.note = Field("note", 300)
        self.note.setPlaceholderText("purpose")
        self.note.taken.connect(lambda text: self._edit_widget("note", replace(self._widget, note=text.strip())))
        self.note.exited.connect(self.setFocus)
        self._line("group", self._choice("group"), self._edit)
        self._repeated = self._line("repeated", self._choice("repeat"))
        self._line("style", self._choice("style"), self.style_name, self._for_all, self._off_all)
        self._line("note", self.note, spaced=False)
        self.refresh()

    @property
    def _widget(self) -> Widget:
        return self.editor.now.project.widget(self.ident)

    def _line(self, name: str, *parts: QWidget, spaced: bool = True) -> Line:
        line = Line(name, level=True)
        if spaced:
            line.row.addSpacing(-7)  # a choice has padding around its text
        for part in parts:
            line.row.addWidget(part)
        line.row.addStretch(1)
        self._column.addWidget(line)
        return line

    def _choice(self, what: str) -> Choice:
        choice = self.choices[what] = Choice(what, [""])
        choice.taken.connect(lambda value: self._taken(what, str(value)))
        return choice

    def refresh(self) -> None:
        """Show the current state."""
        project = self.editor.now.project
        widget = next((one for one in project.widgets if one.id == self.ident), None)
        if widget is None:
            return
        self.choices["group"].offer(["", *(group.id for group in project.groups), NEW])
        self.choices["repeat"].offer(["", *(roster.name for roster in project.rosters)])
        self.choices["style"].offer(["", *project.styles, NEW])
        for what, choice in self.choices.items():
            choice.show_value(getattr(widget, what))
        self._repeated.setVisible(bool(project.rosters))
        self._edit.setVisible(bool(widget.group))
        self._for_all.setVisible(bool(widget.style and widget.look))
        self._off_all.setVisible(bool(widget.style))
        self.note.show_text(widget.note)

    def _taken(self, what: str, value: str) -> None:
        if what == "repeat":
            self._edit_widget(what, repeated(self._widget, value))
        elif value != NEW:
            self._edit_widget(what, replace(self._widget, **{what: value}))
        elif what == "group":
            project, ident = grouped(self.editor.now.project, [self.ident])
            self._done(project, "grouping")
            self.group_wanted.emit(ident)
        else:
            self.style_name.show()
            self.style_name.setFocus()

    def _make_style(self, name: str) -> None:
        """Create a style from the widget's look."""
        try:
            self._done(style_made(self.editor.now.project, self.ident, name), "style")
        except AvrinError as error:
            self.style_name.mark(True)
            self.editor.say(str(error), error=True)

    def _leave(self) -> None:
        self.style_name.hide()
        self.refresh()

    def _restyle(self) -> None:
        worn = sum(widget.style == self._widget.style for widget in self.editor.now.project.widgets)
        self._done(restyled(self.editor.now.project, self.ident), "style")
        self.editor.say(f"{worn} widgets use it")

    def _unstyle(self) -> None:
        self._done(style_removed(self.editor.now.project, self._widget.style), "style")

    def _edit_widget(self, what: str, widget: Widget) -> None:
        self._done(self.editor.now.project.with_widget(widget), what)

    def _done(self, project: Project, what: str) -> None:
        self.editor.do(seal)
        self.editor.do(edit, project, f"{what} of {self._widget.title}")
