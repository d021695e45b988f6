"""The window: header, desk, messages; files and shortcuts."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QSettings, QTimer
from PySide6.QtGui import QCloseEvent, QKeySequence, QPainter, QPaintEvent, QPixmap, QResizeEvent, QShortcut, QShowEvent
from PySide6.QtWidgets import QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from avrin.app.controls.asking import ask_file, ask_target, ending_in
from avrin.app.window.commands import Action
from avrin.app.window.desks import DESKS, Desk, desk_named
from avrin.app.window.opening import keep_opening, opening
from avrin.model import AvrinError

if TYPE_CHECKING:
    from avrin.app.bind_desk.desk import BindDesk
    from avrin.app.session.player import Player
    from avrin.app.session.session import Session
    from avrin.app.window.header import Header
    from avrin.app.window.message import Message
    from avrin.app.window.recording_edit import TraceEdit

__all__ = ["Window"]

log = logging.getLogger(__name__)
SIZE = (1280, 800)
PROJECTS = "Avrin projects (*.avrin)"
AT_REST = 1500  # milliseconds after opening, when all that comes late has come


class Window(QMainWindow):
    """One project in one window. It can be shown as a picture first; `fill` brings it to life."""

    session: Session
    player: Player
    desk: BindDesk
    header: Header
    message: Message

    def __init__(self) -> None:
        super().__init__()
        self._picture: QPixmap | None = None
        self._filled = self._settled = False
        self.resize(*SIZE)
        settings = QSettings()
        if settings.contains("window/geometry"):
            self.restoreGeometry(settings.value("window/geometry"))

    def show_opening(self, path: Path) -> bool:
        """Show what the project looked like when it was last opened. False when that is not known any more."""
        self._picture = opening(path, self)
        if self._picture is not None:
            self.show()
        return self._picture is not None

    def fill(self, session: Session) -> None:
        """Bring the window to life. The parts are loaded here: with them come the slow libraries."""
        from avrin.app.bind_desk.desk import BindDesk
        from avrin.app.session.player import Player
        from avrin.app.window.header import Header
        from avrin.app.window.message import Message

        self.session = session
        self.player = Player(session)
        self.desks = QStackedWidget()
        self._made_desks: dict[str, QWidget] = {}
        first = self._desk(DESKS[0].name)
        assert isinstance(first, BindDesk)  # the one the window is made around
        self.desk = first
        self.header = Header(session, self.open_menu, self.add_trace)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.desks, 1)
        self.setCentralWidget(body)
        self.message = Message(self)
        self.header.trace_edit_wanted.connect(self.edit_recording)
        self.header.desk_wanted.connect(self.show_desk)
        session.said.connect(self.message.say)
        session.state_changed.connect(self._title)
        self.actions_table = self._actions()
        for action in self.actions_table:
            for key in action.keys:
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.activated.connect(partial(_run, action))
        self._title()
        self._filled = True
        self._picture = None

    def edit_recording(self) -> None:
        """Edit what is said of the present recording."""
        self.trace_edit.open_it()

    @cached_property
    def trace_edit(self) -> TraceEdit:
        """What edits what is said of a recording; made when it is first wanted."""
        from avrin.app.window.recording_edit import TraceEdit

        return TraceEdit(self.session, self)

    def settle(self) -> None:
        """Lay out the splits as they were left, and keep a picture for the next start once all is at rest."""
        self._settled = True
        # Sizes are needed now, not when Qt comes round to them.
        QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest)
        self.desk.first_sizes()
        self.desk.recall(QSettings())
        self.desk.hud.setFocus()
        QTimer.singleShot(AT_REST, self._keep_opening)

    def _keep_opening(self) -> None:
        session = self.session
        if session.checking.busy:  # what it finds is counted at the window's edge
            QTimer.singleShot(AT_REST, self._keep_opening)
        elif session.path is not None and session.untouched and not self.message.isVisible():
            keep_opening(session.path, self, self.grab().toImage())

    # -- desks ------------------------------------------------------------------------------------------------------

    def show_desk(self, name: str) -> None:
        """Go to a desk. Raises KeyError for a name that no desk has."""
        desk = self._desk(name)
        self.desks.setCurrentWidget(desk)
        self.header.show_desk(name)
        desk.setFocus()

    def _desk(self, name: str) -> QWidget:
        """A desk, made when it is first asked for, as each has parts that take time to load."""
        if name not in self._made_desks:
            made = desk_named(name).make(self.session, self.show_desk)
            self._made_desks[name] = made
            self.desks.addWidget(made)
        return self._made_desks[name]

    @property
    def busy(self) -> bool:
        """Whether anything that is shown is still on its way."""
        desk = cast("Desk", self.desks.currentWidget())
        return self.session.busy or desk.busy

    def _walk(self, by: int) -> None:
        from avrin.app.findings_desk.desk import FindingsDesk

        seen = isinstance(self.desks.currentWidget(), FindingsDesk)
        self.show_desk("Findings")
        desk = self.desks.currentWidget()
        assert isinstance(desk, FindingsDesk)
        desk.walk(by, begin=not seen)

    # -- actions ----------------------------------------------------------------------------------------------------

    def _actions(self) -> list[Action]:
        s, scale = self.session, self.desk.scale
        return [
            Action("Open …", ("Ctrl+O",), self.ask_open, "file"),
            Action("Save", ("Ctrl+S",), self.save, "file"),
            Action("Save as …", ("Ctrl+Shift+S",), self.ask_save, "file"),
            Action("Undo", ("Ctrl+Z",), s.undo, "edit", lambda: bool(s.history.undo_label)),
            Action("Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), s.redo, "edit", lambda: bool(s.history.redo_label)),
            Action("Remove the widget", ("Delete",), self._remove, "edit", lambda: s.widget is not None),
            Action("Find a lane", ("Ctrl+F",), self.desk.find_lane, "edit"),
            Action(
                "Edit the variable's declaration",
                ("Ctrl+E",),
                self.desk.lanes.edit_chosen,
                "edit",
                lambda: bool(s.selected.variable),
            ),
            Action("Let go of all held values", ("Ctrl+L",), s.hand.let_go, "edit", lambda: bool(s.hand.pins)),
            Action("Play or pause", ("Space",), lambda: s.set_playing(not s.playing), "time"),
            Action("One frame on", ("Right",), lambda: s.go_to(s.frame + 1), "time"),
            Action("One frame back", ("Left",), lambda: s.go_to(s.frame - 1), "time"),
            Action("One second on", ("Shift+Right",), lambda: s.go_to_seconds(s.seconds + 1), "time"),
            Action("One second back", ("Shift+Left",), lambda: s.go_to_seconds(s.seconds - 1), "time"),
            Action("Next moment", ("]", "Ctrl+Right"), s.next_moment, "time"),
            Action("Previous moment", ("[", "Ctrl+Left"), s.previous_moment, "time"),
            Action("To the beginning", ("Home",), lambda: s.go_to(0), "time"),
            Action("To the end", ("End",), lambda: s.go_to(len(s.trace) - 1), "time"),
            Action("Faster", (">",), lambda: s.change_speed(1), "time"),
            Action("Slower", ("<",), lambda: s.change_speed(-1), "time"),
            Action("Drive by hand, or stop", ("D",), self._drive, "time"),
            Action("Closer in time", ("+", "="), lambda: scale.zoom(0.6, s.seconds), "view"),
            Action("Further in time", ("-",), lambda: scale.zoom(1 / 0.6, s.seconds), "view"),
            Action("The whole recording", ("0",), lambda: scale.show_all(s.trace.length), "view"),
            *(Action(f"The {d.name} desk", (d.key,), partial(self.show_desk, d.name), "desk") for d in DESKS),
            Action("Next finding", ("F8",), lambda: self._walk(1), "desk"),
            Action("Previous finding", ("Shift+F8",), lambda: self._walk(-1), "desk"),
            Action("To the rules", ("F2",), self.desk.card.focus_first, "view"),
            Action("To the lanes", ("F3",), self.desk.lanes.setFocus, "view"),
            Action("To the picture", ("F4",), self.desk.hud.setFocus, "view"),
            Action("Select nothing", ("Esc",), self._escape, "view"),
        ]

    def open_menu(self, place: QPoint) -> None:
        """All commands, with their keys."""
        from avrin.app.controls.menu import new_menu

        menu = new_menu(self)
        group = self.actions_table[0].group
        for action in self.actions_table:
            if action.group != group:
                menu.addSeparator()
                group = action.group
            entry = menu.addAction(f"{action.text}\t{action.keys[0]}", action.act)
            entry.setEnabled(action.enabled())
        menu.popup(place)

    def _remove(self) -> None:
        chosen = self.session.widget
        if chosen is not None:
            title = chosen.widget.title
            self.session.remove(chosen.widget.id)
            self.session.said.emit(f"Removed {title}.  Ctrl+Z brings it back", False)

    def _drive(self) -> None:
        hand = self.session.hand
        if hand.live is None:
            hand.start()
        else:
            hand.stop()

    def _escape(self) -> None:
        if self.desk.chooser.isVisible():
            self.desk.chooser.hide()
        else:
            self.session.select_widget("")

    # -- files ------------------------------------------------------------------------------------------------------

    def ask_open(self) -> None:
        """Ask for a project and open it."""
        chosen = ask_file(self, "Open a project", self.session.folder, PROJECTS)
        if chosen is not None:
            self.open(chosen)

    def open(self, path: Path) -> None:
        """Open a project; a fault leaves what is open as it is."""
        self.session.files.keep_unsaved()
        self._try(lambda: self.session.files.open(path))

    def save(self) -> None:
        """Save where the project lies, or ask."""
        if self.session.path is None:
            self.ask_save()
        elif self._try(self.session.files.save):
            self.session.said.emit(f"Saved {self.session.path.name}", False)

    def ask_save(self) -> None:
        """Ask for a name and save there."""
        start = self.session.path or Path.cwd() / "untitled.avrin"
        chosen = ask_target(self, "Save the project", start, PROJECTS)
        if chosen is not None:
            target = ending_in(".avrin", chosen)
            if self._try(lambda: self.session.files.save(target)):
                self.session.said.emit(f"Saved {target.name}", False)

    def add_trace(self) -> None:
        """Ask for a recording and look at it."""
        from avrin.trace import ENDINGS

        sorts = f"Recordings ({' '.join(f'*{ending}' for ending in ENDINGS)})"
        chosen = ask_file(self, "Add a recording", self.session.folder, sorts)
        if chosen is not None:
            self._try(lambda: self.session.files.add_trace(chosen))

    def _try(self, act: Callable[[], object]) -> bool:
        try:
            act()
        except AvrinError as error:
            self.session.said.emit(str(error), True)
            return False
        return True

    # -- the window itself ------------------------------------------------------------------------------------------

    def _title(self) -> None:
        mark = "• " if self.session.history.edited else ""
        self.setWindowTitle(f"{mark}{self.session.project.title} — Avrin")

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._picture is None:
            super().paintEvent(event)
        else:
            QPainter(self).drawPixmap(0, 0, self._picture)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._filled and not self._settled:
            self.settle()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._filled:
            self.message.place()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Unsaved edits are kept and come back with the project: nothing needs asking."""
        if not self._filled:
            return
        self.session.close()
        settings = QSettings()
        settings.setValue("window/geometry", self.saveGeometry())
        self.desk.remember(settings)
        super().closeEvent(event)


def _run(action: Action) -> None:
    if action.enabled():
        action.act()
