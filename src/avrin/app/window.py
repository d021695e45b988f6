"""The window: header, desk, messages; files and shortcuts."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, QRectF, QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeySequence, QPainter, QPaintEvent, QResizeEvent, QShortcut, QShowEvent
from PySide6.QtWidgets import QFileDialog, QMainWindow, QMenu, QVBoxLayout, QWidget

from avrin.app.actions import Action
from avrin.app.bind_desk import BindDesk
from avrin.app.header import Header
from avrin.app.player import Player
from avrin.app.session import Session
from avrin.app.theme import font, measure, theme
from avrin.model import AvrinError

__all__ = ["Window"]

log = logging.getLogger(__name__)
SIZE = (1280, 800)
SHOWN = 4000  # milliseconds a message stays; an error stays twice as long


class Window(QMainWindow):
    """One project in one window."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.player = Player(session)
        self.desk = BindDesk(session)
        self.header = Header(session, self.open_menu, self.add_trace)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.desk, 1)
        self.setCentralWidget(body)
        self.message = _Message(self)
        session.said.connect(self.message.say)
        session.state_changed.connect(self._title)
        self.actions_table = self._actions()
        for action in self.actions_table:
            for key in action.keys:
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.activated.connect(partial(_run, action))
        self.resize(*SIZE)
        self._first = True
        self._title()

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
            Action("Closer in time", ("+", "="), lambda: scale.zoom(0.6, s.seconds), "view"),
            Action("Further in time", ("-",), lambda: scale.zoom(1 / 0.6, s.seconds), "view"),
            Action("The whole recording", ("0",), lambda: scale.show_all(s.trace.length), "view"),
            Action("To the rules", ("F2",), self.desk.card.focus_first, "view"),
            Action("To the lanes", ("F3",), self.desk.lanes.setFocus, "view"),
            Action("To the picture", ("F4",), self.desk.hud.setFocus, "view"),
            Action("Select nothing", ("Esc",), self._escape, "view"),
        ]

    def open_menu(self, place: QPoint) -> None:
        """All commands, with their keys."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
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

    def _escape(self) -> None:
        if self.desk.chooser.isVisible():
            self.desk.chooser.hide()
        else:
            self.session.select_widget("")

    # -- files ------------------------------------------------------------------------------------------------------

    def ask_open(self) -> None:
        """Ask for a project and open it."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Open a project", str(self.session.folder), "Avrin projects (*.avrin)"
        )
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> None:
        """Open a project; a fault leaves what is open as it is."""
        self.session.keep_unsaved()
        self._try(lambda: self.session.open(path))

    def save(self) -> None:
        """Save where the project lies, or ask."""
        if self.session.path is None:
            self.ask_save()
        elif self._try(self.session.save):
            self.session.said.emit(f"Saved {self.session.path.name}", False)

    def ask_save(self) -> None:
        """Ask for a name and save there."""
        start = self.session.path or Path.cwd() / "untitled.avrin"
        name, _ = QFileDialog.getSaveFileName(self, "Save the project", str(start), "Avrin projects (*.avrin)")
        if name:
            target = Path(name) if name.endswith(".avrin") else Path(name + ".avrin")
            if self._try(lambda: self.session.save(target)):
                self.session.said.emit(f"Saved {target.name}", False)

    def add_trace(self) -> None:
        """Ask for a recording and look at it."""
        name, _ = QFileDialog.getOpenFileName(self, "Add a recording", str(self.session.folder), "Recordings (*.csv)")
        if name:
            self._try(lambda: self.session.add_trace(Path(name)))

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

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._first:
            self._first = False
            self.desk.first_sizes()
            settings = QSettings()
            if settings.contains("window/geometry"):
                self.restoreGeometry(settings.value("window/geometry"))
            self.desk.recall(settings)
            self.desk.hud.setFocus()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.message.place()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Unsaved edits are kept and come back with the project: nothing needs asking."""
        self.session.set_playing(False)
        self.session.keep_unsaved()
        settings = QSettings()
        settings.setValue("window/geometry", self.saveGeometry())
        self.desk.remember(settings)
        super().closeEvent(event)


def _run(action: Action) -> None:
    if action.enabled():
        action.act()


class _Message(QWidget):
    """A line over the desk's lower edge that goes by itself; an error until it is pressed, or a while."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._text = ""
        self._error = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.hide()

    def say(self, text: str, error: bool) -> None:
        """Show a line."""
        self._text, self._error = text, error
        self.setAccessibleName(text)
        self._timer.start(SHOWN * (2 if error else 1))
        self.place()
        self.show()
        self.raise_()
        self.update()

    def text(self) -> str:
        """The line shown last."""
        return self._text

    def place(self) -> None:
        """In the middle of the lower edge, as wide as the text, wrapped where it must."""
        most = self._window.width() - 120
        wide = min(most, round(measure(self._text)) + 40)
        lines = 1 + round(measure(self._text)) // max(1, most - 40)
        self.resize(wide, 18 + 16 * lines)
        self.move((self._window.width() - wide) // 2, self._window.height() - self.height() - 40)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.critical.darker(125) if self._error else t.ink)
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        painter.setFont(font())
        painter.setPen("#ffffff" if self._error else t.desk)
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(self.rect().adjusted(16, 6, -16, -6), flags, self._text)

    def mousePressEvent(self, _event: object) -> None:
        self.hide()
