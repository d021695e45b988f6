"""The main window: header, desks, messages; files and shortcuts."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QSettings, QSize, Qt, QTimer
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDropEvent,
    QKeySequence,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QShortcut,
    QShowEvent,
)
from PySide6.QtWidgets import QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from avrin.app.controls.file_dialogs import ask_files, ask_target, dropped_files, ending_in
from avrin.app.painting.picture_cache import keep_picture
from avrin.app.window.desks import DESKS, Desk, desk_named
from avrin.app.window.start_picture import save_first_page_picture, save_start_picture, start_picture
from avrin.errors import AvrinError, reason_of
from avrin.storage.recent import thumbnail_file
from avrin.trace.formats import FILE_FILTER

if TYPE_CHECKING:
    from avrin.app.bind_desk.desk import BindDesk
    from avrin.app.services.editor import Editor
    from avrin.app.services.player import Player
    from avrin.app.services.workspace import Workspace
    from avrin.app.window.commands import Action
    from avrin.app.window.comparison_bar import ComparisonBar
    from avrin.app.window.first_page import FirstPage
    from avrin.app.window.header import Header
    from avrin.app.window.message import Message
    from avrin.editor.changes import Change

__all__ = ["Window"]

log = logging.getLogger(__name__)
SIZE = (1280, 800)
PROJECTS = "Avrin projects (*.avrin)"
FACE = 544  # pixels of a HUD thumbnail's width: twice its width on the first page
AT_REST = 1500  # milliseconds after opening, when deferred work is done


class Window(QMainWindow):
    """One project in one window. It can be shown as a picture first; `fill` creates its content."""

    editor: Editor
    player: Player
    desk: BindDesk
    header: Header
    message: Message
    comparing: ComparisonBar

    def __init__(self) -> None:
        super().__init__()
        self._picture: QPixmap | None = None
        self._filled = self._settled = False
        self._may_lose = False  # whether the user agreed to lose edits that cannot be saved
        self._first: FirstPage | None = None
        self.came_to_life: Callable[[], None] = lambda: None
        self.setAcceptDrops(True)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(QSize(*SIZE).boundedTo(self.screen().availableSize()))
        settings = QSettings()
        if settings.contains("window/geometry"):
            self.restoreGeometry(settings.value("window/geometry"))

    def show_opening(self, path: Path | None) -> bool:
        """Show the cached picture of the project or the first page; return False if there is none."""
        self._picture = start_picture(path, self)
        if self._picture is not None:
            self.show()
        return self._picture is not None

    # -- the first page ---------------------------------------------------------------------------------------------

    def show_first_page(self) -> None:
        """Show the first page; nothing slow is imported for it."""
        from avrin.app.window.first_page import FirstPage  # late: 15 ms

        self._picture = None
        if self._filled:
            self.keep_face()
        if self._first is None:
            page = self._first = FirstPage()
            page.recording_wanted.connect(self.ask_recordings)
            page.project_wanted.connect(self.ask_open)
            page.empty_wanted.connect(self.begin_empty)
            page.sample_wanted.connect(self.open_sample)
            page.project_chosen.connect(self.open)
            page.draft_chosen.connect(self.open_draft)
            page.exited.connect(self.leave_first_page)
            if self._filled:
                self._pages.addWidget(page)
            else:
                self.setCentralWidget(page)
                self.setWindowTitle("Avrin")
        else:
            self._first.refresh()
        self._first.can_leave = self.has_project
        self._first.back.setVisible(self.has_project)
        if self._filled:
            self.player.stop()
            self._pages.setCurrentWidget(self._first)
        self._first.setFocus()

    @property
    def is_alive(self) -> bool:
        """Whether it has an editor."""
        return self._filled

    @property
    def has_project(self) -> bool:
        """Whether a project is open, saved or not."""
        return self._filled and (self.editor.now.path is not None or self.workspace.files.draft is not None)

    @property
    def on_first_page(self) -> bool:
        """Whether the first page is visible."""
        return self._first is not None and (not self._filled or self._pages.currentWidget() is self._first)

    def leave_first_page(self) -> None:
        """Return to the open project."""
        if self._filled:
            self._pages.setCurrentWidget(self._body)
            if self.isVisible() and not self._settled:
                self.restore_layout()
            self.desk.hud.setFocus()

    def _alive(self) -> None:
        """Create the editor, which the first page does not need."""
        if not self._filled:
            from avrin.app.services.workspace import Workspace  # late: 380 ms, after the kept picture

            self.fill(Workspace())
            self.came_to_life()

    def fill(self, workspace: Workspace) -> None:
        """Create the content. The desks are imported here, because they need slow libraries."""
        from avrin.app.bind_desk.desk import BindDesk  # late: 380 ms, after the kept picture
        from avrin.app.controls.assistive import assist
        from avrin.app.services.player import Player
        from avrin.app.window.commands import commands
        from avrin.app.window.comparison_bar import ComparisonBar
        from avrin.app.window.header import Header
        from avrin.app.window.message import Message
        from avrin.app.window.notices import Notices
        from avrin.app.window.popups import WindowPopups

        assist()
        self.workspace = workspace
        self.editor = editor = workspace.editor
        self.player = Player(editor)
        self.desks = QStackedWidget()
        self._made_desks: dict[str, QWidget] = {}
        first = self._desk(DESKS[0].name)
        assert isinstance(first, BindDesk)  # the window's first desk
        self.desk = first
        self.header = Header(workspace, self.open_menu, self.add_trace)
        body = self._body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.notices, self.comparing = Notices(), ComparisonBar(editor, workspace.comparison)
        for line in (self.header, self.notices, self.comparing):
            column.addWidget(line)
        column.addWidget(self.desks, 1)
        self._pages = QStackedWidget()
        self._pages.addWidget(body)
        if self._first is not None:
            self.takeCentralWidget()
            self._pages.addWidget(self._first)
            self._pages.setCurrentWidget(self._first)
        self.setCentralWidget(self._pages)
        self.message = Message(self)
        self._connect(editor)
        self.actions_table = commands(self)
        self.popups = WindowPopups(self, workspace, self.desk.hud, self.actions_table, self.comparing.with_step)
        self._make_shortcuts()
        self._title()
        self._filled = True

    def _connect(self, editor: Editor) -> None:
        self.header.trace_edit_wanted.connect(self.edit_recording)
        self.header.plate_edit_wanted.connect(lambda link: self.popups.plate.open_under(link))  # noqa: PLW0108  (made when first wanted)
        self.header.screen_edit_wanted.connect(lambda link: self.popups.screen.open_under(link))  # noqa: PLW0108
        self.header.options_edit_wanted.connect(self.edit_options)
        self.header.desk_wanted.connect(self.show_desk)
        self.desk.recording_wanted.connect(self.add_trace)
        self.desk.clock_wanted.connect(self.edit_recording)
        self.desk.hud.menu_wanted.connect(self.open_widget_menu)
        self.comparing.history_wanted.connect(lambda: self.popups.history.open_it(compares=True))
        editor.follow("window", self)
        for asks in (self.workspace.files.journaling, self.workspace.traces, self.workspace.conflicts):
            asks.asked.connect(self.notices.ask)
            asks.answered.connect(self.notices.withdraw)
        self.workspace.art.changed.connect(self._forget_files)
        self.desk.completed.connect(self._drop_picture)

    def on_change(self, change: Change) -> None:
        """Show the project's title, and messages."""
        if change.of("opened"):
            self._forget_files()
        if change.of("history", "file", "access"):
            self._title()
        if change.of("message"):
            said = self.editor.now.message
            self.message.say(said.text, said.error)

    def _forget_files(self) -> None:
        from avrin.app.painting.paint import forget_files  # late: 170 ms, after the kept picture

        forget_files()

    def _make_shortcuts(self) -> None:
        for action in self.actions_table:
            for key in action.keys:
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.activated.connect(partial(_run, action, self))

    def edit_recording(self) -> None:
        """Edit the visible recording's entry."""
        self.popups.recording.open_it()

    def edit_comments(self) -> None:
        """Write a comment, or read those there are."""
        self.popups.comments.open_it()

    def edit_options(self) -> None:
        """Edit the options of the player."""
        self.popups.options.open_under(
            self.header.viewer if self.header.viewer.isVisible() else self.header.screen_link
        )

    def edit_project(self) -> None:
        """Edit the project's settings."""
        self.popups.project.open_under(self.header.title)

    def show_history(self) -> None:
        """Show the visual history."""
        self.popups.history.open_it()

    def compare(self) -> None:
        """Choose what to compare the project with."""
        self.comparing.choose()

    def restore_layout(self) -> None:
        """Restore the splitters, and cache a picture for the next start once everything is idle."""
        self._settled = True
        # The sizes are needed before Qt's next layout pass.
        self._pages.show()  # just added, it would wait for that pass
        for part in (self, self._pages, self._body):
            if (layout := part.layout()) is not None:
                layout.activate()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest)
        self.desk.first_sizes()
        self.desk.recall(QSettings())
        self.desk.hud.setFocus()
        QTimer.singleShot(AT_REST, self._keep_opening)

    def _drop_picture(self) -> None:
        """Remove the picture once the content is visible."""
        if self._picture is not None:
            self._picture = None
            self.update()

    def _keep_opening(self) -> None:
        editor = self.editor
        if self.isVisible() and (self.busy or self.message.isVisible()):
            # Pending results belong to the picture: ladder, film, findings. A message does not, and goes by itself.
            QTimer.singleShot(AT_REST, self._keep_opening)
        elif editor.now.path is not None and self.workspace.files.untouched:
            save_start_picture(editor.now.path, self, self.grab().toImage())
            self.keep_face()
            self.desk.hud.ground.keep()

    def keep_face(self) -> None:
        """Cache the HUD's thumbnail for the first page."""
        editor = self.editor
        path = editor.now.path or self.workspace.files.draft
        if path is None or not editor.now.project.widgets:
            return
        keep_picture(thumbnail_file(path), self.desk.hud.face(FACE))

    # -- desks ------------------------------------------------------------------------------------------------------

    def show_desk(self, name: str) -> None:
        """Show a desk. Raises KeyError for an unknown name."""
        desk = self._desk(name)
        self.desks.setCurrentWidget(desk)
        self.header.show_desk(name)
        self.comparing.show_ways(name == DESKS[0].name)
        desk.setFocus()

    def _desk(self, name: str) -> QWidget:
        """Return a desk, created on first use, because its modules are slow to import."""
        if name not in self._made_desks:
            made = desk_named(name).make(self.workspace, self.show_desk)
            self._made_desks[name] = made
            self.desks.addWidget(made)
        return self._made_desks[name]

    @property
    def busy(self) -> bool:
        """Whether anything visible is pending."""
        desk = cast("Desk", self.desks.currentWidget())
        return self.workspace.busy or desk.busy

    def walk(self, by: int) -> None:
        """Go to the next or previous finding."""
        from avrin.app.findings_desk.desk import FindingsDesk  # late: 22 ms
        from avrin.app.screens_desk.desk import ScreensDesk

        shown = self.desks.currentWidget()
        if isinstance(shown, ScreensDesk) and shown.walk(by):
            return
        seen = isinstance(self.desks.currentWidget(), FindingsDesk)
        self.show_desk("Findings")
        desk = self.desks.currentWidget()
        assert isinstance(desk, FindingsDesk)
        desk.walk(by, begin=not seen)

    # -- commands ---------------------------------------------------------------------------------------------------

    def is_watched(self) -> bool:
        """Return whether letters are commands: the focus is not in a field, a list or a choice."""
        focus = self.focusWidget()
        return focus is None or focus in (self, self.desk.hud, self.desk.ruler)

    def is_on_time(self) -> bool:
        """Return whether signs are time commands: the focus is on the picture, the ruler or the lanes."""
        return self.is_watched() or self.focusWidget() is self.desk.lanes

    def open_menu(self, place: QPoint) -> None:
        """Show a menu of all commands with their keys."""
        from avrin.app.window.menus import command_menu  # late: 9 ms, after the kept picture

        command_menu(self.actions_table, self).popup(place)

    def open_widget_menu(self, place: QPoint) -> None:
        """Show a menu of commands for the selection."""
        from avrin.app.window.menus import selection_menu  # late: 9 ms, after the kept picture

        selection_menu(self.actions_table, self).popup(place)

    def find_command(self) -> None:
        """Open the command palette."""
        self.popups.finder.open_it()

    def escape(self) -> None:
        """Cancel the current drag, close a popup or clear the selection: the first that applies."""
        if self.workspace.files.jobs.busy or self.workspace.traces.jobs.busy:
            self.workspace.files.jobs.cancel()
            self.workspace.traces.jobs.cancel()
            self.editor.say("Stopped")
        elif self.on_first_page:
            if self.has_project:
                self.leave_first_page()
        elif self.desk.chooser.isVisible():
            self.desk.chooser.hide()
        else:
            self.desk.deselect()

    # -- files ------------------------------------------------------------------------------------------------------

    def ask_open(self) -> None:
        """Choose a project, or recordings, and open them."""
        chosen = ask_files(self, "Open a project or recordings", self._folder(), f"{PROJECTS};;{FILE_FILTER}")
        if chosen:
            self.open_files(chosen)

    def ask_recordings(self) -> None:
        """Choose recordings, and create a project over them."""
        chosen = ask_files(self, "Open recordings of your game", self._folder(), FILE_FILTER)
        if chosen:
            self.open_files(chosen)

    def _folder(self) -> Path:
        return self.editor.now.folder if self._filled and self.editor.now.path is not None else Path.home()

    def open_files(self, paths: Sequence[Path]) -> None:
        """Open chosen, dropped or named files: a project, or recordings.

        Recordings are added to the open project, except on the first page.
        """
        projects = [path for path in paths if path.suffix.lower() == ".avrin"]
        if projects:
            self.open(projects[0])
            return
        if not self._filled or self.on_first_page:
            if self._another(lambda: self.open_files(paths)):
                self._try(lambda: self.workspace.files.begin_over(paths, self._opened))
            return
        from avrin.app.services.plates import add_plates, dropped_kind  # late: 250 ms, after the kept picture
        from avrin.app.window.menus import open_picture_menu

        match dropped_kind(paths):
            case "pictures":
                open_picture_menu(self.workspace, paths, self._as_widgets, self)
            case "recordings":
                self._try(lambda: self.workspace.traces.add(paths))
            case kind:
                add_plates(self.editor, self.workspace.files, paths, as_film=kind == "numbered")

    def _as_widgets(self, pictures: Sequence[Path]) -> None:
        for picture in pictures:
            if not self._try(lambda picture=picture: self.desk.add_picture(picture)):  # type: ignore[misc]
                return

    def open(self, path: Path) -> None:
        """Open a project; after an error the open one remains."""
        if self._another(lambda: self.open(path)) and self._try(lambda: self.workspace.files.open(path)):
            self._opened()

    def _another(self, again: Callable[[], None]) -> bool:
        """Write unsaved edits before opening something else. Return False, after asking, if that fails.

        again: opens it, once the user agrees to lose edits that cannot be written.
        """
        if self._filled and not self._may_lose:
            self.workspace.files.keep_unsaved()
            if self.workspace.files.would_lose:
                self._ask_before_losing("Opening something else", "open it anyway", again)
                return False
        if self._filled:
            self.keep_face()
        self._may_lose = False
        self._alive()
        return True

    def _ask_before_losing(self, what: str, anyway: str, again: Callable[[], object]) -> None:
        """Ask whether edits that cannot be written may be lost; if so, repeat the action."""

        def lose() -> None:
            self._may_lose = True
            again()

        self.leave_first_page()
        self.workspace.files.journaling.ask_before_losing(what, anyway, self.save, lose)

    def open_draft(self, path: Path) -> None:
        """Open a project that was never saved."""
        if self._another(lambda: self.open_draft(path)) and self._try(lambda: self.workspace.files.open_draft(path)):
            self._opened()

    def begin_empty(self) -> None:
        """Create a project without recordings."""
        if self._another(self.begin_empty):
            self.workspace.files.begin_empty()
            self._opened()

    def open_sample(self) -> None:
        """Open the sample, installing it first if it is missing."""
        from avrin.demo.install import install_demo  # late: 3 ms

        self.open(install_demo())

    def _opened(self) -> None:
        """Show the opened project."""
        self.show_desk(DESKS[0].name)
        self.leave_first_page()

    def save(self) -> None:
        """Save the project, or ask for a name."""
        if self.editor.now.path is None:
            self.ask_save()
        else:
            path = self.editor.now.path
            self._try(lambda: self.workspace.files.save(done=lambda: self.editor.say(f"Saved {path.name}")))

    def ask_save(self) -> None:
        """Ask for a name and save there."""
        start = self.editor.now.path or Path.home() / f"{self._proposed()}.avrin"
        chosen = ask_target(self, "Save the project", start, PROJECTS)
        if chosen is not None:
            target = ending_in(".avrin", chosen)
            said = partial(self.editor.say, f"Saved {target.name}")
            self._try(lambda: self.workspace.files.save(target, said))

    def _proposed(self) -> str:
        """Return a name for a project without one: its first recording's."""
        traces = self.editor.now.project.traces
        return traces[0].title if traces else "untitled"

    def add_trace(self) -> None:
        """Choose recordings to add, and show them."""
        chosen = ask_files(self, "Add recordings", self._folder(), FILE_FILTER)
        if chosen:
            self._try(lambda: self.workspace.traces.add(chosen))

    def cut_stretch(self, *, made_up: bool) -> None:
        """Make a recording of the marked stretch."""
        from avrin.app.window.stretch import save_stretch  # late: 2 ms

        self._try(lambda: save_stretch(self, self.workspace, self.desk.ruler.stretch, made_up=made_up))

    def _try(self, act: Callable[[], object]) -> bool:
        try:
            act()
        except AvrinError as error:
            self.editor.show_error(str(error))
            return False
        except OSError as error:
            self.editor.show_error(f"{error.filename}: cannot be read ({reason_of(error)})")
            return False
        return True

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_files(event.mimeData()):
            event.acceptProposedAction()
            if self.on_first_page and self._first is not None:
                self._first.set_dropping(True)

    def dragLeaveEvent(self, _event: QDragLeaveEvent) -> None:
        if self._first is not None:
            self._first.set_dropping(False)

    def dropEvent(self, event: QDropEvent) -> None:
        """Handle files dropped anywhere in the window, except on a field that accepts them."""
        if self._first is not None:
            self._first.set_dropping(False)
        event.acceptProposedAction()
        self.open_files(dropped_files(event.mimeData()))

    # -- the window itself ------------------------------------------------------------------------------------------

    def _title(self) -> None:
        mark = "• " if self.editor.now.history.edited and self.editor.now.path is not None else ""
        self.setWindowTitle(f"{mark}{self.editor.now.project.title} — Avrin")

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._picture is None:
            super().paintEvent(event)
        else:
            QPainter(self).drawPixmap(0, 0, self._picture)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._filled and not self._settled and not self.on_first_page:
            self.restore_layout()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._filled:
            self.message.place()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Write unsaved edits, which come back with the project, and close; ask only if they cannot be written."""
        if self._filled:
            self.workspace.files.keep_unsaved()
            if self.workspace.files.would_lose and not self._may_lose:
                event.ignore()
                self._ask_before_losing("Closing", "close anyway", self.close)
                return
            self.keep_face()
        save_first_page_picture(self)
        if not self._filled:
            return
        self.workspace.close()
        settings = QSettings()
        settings.setValue("window/geometry", self.saveGeometry())
        self.desk.remember(settings)
        super().closeEvent(event)


def _run(action: Action, window: Window) -> None:
    if action.enabled() and (action.everywhere or not window.on_first_page) and (not action.where or action.where()):
        action.act()
