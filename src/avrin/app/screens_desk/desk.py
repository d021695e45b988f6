"""The Screens desk: two axes to choose, the other values from the header, and the sheet at the playhead."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.menu import new_menu
from avrin.app.controls.save_link import SaveLink
from avrin.app.painting.export import painted, painted_page
from avrin.app.screens_desk.cells import Cells, views_of
from avrin.app.screens_desk.texts_edit import TextsEdit
from avrin.app.services.workspace import Workspace
from avrin.binding.player_options import option_named, scaled
from avrin.editor.changes import Change
from avrin.editor.playback import go_to
from avrin.editor.viewing import show_in, show_on, show_over, show_texts_again
from avrin.findings.finding import Finding
from avrin.i18n.languages import language_codes, language_name
from avrin.i18n.own_language import OWN
from avrin.i18n.pseudo import MADE_UP
from avrin.project.numbers import counted
from avrin.project.project import ScreenPart
from avrin.render.pictures import save_picture
from avrin.screens.axes import AXES, NO_PLATE, Cell, grid, usual_cell
from avrin.screens.sheet import screens_sheet
from avrin.storage.files import write

__all__ = ["ScreensDesk"]

EDGE = 20
SHEET_WIDTH_PX = 1600  # pixels of a saved sheet
NONE = "nothing"
SAVE_KINDS = {"A picture …": ".png", "A drawing …": ".svg", "A page …": ".pdf"}
VIEWERS = ("players", "options")  # axes with a choice only where there is more than one value


class ScreensDesk(QWidget):
    """wants_desk: a cell was clicked, and is shown on another desk."""

    wants_desk = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.editor = editor = workspace.editor
        self._checking, self._traces = workspace.checking, workspace.traces
        self.axes = {"rows": "plates", "columns": "screens"}
        self.rest = usual_cell(editor.now.project)
        self._sized = False  # a size was chosen here
        self.cells = Cells(editor, workspace.checking, workspace.comparison, workspace.video)
        self.cells.pressed.connect(self._open)
        self.cells.spoken_to.connect(self._translate)
        self.choices: dict[str, Choice] = {}
        self._offered: list[str] = []  # the axes that have a choice in the head line
        self._build()
        editor.follow("screens desk", self)
        self.setFocusProxy(self.cells)
        self.refresh()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self._head = QWidget()
        first = QHBoxLayout(self._head)
        first.setContentsMargins(EDGE, 12, EDGE - 7, 4)
        first.setSpacing(4)
        first.addWidget(text_label("Every screen at once", "ink", "title", bold=True))
        self.walk_link = Link("", lambda: self.walk(1))
        first.addWidget(self.walk_link)
        first.addStretch(1)
        for which in ("rows", "columns"):
            choice = self.choices[which] = Choice(which, [*AXES, NONE])
            choice.taken.connect(partial(self._along, which))
            first.addWidget(text_label("down" if which == "rows" else "across", size="small"))
            first.addWidget(choice)
        self._rest = QHBoxLayout()
        self._rest.setSpacing(4)
        first.addLayout(self._rest)
        self.texts_link = Link("texts", self._texts_menu, menu=True)
        first.addWidget(self.texts_link)
        self.save_link = SaveLink(
            "Save the sheet",
            lambda end: self.editor.now.folder / f"screens{end}",
            lambda: SAVE_KINDS,
            self.save,
            self.editor.show_error,
        )
        first.addWidget(self.save_link)
        whole.addWidget(self._head)
        whole.addWidget(self.cells, 1)
        self.texts = TextsEdit(self.editor, self)
        self.texts.written.connect(self._written)

    @property
    def busy(self) -> bool:
        """Return False: everything is painted synchronously."""
        return False

    def on_change(self, change: Change) -> None:
        """Show what changed; begin with the usual cell of another project."""
        if change.of("opened"):
            self.rest, self._sized = usual_cell(self.editor.now.project), False
        self.refresh()

    def refresh(self) -> None:
        """Update for a changed project, recording or findings."""
        project = self.editor.now.project
        self._follow_head()
        for which, along in self.axes.items():
            self.choices[which].show_value(along or NONE)
        folder = self.editor.now.folder
        self._offer([
            name for name, axis in AXES.items()
            if name not in self.axes.values() and (name not in VIEWERS or len(axis.values(project, folder)) > 1)
        ])  # fmt: skip
        for name in self._offered:
            values, axis = AXES[name].values(project, self.editor.now.folder), AXES[name]
            said = axis.describe(self.rest)
            self.choices[name].offer(list(values))
            if said == NO_PLATE and said not in values:  # as in the header
                values = {**values, said: lambda cell: replace(cell, plate=None)}
            if said not in values:  # it was renamed or deleted
                self.rest = next(iter(values.values()))(self.rest)
                said = axis.describe(self.rest)
            self.choices[name].show_value(said)
        count = len(self._about_cells())
        self.walk_link.set_text(f"walk {counted(count, 'finding')}   F8")
        self.walk_link.setVisible(bool(count))
        shown = grid(project, self.axes["rows"], self.axes["columns"], self.rest, self.editor.now.folder)
        self.cells.show_grid(shown, self._checking.findings)
        self._look_into()

    def _look_into(self) -> None:
        """Request findings for each cell while the desk is visible."""
        shown, checking = self.cells.grid, self._checking
        if shown is None or not self.isVisible():
            return
        views = [view for line in shown.cells for cell in line for view in views_of(cell, self.editor.now.bound.slot)]
        checking.look_into([view for at, view in enumerate(views) if view not in views[:at]])

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._checking.look_into(())

    def _offer(self, names: list[str]) -> None:
        """Have a choice for each of these; those that stay are kept, because their lists may be open."""
        if names == self._offered:
            return
        self._offered = names
        while (item := self._rest.takeAt(0)) is not None:
            if (part := item.widget()) is not None:
                part.hide()
                part.deleteLater()
        for name in names:
            choice = self.choices[name] = Choice(name, [""])
            choice.taken.connect(partial(self._rest_is, name))
            self._rest.addWidget(choice)

    def _follow_head(self) -> None:
        """Take values without an axis from the header; a size chosen here persists."""
        view, project, bound = self.editor.now.view, self.editor.now.project, self.editor.now.bound
        name = view.screen.of if isinstance(view.screen, ScreenPart) else view.screen.name
        whole = next((one for one in project.screens if one.name == name), None)
        shown = self.editor.now.plate
        plate = next((one for one in project.plates if shown is not None and one.name == shown.name), None)
        screen = whole or self.rest.screen
        if "options" not in self.axes.values():
            screen = scaled(screen, option_named(project, bound.option))
        if self._sized:
            screen = replace(screen, scale=self.rest.screen.scale)
        self.rest = replace(
            self.rest, screen=screen, plate=plate, language=view.language, player=bound.slot if project.players else None,
            option=bound.option,
        )  # fmt: skip

    def lay_along(self, rows: str, columns: str) -> None:
        """Choose the vertical and horizontal axes, "" for none."""
        self.axes = {"rows": rows, "columns": columns}
        self.refresh()

    def _along(self, which: str, name: object) -> None:
        """Change an axis; swap both if they would be equal."""
        other = "columns" if which == "rows" else "rows"
        chosen = "" if name == NONE else str(name)
        across = self.axes[which] if chosen and chosen == self.axes[other] else self.axes[other]
        self.lay_along(*((chosen, across) if which == "rows" else (across, chosen)))

    def _rest_is(self, name: str, value: object) -> None:
        change = AXES[name].values(self.editor.now.project, self.editor.now.folder).get(str(value))
        self.rest = change(self.rest) if change is not None else replace(self.rest, plate=None)
        self._sized = self._sized or name == "sizes"
        editor = self.editor
        if name == "screens":
            editor.do(show_on, next((one for one in editor.now.project.screens if one.name == value), self.rest.screen))
        elif name == "plates":
            editor.do(show_over, self.rest.plate)
        elif name == "languages":
            editor.do(show_in, self.rest.language)
        self.refresh()

    def _open(self, cell: Cell) -> None:
        """Show a cell on the Bind desk: its screen, size, plate and language."""
        editor = self.editor
        editor.do(show_on, next(iter(cell.screen.parts), cell.screen))
        editor.do(show_over, cell.plate)
        editor.do(show_in, cell.language)
        self.wants_desk.emit("Bind")

    def walk(self, by: int) -> bool:
        """Go to the next (previous) finding of a cell, at its moment; return False without one."""
        editor = self.editor
        every = self._about_cells()
        if not every:
            return False
        now = self.cells.told
        at = next((i for i, one in enumerate(every) if now is not None and one.key == now.key), -1 if by > 0 else 0)
        found = every[(at + by) % len(every)]
        if not self._traces.look_at(found.trace):
            return True
        if found.start is not None:
            editor.do(go_to, found.start)
        self._reveal(found)
        editor.say(f"{found.why}.  {found.advice}")
        return True

    def _about_cells(self) -> list[Finding]:
        return [one for one in self._checking.findings if one.screen or one.plate or one.language]

    def _reveal(self, finding: Finding) -> None:
        """Make a finding's cell visible and select it."""
        project, folder = self.editor.now.project, self.editor.now.folder
        whole = next(
            (one for one in project.screens if finding.screen in (one.name, *(part.name for part in one.parts))), None
        )
        for name, value in (
            ("screens", whole.name if whole else ""),
            ("plates", finding.plate),
            ("languages", finding.language),
        ):
            change = AXES[name].values(project, folder).get(value)
            if change is not None and name not in self.axes.values():
                self._rest_is(name, value)
        self.refresh()
        self.cells.stand_on(finding)

    # -- texts --------------------------------------------------------------------------------------------------------

    def _texts_menu(self) -> None:
        editor, menu = self.editor, new_menu(self)
        for code in language_codes(editor.now.project, editor.now.folder):
            if code != OWN and code not in MADE_UP:
                menu.addAction(f"{language_name(code)}\t{code}", partial(self.texts.open_under, self.texts_link, code))
        menu.addSeparator()
        menu.addAction("A new language …", partial(self.texts.open_under, self.texts_link, ""))
        menu.popup(self.texts_link.mapToGlobal(QPoint(0, self.texts_link.height() + 2)))

    def _translate(self, cell: Cell, widget: str) -> None:
        """Edit the texts of a clicked widget."""
        if cell.language != OWN and cell.language not in MADE_UP:
            self.texts.open_under(self.texts_link, cell.language, widget)

    def _written(self) -> None:
        """Update after a catalogue changed."""
        self._checking.look_again()
        self.editor.do(show_texts_again)
        self.cells.stamp += 1
        self.refresh()

    # -- export -------------------------------------------------------------------------------------------------------

    def save(self, path: Path) -> None:
        """Save the sheet at the playhead. Raises AvrinError."""
        assert self.cells.grid is not None
        shapes, height = screens_sheet(
            self.cells.spoken(), self.editor.now.frame, self.cells.grid, SHEET_WIDTH_PX, self.cells.words_of
        )
        if path.suffix.lower() == ".pdf":
            write(path, painted_page(shapes, SHEET_WIDTH_PX, round(height)))
        else:
            save_picture(shapes, SHEET_WIDTH_PX, height, path, painted)
