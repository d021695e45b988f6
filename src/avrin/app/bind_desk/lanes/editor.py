"""Edit a variable's declaration in its lane's head."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup, row
from avrin.app.controls.theme import theme
from avrin.app.services.editor import Editor
from avrin.binding.declarations import undeclare
from avrin.editor.changes import Change
from avrin.editor.edits import edit, rename, set_variable
from avrin.edits.typed import typed_value, value_text
from avrin.errors import AvrinError
from avrin.project.project import Variable, VariableType
from avrin.trace.frames import Value

__all__ = ["DeclarationEdit"]

TYPES: tuple[tuple[VariableType, str], ...] = (
    ("int", "whole"),
    ("float", "number"),
    ("bool", "yes/no"),
    ("text", "text"),
)

NO_WORDS = '""'  # an empty text, as opposed to none


class DeclarationEdit(Popup):
    """A variable's declaration in five short rows. Each field is one edit."""

    closed = Signal()

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.variable = ""
        self._links: dict[VariableType, Link] = {}
        self._fields: dict[str, Field] = {}
        self._build()
        self.hide()
        editor.follow("variable form", self)

    def on_change(self, _change: Change) -> None:
        """Show the declaration as it is now."""
        self._refresh()

    def _build(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 5, 8, 5)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        top = row(self._field("name", 150, self._rename), None, Link("done", self.close_it, bold=True))
        grid.addLayout(top, 0, 0, 1, 2)
        types = QHBoxLayout()
        types.setSpacing(0)
        for type_, said in TYPES:
            link = Link(said, lambda type_=type_: self._set(type=type_))  # type: ignore[misc]
            self._links[type_] = link
            types.addWidget(link)
        types.addStretch(1)
        grid.addLayout(types, 1, 0, 1, 2)
        self._number = [
            text_label("from", size="small"),
            text_label("to", size="small"),
            text_label("unit", size="small"),
        ]
        line = row(
            self._number[0], self._field("low", 42, self._setter("low")), self._number[1],
            self._field("high", 42, self._setter("high")), self._number[2],
            self._field("unit", 34, lambda text: self._set(unit=text.strip())), None,
        )  # fmt: skip
        grid.addLayout(line, 2, 0, 1, 2)
        line = row(
            text_label("start", size="small"), self._field("start", 60, self._setter("start")), text_label("of", size="small"),
            self._field("owner", 84, lambda text: self._set(owner=text.strip())), None,
        )  # fmt: skip
        self._fields["owner"].setPlaceholderText("the game")
        grid.addLayout(line, 3, 0, 1, 2)
        self._keeps = Link("", self._turn_keeps)
        self._remove = Link("undeclare", self._undeclare)
        note = self._field("note", 204, lambda text: self._set(note=text.strip()))
        note.setPlaceholderText("meaning")
        grid.addLayout(row(note, None), 4, 0, 1, 2)
        grid.addLayout(row(self._keeps, None, self._remove), 5, 0, 1, 2)

    def _field(self, name: str, width: int, take: Callable[[str], None]) -> Field:
        field = Field(name, width)
        field.taken.connect(take)
        field.exited.connect(self.setFocus)
        self._fields[name] = field
        return field

    def open_for(self, variable: str) -> None:
        """Edit a variable; its lane grows."""
        self.variable = variable
        self._refresh()
        self.show()
        self.raise_()
        self._fields["name"].setFocus()
        self._fields["name"].selectAll()

    def close_it(self) -> None:
        """Close it; the lane shrinks again."""
        super().close_it()
        self.variable = ""
        self.closed.emit()

    def _declaration(self) -> Variable | None:
        return self.editor.now.variable(self.variable)

    def _refresh(self) -> None:
        if not self.variable:
            return
        known = self._declaration()
        if known is None:  # it was undone, or undeclared elsewhere
            self.close_it()
            return
        for type_, link in self._links.items():
            link.set_chosen(type_ == known.type)
        number = known.type in ("int", "float")
        for part in (*self._number, *(self._fields[name] for name in ("low", "high", "unit"))):
            part.setEnabled(number)
        for name in ("name", "low", "high", "unit", "start", "owner", "note"):
            value = getattr(known, name)
            self._fields[name].show_text(NO_WORDS if name == "start" and value == "" else value_text(value))
        self._keeps.set_text("✓ kept over restarts" if known.keeps else "reset at restarts", quiet=not known.keeps)

    # -- edits ------------------------------------------------------------------------------------------------------

    def _set(self, **changes: object) -> None:
        self._try(lambda: self.editor.do(set_variable, self.variable, **changes), next(iter(changes)))

    def _setter(self, name: str) -> Callable[[str], None]:
        def take(text: str) -> None:
            known = self._declaration()
            if known is not None:
                type_: VariableType = known.type if name == "start" else "float"
                self._try(lambda: self.editor.do(set_variable, self.variable, **{name: _meant(text, type_)}), name)

        return take

    def _rename(self, text: str) -> None:
        def named() -> None:
            # Before the editor reports the change, because then the lane of the old name is gone.
            old = self.variable
            self.variable = f"{old.rsplit('].', 1)[0]}].{text.strip()}" if "]." in old else text.strip()
            try:
                self.editor.do(rename, old, text.strip())
            except AvrinError:
                self.variable = old
                raise

        self._try(named, "name")

    def _turn_keeps(self) -> None:
        known = self._declaration()
        if known is not None:
            self._set(keeps=not known.keeps)

    def _undeclare(self) -> None:
        name, editor = self.variable, self.editor
        self.close_it()
        editor.do(edit, undeclare(editor.now.project, name), f"{name} is not declared any more")

    def _try(self, edit: Callable[[], None], name: str) -> None:
        try:
            edit()
        except AvrinError as error:
            if name in self._fields:
                self._fields[name].mark(True)
            self.editor.say(str(error)[0].upper() + str(error)[1:], error=True)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), t.soft)
        painter.setPen(QPen(t.accent, 2))
        painter.drawLine(1, 0, 1, self.height())
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), t.line)


def _meant(text: str, type_: VariableType) -> Value:
    """Parse a field: empty means None, also for a text, whose empty value is quoted. Raises AvrinError."""
    if type_ == "text" and not text.strip():
        return None
    return "" if type_ == "text" and text.strip() == NO_WORDS else typed_value(text, type_)
