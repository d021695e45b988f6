"""All commands in one table, which defines shortcuts, menus and the command palette."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from avrin.app.controls.theme import LOOKS, Look, choose_look
from avrin.app.session.comparison import WAYS
from avrin.app.window.desks import DESKS
from avrin.edits.order import STEPS, Step
from avrin.edits.placing import Way
from avrin.model.errors import AvrinError
from avrin.widgets.registry import KINDS

if TYPE_CHECKING:
    from avrin.app.bind_desk.desk import BindDesk
    from avrin.app.session.session import Session

__all__ = ["Action", "commands"]

ALIGN: dict[Way, tuple[str, str]] = {
    "left": ("Align left edges", "Ctrl+Shift+Left"), "right": ("Align right edges", "Ctrl+Shift+Right"),
    "top": ("Align top edges", "Ctrl+Shift+Up"), "bottom": ("Align bottom edges", "Ctrl+Shift+Down"),
    "middle": ("Align centres vertically", "Ctrl+Shift+M"), "centre": ("Align centres horizontally", "Ctrl+Shift+C"),
}  # fmt: skip
ORDER: dict[Step, str] = dict(zip(STEPS, ("Ctrl+Home", "Ctrl+PgUp", "Ctrl+PgDown", "Ctrl+End"), strict=True))


class Action(Struct, frozen=True):
    """A command. keys: in Qt's notation, the first is shown. group: its part of the menu.

    everywhere: available on the first page too. where: whether its key applies for the current focus; letters require it.
    """

    text: str
    keys: tuple[str, ...]
    act: Callable[[], object]
    group: str
    enabled: Callable[[], bool] = lambda: True
    everywhere: bool = False
    where: Callable[[], bool] | None = None


class Host(Protocol):
    """The window's interface for commands."""

    session: Session
    desk: BindDesk

    def show_first_page(self) -> None: ...
    def ask_open(self) -> None: ...
    def add_trace(self) -> None: ...
    def save(self) -> object: ...
    def edit_project(self) -> None: ...
    def ask_save(self) -> object: ...
    def close(self) -> bool: ...
    def find_command(self) -> None: ...
    def drive(self) -> None: ...
    def escape(self) -> None: ...
    def walk(self, by: int) -> None: ...
    def walk_moments(self, by: int) -> None: ...
    def show_history(self) -> None: ...
    def compare(self) -> None: ...
    def show_desk(self, name: str) -> None: ...
    def is_watched(self) -> bool: ...
    def is_on_time(self) -> bool: ...


def commands(host: Host) -> list[Action]:
    """Return all commands."""
    return [
        *_files(host), *_edits(host), *_widgets(host), *_places(host), *_kinds(host), *_time(host),
        *_views(host),
    ]  # fmt: skip


def _files(host: Host) -> list[Action]:
    return [
        Action("The first page", ("Ctrl+N",), host.show_first_page, "file", everywhere=True),
        Action("Open …", ("Ctrl+O",), host.ask_open, "file", everywhere=True),
        Action("Add recordings …", ("Ctrl+Shift+O",), host.add_trace, "file"),
        Action("Save", ("Ctrl+S",), host.save, "file"),
        Action("Save as …", ("Ctrl+Shift+S",), host.ask_save, "file"),
        Action("Revert to saved", ("Ctrl+Shift+Backspace",), partial(_revert, host), "file", lambda: _is_edited(host)),
        Action("The project's title, size, placeholder …", ("Ctrl+I",), host.edit_project, "file"),
        Action("Quit", ("Ctrl+Q",), host.close, "file", everywhere=True),
    ]


def _edits(host: Host) -> list[Action]:
    s, desk = host.session, host.desk
    return [
        Action("Find a command", ("Ctrl+K", "?"), host.find_command, "edit"),
        Action("Undo", ("Ctrl+Z",), s.undo, "edit", lambda: bool(s.history.undo_label)),
        Action("Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), s.redo, "edit", lambda: bool(s.history.redo_label)),
        Action("The history, step by step …", ("Ctrl+Alt+Z",), host.show_history, "edit"),
        Action("Compare with an earlier version …", ("Ctrl+B",), host.compare, "edit"),
        Action("Stop comparing", ("Ctrl+Shift+B",), s.comparison.end, "edit", lambda: s.comparison.before is not None),
        *(Action(f"Compare: {way}", (), partial(s.comparison.show, way), "edit", lambda: s.comparison.before is not None)
          for way in WAYS),
        Action("The wipe to the left", ("Ctrl+Alt+Left",), lambda: s.comparison.put_line(s.comparison.line - 0.05), "edit",
               lambda: s.comparison.before is not None),
        Action("The wipe to the right", ("Ctrl+Alt+Right",), lambda: s.comparison.put_line(s.comparison.line + 0.05), "edit",
               lambda: s.comparison.before is not None),
        Action("A first HUD of the six best", ("Ctrl+H",), desk.first_hud, "edit", lambda: bool(s.trace.columns)),
        Action("Fit the table's columns to the recordings", (), desk.fit_columns, "edit", desk.has_columns),
        Action("Find a lane", ("Ctrl+F",), desk.find_lane, "edit"),
        Action(
            "Edit the variable's declaration", ("Ctrl+E",), desk.lanes.edit_chosen, "edit",
            lambda: bool(s.selected.variable),
        ),
        Action("Make the selection in a rule a derived value", ("Ctrl+Shift+E",), desk.extract, "edit"),
        Action("New derived value", (), desk.add_derived, "edit"),
        Action("New event", (), desk.add_event, "edit"),
        Action("Unpin all values", ("Ctrl+L",), s.manual.let_go, "edit", lambda: bool(s.manual.pins)),
        Action("Paste widgets", ("Ctrl+V",), partial(_paste, host), "edit"),
        Action("Select all widgets", ("Ctrl+A",), s.selection_edits.all, "edit", lambda: bool(s.project.widgets)),
        Action(
            "Show and unlock all", ("Ctrl+Alt+U",), s.view_state.free_all, "edit",
            lambda: bool(s.view_state.hidden or s.view_state.locked),
        ),
    ]  # fmt: skip


def _widgets(host: Host) -> list[Action]:
    hands = host.session.selection_edits
    any_ = partial(_at_least, host, 1)

    def has_one() -> bool:
        return len(hands.chosen) == 1

    def grouped() -> bool:
        return any(host.session.project.widget(ident).group for ident in hands.chosen)

    return [
        Action("Exact position …", ("Ctrl+P",), host.desk.edit_place, "widget", has_one),
        Action("Rename …", ("Ctrl+R",), partial(host.desk.edit_place, title=True), "widget", has_one),
        Action("Duplicate", ("Ctrl+D",), hands.duplicate, "widget", any_),
        Action("Copy", ("Ctrl+C",), partial(_copy, host), "widget", any_),
        Action("Cut", ("Ctrl+X",), partial(_cut, host), "widget", any_),
        Action("Select all of this kind", ("Ctrl+Shift+A",), hands.like, "widget", any_),
        Action("Select all of this group", ("Ctrl+Alt+G",), hands.fellows, "widget", grouped),
        Action("Group", ("Ctrl+G",), hands.group, "widget", any_),
        Action("Ungroup", ("Ctrl+Shift+G",), hands.ungroup, "widget", grouped),
        Action("Hide in the editor, or show", ("Ctrl+Alt+H",), hands.hide, "widget", any_),
        Action("Lock, or unlock", ("Ctrl+Alt+L",), hands.lock, "widget", any_),
        Action("Remove", ("Delete",), hands.remove, "widget", any_),
    ]


def _places(host: Host) -> list[Action]:
    hands = host.session.selection_edits
    any_, many, three = (partial(_at_least, host, count) for count in (1, 2, 3))
    return [
        *(Action(text, (key,), partial(hands.align, way), "place", any_) for way, (text, key) in ALIGN.items()),
        Action("Distribute horizontally", ("Ctrl+Shift+H",), partial(hands.spread, across=True), "place", three),
        Action("Distribute vertically", ("Ctrl+Shift+V",), partial(hands.spread, across=False), "place", three),
        Action("Same width as the first", ("Ctrl+Shift+W",), partial(hands.same_size, wide=True), "place", many),
        Action("Same height as the first", ("Ctrl+Shift+T",), partial(hands.same_size, high=True), "place", many),
        Action("Arrange in a square grid", ("Ctrl+Shift+R",), hands.square, "place", many),
        *(Action(f"Move {step}", (key,), partial(hands.order, step), "place", any_) for step, key in ORDER.items()),
    ]


def _kinds(host: Host) -> list[Action]:
    hands = host.session.selection_edits
    return [
        Action(f"Make it a {kind}", (), partial(hands.make, kind), "kind", partial(_at_least, host, 1))
        for kind in KINDS
    ]


def _time(host: Host) -> list[Action]:
    s, watched = host.session, host.is_watched
    return [
        Action("Play or pause", ("Space",), lambda: s.set_playing(not s.playing), "time"),
        Action("One frame forward", ("Right",), lambda: s.go_to(s.frame + 1), "time"),
        Action("One frame back", ("Left",), lambda: s.go_to(s.frame - 1), "time"),
        Action("One second forward", ("Shift+Right",), lambda: s.go_to_seconds(s.seconds + 1), "time"),
        Action("One second back", ("Shift+Left",), lambda: s.go_to_seconds(s.seconds - 1), "time"),
        Action("Next moment", ("]", "Ctrl+Right"), partial(host.walk_moments, 1), "time", where=host.is_on_time),
        Action("Previous moment", ("[", "Ctrl+Left"), partial(host.walk_moments, -1), "time", where=host.is_on_time),
        Action("Go to the start", ("Home",), lambda: s.go_to(0), "time"),
        Action("Go to the end", ("End",), lambda: s.go_to(len(s.trace) - 1), "time"),
        Action("Faster", (">",), lambda: s.change_speed(1), "time", where=host.is_on_time),
        Action("Slower", ("<",), lambda: s.change_speed(-1), "time", where=host.is_on_time),
        Action("Drive by hand, or stop", ("D",), host.drive, "time", where=watched),
    ]


def _views(host: Host) -> list[Action]:
    s, desk = host.session, host.desk
    scale, by_key = desk.scale, Qt.FocusReason.ShortcutFocusReason
    return [
        Action("Show or hide offers", ("Ctrl+J",), lambda: desk.show_offers(desk.shelf.isHidden()), "view"),
        Action("Zoom in the picture", ("Ctrl++", "Ctrl+="), lambda: desk.hud.zoom(2), "view"),
        Action("Zoom out the picture", ("Ctrl+-",), lambda: desk.hud.zoom(-2), "view"),
        Action("Show the picture at 1:1", ("Ctrl+9",), lambda: desk.hud.look(1), "view"),
        Action("Fit the picture", ("Ctrl+0",), desk.hud.fit, "view"),
        Action("Zoom in time", ("+", "="), lambda: scale.zoom(0.6, s.seconds), "view", where=host.is_on_time),
        Action("Zoom out time", ("-",), lambda: scale.zoom(1 / 0.6, s.seconds), "view", where=host.is_on_time),
        Action(
            "Show the whole recording", ("0",), lambda: scale.show_all(s.trace.length), "view", where=host.is_on_time
        ),
        Action("Focus the rules", ("F2",), desk.focus_rules, "view"),
        Action("Focus the lanes", ("F3",), partial(desk.lanes.setFocus, by_key), "view"),
        Action("Focus the picture", ("F4",), partial(desk.hud.setFocus, by_key), "view"),
        Action("Clear the selection", ("Esc",), host.escape, "view", everywhere=True),
        *(Action(f"Theme: {look}", (), partial(_look, host, look), "view") for look in LOOKS),
        *(Action(f"The {d.name} desk", (d.key,), partial(host.show_desk, d.name), "desk") for d in DESKS),
        Action("Next finding", ("F8",), lambda: host.walk(1), "desk"),
        Action("Previous finding", ("Shift+F8",), lambda: host.walk(-1), "desk"),
    ]


def _is_edited(host: Host) -> bool:
    return host.session.path is not None and host.session.project != host.session.history.saved


def _revert(host: Host) -> None:
    host.session.revert()
    host.session.reported.emit("Reverted to saved.  Ctrl+Z restores the edits", False)


def _look(host: Host, look: Look) -> None:
    choose_look(look)
    host.session.reported.emit(
        f"The window uses the {look if look != LOOKS[-1] else 'desktop'} theme from the next start on", False
    )


def _at_least(host: Host, count: int) -> bool:
    return len(host.session.selection_edits.chosen) >= count


def _copy(host: Host) -> None:
    hands = host.session.selection_edits
    QGuiApplication.clipboard().setText(hands.copied())
    host.session.reported.emit(f"Copied {hands.title}", False)


def _cut(host: Host) -> None:
    _copy(host)
    host.session.selection_edits.remove()


def _paste(host: Host) -> None:
    try:
        host.session.selection_edits.paste(QGuiApplication.clipboard().text())
    except AvrinError as error:
        host.session.reported.emit(str(error), True)
