"""The header: the project, the desks, and the visible recording, screen, language and plate."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import (
    QAction,
    QActionGroup,
    QColor,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QHBoxLayout, QMenu, QSizePolicy, QSpacerItem, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.file_dialogs import ask_file
from avrin.app.controls.link import Link, Pressable
from avrin.app.controls.menu import new_menu
from avrin.app.controls.theme import EDGE, font, measure, theme
from avrin.app.services.editor import Editor
from avrin.app.services.plates import add_plates
from avrin.app.services.workspace import Workspace
from avrin.app.window.desks import DESKS
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal
from avrin.editor.playback import go_to
from avrin.editor.players import AS_DESIGNED, player_title, viewer_title
from avrin.editor.viewing import show_as, show_in, show_on, show_over, show_over_recorded, show_with
from avrin.edits.scenery import SIZES, screen_added
from avrin.errors import AvrinError
from avrin.i18n.own_language import OWN
from avrin.project.project import Recording, ScreenPart
from avrin.storage.assets import FILM, PICTURE
from avrin.trace.formats import FILE_FILTER

__all__ = ["Header"]

HEIGHT = 44


class Header(QWidget):
    """Title and state, the desks' names, and menus for recording, screen, language and plate."""

    trace_edit_wanted = Signal()
    plate_edit_wanted = Signal(QWidget)  # opens below the pressed control
    screen_edit_wanted = Signal(QWidget)
    options_edit_wanted = Signal()
    desk_wanted = Signal(str)

    def __init__(
        self, workspace: Workspace, file_menu: Callable[[QPoint], None], add_trace: Callable[[], None]
    ) -> None:
        super().__init__()
        self._workspace = workspace
        self.editor = editor = workspace.editor
        self._traces = workspace.traces
        self._add_trace = add_trace
        self.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self)
        row.setContentsMargins(EDGE - 7, 0, EDGE - 7, 0)
        row.setSpacing(4)
        self.title = _Title(editor, file_menu)
        self.trace = Link("", self.pick_trace, menu=True)
        self.screen_link = Link("", self.pick_screen, menu=True)
        self.plate = Link("", self.pick_plate, menu=True)
        self.language = Link("", self.pick_language, menu=True)
        self.language.hide()
        self.viewer = Link("", self.pick_viewer, menu=True)
        self.viewer.setToolTip("Whose HUD it is, and the options they have chosen")
        self.viewer.hide()
        row.addWidget(self.title)
        row.addSpacerItem(_yielding(24))
        self.tabs = {desk.name: _Tab(desk.name, partial(self.desk_wanted.emit, desk.name)) for desk in DESKS}
        for tab in self.tabs.values():
            row.addWidget(tab)
            row.addSpacerItem(_yielding(6))
        row.addStretch(1)
        self.run = Link("", self.pick_run, menu=True)
        for link in (self.trace, self.run, self.viewer, self.screen_link, self.language, self.plate):
            row.addWidget(link)
        editor.follow("header", self)
        self.show_desk(DESKS[0].name)
        self.refresh()

    def on_change(self, change: Change) -> None:
        """Show what is open, and the number of findings."""
        if change.of("recording", "view", "history", "file", "access"):
            self.refresh()
        elif change.of("figures"):
            self._refresh_run()
            self._refresh_viewer()
        if change.of("findings"):
            self._count()

    def show_desk(self, name: str) -> None:
        """Underline the visible desk."""
        for known, tab in self.tabs.items():
            tab.set_present(known == name)

    def _count(self) -> None:
        """Update the number of things on each desk."""
        for desk in DESKS:
            if desk.count is not None:
                self.tabs[desk.name].set_count(*desk.count(self._workspace))

    def refresh(self) -> None:
        """Show the current state."""
        editor = self.editor
        listed = editor.now.project.recording(editor.now.trace_name)
        self.trace.set_text((listed.name if listed is not None else "") or editor.now.trace.name or "no recording")
        width, height = editor.now.view.screen.size
        self.screen_link.set_text(
            editor.now.view.screen.name if isinstance(editor.now.view.screen, ScreenPart) else f"{width} × {height}"
        )
        self.plate.set_text(f"plate: {editor.now.plate.name}" if editor.now.plate else "no plate")
        speaks = editor.now.view.language
        self.language.setVisible(speaks != OWN)
        self.language.set_text(speaks)
        self._refresh_viewer()
        self._refresh_run()
        self.title.refresh()

    def _refresh_viewer(self) -> None:
        """Show whose HUD it is: the name may be recorded, and differ from run to run."""
        now = self.editor.now
        self.viewer.setVisible(bool(now.project.players or now.project.options))
        if self.viewer.isVisibleTo(self) and (text := viewer_title(now)) != self.viewer.text():
            self.viewer.set_text(text)

    def _refresh_run(self) -> None:
        editor = self.editor
        runs = len(editor.now.trace.run_starts)
        number = int(editor.now.trace.run[editor.now.frame]) if len(editor.now.trace) else 1
        text = f"run {number} of {runs}"
        if text != self.run.text():
            self.run.set_text(text, quiet=runs < 2)

    # -- menus ------------------------------------------------------------------------------------------------------

    def pick_trace(self) -> None:
        """Choose one of the project's recordings, or add one."""
        editor = self.editor
        menu = new_menu(self)
        group = QActionGroup(menu)
        for one in editor.now.project.traces:
            title = one.name or editor.now.project.recording_name(one.key)
            text = f"{title}\t{one.note}" if one.note else title
            if not self._is_there(one):
                menu.addAction(f"{title}\tmissing: locate it …", partial(self._find, one))
                continue
            self._choice(menu, group, text, one.key == editor.now.trace_name, partial(self._show, one.key))
        if editor.now.project.traces:
            menu.addSeparator()
        menu.addAction("Add recordings …", self._add_trace)
        menu.addAction("Generate one that visits every threshold", self._make)
        menu.addAction("Name, note, clock, start values, order …", self.trace_edit_wanted.emit)
        self._pop(menu, self.trace)

    def _is_there(self, recording: Recording) -> bool:
        try:
            return self.editor.now.where(recording).exists()
        except AvrinError:
            return True  # errors are reported when it is opened

    def _find(self, recording: Recording) -> None:
        """Locate a recording whose file is missing."""
        chosen = ask_file(self, f"Where is {recording.path}?", self.editor.now.folder, FILE_FILTER)
        if chosen is not None:
            try:
                self._traces.found_at(recording.key, chosen)
            except AvrinError as error:
                self.editor.say(str(error), error=True)

    def pick_run(self) -> None:
        """Go to the start of a run."""
        editor = self.editor
        menu = new_menu(self)
        group = QActionGroup(menu)
        now = int(editor.now.trace.run[editor.now.frame]) if len(editor.now.trace) else 1
        for number, start, _ in editor.now.trace.runs():
            self._choice(menu, group, f"run {number}", number == now, partial(editor.do, go_to, start))
        self._pop(menu, self.run)

    def pick_screen(self) -> None:
        """Choose the preview screen."""
        editor = self.editor
        menu = new_menu(self)
        group = QActionGroup(menu)
        for screen in editor.now.project.whole_screens or (editor.now.view.screen,):
            width, height = screen.size
            text = f"{screen.name}   {width} × {height}" + (f"   safe {screen.safe:.0%}" if screen.safe else "")
            self._choice(
                menu, group, text, screen.name == editor.now.view.screen.name, partial(editor.do, show_on, screen)
            )
        menu.addSeparator()
        sizes = new_menu(menu)
        sizes.setTitle("Add one")

        for name, (size, safe) in SIZES.items():
            sizes.addAction(f"{name}\t{size[0]} × {size[1]}", partial(self._add_screen, name, size, safe))
        menu.addMenu(sizes)
        menu.addMenu(self._languages(menu))
        if editor.now.project.screens:
            menu.addAction("Name, size, safe margin …", lambda: self.screen_edit_wanted.emit(self.screen_link))
        self._pop(menu, self.screen_link)

    def pick_viewer(self) -> None:
        """Choose whose HUD it is, and the options they have chosen."""
        editor, menu = self.editor, new_menu(self)
        bound = editor.now.bound
        if editor.now.project.players:
            group = QActionGroup(menu)
            for slot in editor.now.project.slots:
                self._choice(
                    menu, group, player_title(editor.now, slot), slot == bound.slot, partial(editor.do, show_as, slot)
                )
            menu.addSeparator()
        options = ["", *(one.name for one in editor.now.project.options)]
        group = QActionGroup(menu)
        for name in options if options[1:] else ():
            self._choice(menu, group, name or AS_DESIGNED, name == bound.option, partial(editor.do, show_with, name))
        menu.addSeparator()
        menu.addAction("Options of the player …", self.options_edit_wanted.emit)
        self._pop(menu, self.viewer)

    def pick_language(self) -> None:
        """Choose the language of texts."""
        self._pop(self._languages(self), self.language)

    def _languages(self, parent: QWidget) -> QMenu:
        from avrin.i18n.languages import language_codes, language_name  # late: 3 ms

        editor, menu = self.editor, new_menu(parent)
        menu.setTitle("Language")
        group = QActionGroup(menu)
        for code in language_codes(editor.now.project, editor.now.folder):
            name = language_name(code)
            text = name if code in (name, OWN) else f"{name}\t{code}"
            self._choice(menu, group, text, code == editor.now.view.language, partial(editor.do, show_in, code))
        return menu

    def _add_screen(self, name: str, size: tuple[int, int], safe: float) -> None:
        editor = self.editor
        project, made = screen_added(editor.now.project, name, size, safe)
        editor.do(seal)
        editor.do(edit, project, f"screen {made}")
        editor.do(show_on, editor.now.project.whole_screens[-1])

    def pick_plate(self) -> None:
        """Choose the plate behind the HUD."""
        editor = self.editor
        menu = new_menu(self)
        group = QActionGroup(menu)
        for plate in editor.now.project.plates:
            chosen = plate == editor.now.plate and not editor.now.view.follows
            self._choice(menu, group, plate.name, chosen, partial(editor.do, show_over, plate))
        self._choice(menu, group, "no plate", editor.now.plate is None, partial(editor.do, show_over, None))
        if any(plate.when for plate in editor.now.project.plates):
            self._choice(
                menu, group, "chosen by the recording", editor.now.view.follows, editor.doing(show_over_recorded)
            )
        menu.addSeparator()
        menu.addAction("Add a picture or a film as a plate …", self._ask_plate)
        if editor.now.plate is not None:
            said = "Name, timing, zones to keep clear …" if editor.now.plate.film else "Name, zones to keep clear …"
            menu.addAction(said, lambda: self.plate_edit_wanted.emit(self.plate))
        self._pop(menu, self.plate)

    def _ask_plate(self) -> None:
        ends = (*PICTURE.ends, *FILM.ends)
        sorts = f"Pictures and films ({' '.join(f'*{end}' for end in ends)})"
        chosen = ask_file(self, "A picture or a film of the game", self.editor.now.folder, sorts)
        if chosen is not None:
            add_plates(self.editor, self._workspace.files, [chosen])

    def _make(self) -> None:
        try:
            self._traces.make()
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    def _show(self, name: str) -> None:
        try:
            self._traces.show(name)
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    @staticmethod
    def _choice(menu: QMenu, group: QActionGroup, text: str, chosen: bool, act: Callable[[], None]) -> None:
        action = QAction(text, menu, checkable=True, checked=chosen)
        action.triggered.connect(lambda _checked=False: act())
        group.addAction(action)
        menu.addAction(action)

    @staticmethod
    def _pop(menu: QMenu, under: QWidget) -> None:
        menu.popup(under.mapToGlobal(QPoint(0, under.height() + 2)))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme().line, 1))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)


def _yielding(wide: int) -> QSpacerItem:
    """Return a spacer that shrinks in a narrow window."""
    return QSpacerItem(wide, 0, QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Minimum)


def _plain(text: str) -> str:
    """Return letters and digits only, to compare a file's name with its project's title."""
    return "".join(letter for letter in text.casefold() if letter.isalnum())


class _Title(Pressable):
    """The project's title and whether it is saved; opens the file menu."""

    def __init__(self, editor: Editor, file_menu: Callable[[QPoint], None]) -> None:
        super().__init__(lambda: file_menu(self.mapToGlobal(QPoint(0, self.height() + 2))))
        self.editor = editor
        self.setAccessibleName("Project: open, save, undo")
        self.setToolTip("Open, save, undo")
        self.refresh()

    def refresh(self) -> None:
        """Update title and state."""
        self._title = self.editor.now.project.title
        editor = self.editor
        self._state = (
            "not saved yet" if not editor.now.path
            else "open in another window too" if editor.now.read_only
            else "edited" if editor.now.history.edited else "saved"
        )  # fmt: skip
        if editor.now.path is not None and _plain(editor.now.path.stem) != _plain(self._title):
            self._state = f"{editor.now.path.name}, {self._state}"
        self.setFixedSize(round(measure(self._title, "title", True) + measure(self._state, "small")) + 26, 30)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.over or self.hasFocus():
            painter.setPen(QPen(t.accent, 2) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(t.raised)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        painter.setFont(font("title", True))
        painter.setPen(t.ink)
        baseline = self.height() / 2 + 6
        painter.drawText(7, round(baseline), self._title)
        painter.setFont(font("small"))
        painter.setPen(t.accent if self._state.endswith("edited") else t.third)
        painter.drawText(round(measure(self._title, "title", True)) + 14, round(baseline), self._state)


class _Tab(Assisted, Pressable):
    """A desk's name, underlined if it is visible. count: the number next to it, 0 for none."""

    def __init__(self, text: str, chosen: Callable[[], None]) -> None:
        super().__init__(chosen)
        self._text = text
        self._present = False
        self.count = 0
        self.bad = False
        self.setAccessibleName(f"{text} desk")
        self._fit()

    assisted_role = Role.PageTab

    def assisted_value(self) -> str:
        """Return the number next to its name."""
        return str(self.count) if self.count else ""

    def assisted_press(self) -> Callable[[], object]:
        """Return the action that shows the desk."""
        return self.click

    def set_present(self, present: bool) -> None:
        """Set whether the desk is visible."""
        self._present = present
        self.setAccessibleDescription("shown" if present else "")
        self.update()

    def set_count(self, count: int, bad: bool) -> None:
        """Set the number next to the name. bad: highlight it."""
        if (count, bad) != (self.count, self.bad):
            self.count, self.bad = count, bad
            self._fit()

    def _fit(self) -> None:
        badge = round(measure(str(self.count), "small", True)) + 20 if self.count else 0
        self.setFixedSize(round(measure(self._text, "large", True)) + 12 + badge, HEIGHT)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide = measure(self._text, "large", True)
        painter.setFont(font("large", self._present))
        painter.setPen(t.ink if self._present or self.over else t.second)
        name = QRectF(4, 0, wide + 4, self.height())
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignHCenter, self._text)
        if self.count:
            badge = QRectF(wide + 13, self.height() / 2 - 9, measure(str(self.count), "small", True) + 13, 18)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.critical if self.bad else t.line)
            painter.drawRoundedRect(badge, 9, 9)
            painter.setFont(font("small", True))
            painter.setPen(QColor("#ffffff") if self.bad else t.ink)
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, str(self.count))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.accent)
        if self._present:
            painter.drawRoundedRect(QRectF(4, HEIGHT - 7, wide + 4, 3), 1.5, 1.5)
        if self.hasFocus():
            painter.setPen(QPen(t.accent, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 8, -1, -10), 4, 4)
