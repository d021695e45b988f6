"""All commands in one table, which defines shortcuts, menus and the command palette."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from avrin.app.controls.theme import LOOKS, Look, choose_look
from avrin.app.services.comparison import WAYS
from avrin.app.window.desks import DESKS
from avrin.editor.arranging import (
    align,
    change_kind,
    distribute,
    duplicate,
    group,
    hide_selected,
    lock_selected,
    order,
    paste,
    remove,
    same_size,
    selection_title,
    square,
    ungroup,
)
from avrin.editor.by_hand import start_drive, stop_drive, unpin
from avrin.editor.edits import redo, revert, undo
from avrin.editor.layout import free_all
from avrin.editor.playback import change_speed, go_to, go_to_seconds, set_playing
from avrin.editor.selecting import select_all, select_like, select_siblings
from avrin.editor.walking import WALKS, next_stop
from avrin.edits.clipboard import copied
from avrin.edits.order import STEPS, Step
from avrin.edits.placing import Way
from avrin.errors import AvrinError
from avrin.kinds.registry import KINDS

if TYPE_CHECKING:
    from avrin.app.bind_desk.desk import BindDesk
    from avrin.app.services.editor import Editor
    from avrin.app.services.workspace import Workspace

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

    editor: Editor
    workspace: Workspace
    desk: BindDesk

    def show_first_page(self) -> None: ...
    def ask_open(self) -> None: ...
    def add_trace(self) -> None: ...
    def save(self) -> object: ...
    def edit_project(self) -> None: ...
    def edit_options(self) -> None: ...
    def edit_comments(self) -> None: ...
    def ask_save(self) -> object: ...
    def close(self) -> bool: ...
    def find_command(self) -> None: ...
    def escape(self) -> None: ...
    def walk(self, by: int) -> None: ...
    def show_history(self) -> None: ...
    def compare(self) -> None: ...
    def show_desk(self, name: str) -> None: ...
    def cut_stretch(self, *, made_up: bool) -> None: ...
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
        Action(
            "Comment on this moment, or read the comments …", ("C",), host.edit_comments, "edit", where=host.is_watched
        ),
        Action("Options of the player …", (), host.edit_options, "file"),
        Action("Quit", ("Ctrl+Q",), host.close, "file", everywhere=True),
    ]


def _edits(host: Host) -> list[Action]:
    doing, desk, comparison = host.editor.doing, host.desk, host.workspace.comparison
    return [
        Action("Find a command", ("Ctrl+K", "?"), host.find_command, "edit"),
        Action("Undo", ("Ctrl+Z",), doing(undo), "edit", lambda: bool(host.editor.now.history.undo_label)),
        Action("Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), doing(redo), "edit", lambda: bool(host.editor.now.history.redo_label)),
        Action("The history, step by step …", ("Ctrl+Alt+Z",), host.show_history, "edit"),
        Action("Compare with an earlier version …", ("Ctrl+B",), host.compare, "edit"),
        Action("Stop comparing", ("Ctrl+Shift+B",), comparison.end, "edit", lambda: comparison.before is not None),
        *(Action(f"Compare: {way}", (), partial(comparison.show, way), "edit", lambda: comparison.before is not None)
          for way in WAYS),
        Action("The wipe to the left", ("Ctrl+Alt+Left",), lambda: comparison.put_line(comparison.line - 0.05), "edit",
               lambda: comparison.before is not None),
        Action("The wipe to the right", ("Ctrl+Alt+Right",), lambda: comparison.put_line(comparison.line + 0.05), "edit",
               lambda: comparison.before is not None),
        Action("A first HUD of the six best", ("Ctrl+H",), desk.first_hud, "edit", lambda: bool(host.editor.now.trace.columns)),
        Action("Fit the table's columns to the recordings", (), desk.fit_columns, "edit", desk.has_columns),
        Action("Find a lane", ("Ctrl+F",), desk.find_lane, "edit"),
        Action(
            "Edit the variable's declaration", ("Ctrl+E",), desk.lanes.edit_chosen, "edit",
            lambda: bool(host.editor.now.selection.variable),
        ),
        Action("Make the selection in a rule a derived value", ("Ctrl+Shift+E",), desk.extract, "edit"),
        Action("New derived value", (), desk.add_derived, "edit"),
        Action("New event", (), desk.add_event, "edit"),
        Action("Unpin all values", ("Ctrl+L",), doing(unpin), "edit", lambda: bool(host.editor.now.pins)),
        Action("Paste widgets", ("Ctrl+V",), partial(_paste, host), "edit"),
        Action("Select all widgets", ("Ctrl+A",), doing(select_all), "edit", lambda: bool(host.editor.now.project.widgets)),
        Action(
            "Show and unlock all", ("Ctrl+Alt+U",), doing(free_all), "edit",
            lambda: bool(host.editor.now.hidden or host.editor.now.locked),
        ),
    ]  # fmt: skip


def _widgets(host: Host) -> list[Action]:
    doing = host.editor.doing
    any_ = partial(_at_least, host, 1)

    def has_one() -> bool:
        return len(host.editor.now.chosen) == 1

    def grouped() -> bool:
        return any(host.editor.now.project.widget(ident).group for ident in host.editor.now.chosen)

    return [
        Action("Exact position …", ("Ctrl+P",), host.desk.edit_place, "widget", has_one),
        Action("Rename …", ("Ctrl+R",), partial(host.desk.edit_place, title=True), "widget", has_one),
        Action("Duplicate", ("Ctrl+D",), doing(duplicate), "widget", any_),
        Action("Copy", ("Ctrl+C",), partial(_copy, host), "widget", any_),
        Action("Cut", ("Ctrl+X",), partial(_cut, host), "widget", any_),
        Action("Select all of this kind", ("Ctrl+Shift+A",), doing(select_like), "widget", any_),
        Action("Select all of this group", ("Ctrl+Alt+G",), doing(select_siblings), "widget", grouped),
        Action("Group", ("Ctrl+G",), doing(group), "widget", any_),
        Action("Ungroup", ("Ctrl+Shift+G",), doing(ungroup), "widget", grouped),
        Action("Hide in the editor, or show", ("Ctrl+Alt+H",), doing(hide_selected), "widget", any_),
        Action("Lock, or unlock", ("Ctrl+Alt+L",), doing(lock_selected), "widget", any_),
        Action("Remove", ("Delete",), doing(remove), "widget", any_),
    ]


def _places(host: Host) -> list[Action]:
    do, doing = host.editor.do, host.editor.doing
    any_, many, three = (partial(_at_least, host, count) for count in (1, 2, 3))
    return [
        *(Action(text, (key,), partial(do, align, way), "place", any_) for way, (text, key) in ALIGN.items()),
        Action("Distribute horizontally", ("Ctrl+Shift+H",), partial(do, distribute, across=True), "place", three),
        Action("Distribute vertically", ("Ctrl+Shift+V",), partial(do, distribute, across=False), "place", three),
        Action("Same width as the first", ("Ctrl+Shift+W",), partial(do, same_size, wide=True), "place", many),
        Action("Same height as the first", ("Ctrl+Shift+T",), partial(do, same_size, high=True), "place", many),
        Action("Arrange in a square grid", ("Ctrl+Shift+R",), doing(square), "place", many),
        *(Action(f"Move {step}", (key,), partial(do, order, step), "place", any_) for step, key in ORDER.items()),
    ]


def _kinds(host: Host) -> list[Action]:
    do = host.editor.do
    return [
        Action(f"Make it a {kind}", (), partial(do, change_kind, kind), "kind", partial(_at_least, host, 1))
        for kind in KINDS
    ]


def _time(host: Host) -> list[Action]:
    do, watched, ruler = host.editor.do, host.is_watched, host.desk.ruler

    def marked() -> bool:
        return ruler.stretch is not None

    return [
        Action("Play or pause", ("Space",), lambda: do(set_playing, not host.editor.now.playing), "time"),
        Action("One frame forward", ("Right",), lambda: do(go_to, host.editor.now.frame + 1), "time"),
        Action("One frame back", ("Left",), lambda: do(go_to, host.editor.now.frame - 1), "time"),
        Action("One second forward", ("Shift+Right",), lambda: do(go_to_seconds, host.editor.now.seconds + 1), "time"),
        Action("One second back", ("Shift+Left",), lambda: do(go_to_seconds, host.editor.now.seconds - 1), "time"),
        Action("Next moment", ("]", "Ctrl+Right"), partial(_walk, host, 1), "time", where=host.is_on_time),
        Action("Previous moment", ("[", "Ctrl+Left"), partial(_walk, host, -1), "time", where=host.is_on_time),
        *(Action(f"Walk the {walk} with [ and ]", (), partial(ruler.walk_the, walk), "time") for walk in WALKS),
        Action("Go to the start", ("Home",), lambda: do(go_to, 0), "time"),
        Action("Go to the end", ("End",), lambda: do(go_to, len(host.editor.now.trace) - 1), "time"),
        Action("Faster", (">",), lambda: do(change_speed, 1), "time", where=host.is_on_time),
        Action("Slower", ("<",), lambda: do(change_speed, -1), "time", where=host.is_on_time),
        Action(
            "The marked stretch begins here", ("Ctrl+[",), lambda: ruler.mark(first=host.editor.now.seconds), "time"
        ),
        Action("The marked stretch ends here", ("Ctrl+]",), lambda: ruler.mark(end=host.editor.now.seconds), "time"),
        Action("Mark no stretch", (), ruler.mark, "time", marked),
        Action(
            "Cut: a recording of the marked stretch …", (), partial(host.cut_stretch, made_up=False), "time", marked
        ),
        Action(
            "Cut: a recording of the marked stretch, with made-up names …",
            (),
            partial(host.cut_stretch, made_up=True),
            "time",
            marked,
        ),
        Action("Drive by hand, or stop", ("D",), partial(_drive, host), "time", where=watched),
    ]


def _views(host: Host) -> list[Action]:
    desk = host.desk
    scale, by_key = desk.scale, Qt.FocusReason.ShortcutFocusReason
    return [
        Action("Show or hide offers", ("Ctrl+J",), lambda: desk.show_offers(desk.shelf.isHidden()), "view"),
        Action("Zoom in the picture", ("Ctrl++", "Ctrl+="), lambda: desk.hud.zoom(2), "view"),
        Action("Zoom out the picture", ("Ctrl+-",), lambda: desk.hud.zoom(-2), "view"),
        Action("Show the picture at 1:1", ("Ctrl+9",), lambda: desk.hud.look(1), "view"),
        Action("Fit the picture", ("Ctrl+0",), desk.hud.fit, "view"),
        Action(
            "Zoom in time", ("+", "="), lambda: scale.zoom(0.6, host.editor.now.seconds), "view", where=host.is_on_time
        ),
        Action(
            "Zoom out time", ("-",), lambda: scale.zoom(1 / 0.6, host.editor.now.seconds), "view", where=host.is_on_time
        ),
        Action(
            "Show the whole recording",
            ("0",),
            lambda: scale.show_all(host.editor.now.trace.length),
            "view",
            where=host.is_on_time,
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


def _walk(host: Host, by: int) -> None:
    """Go to the next or previous of what the ruler names: moments, differences, findings or comments; and say which."""
    editor, walk, comparison = host.editor, host.desk.ruler.walk, host.workspace.comparison
    if walk == "differences" or (walk == "moments" and comparison.before is not None):
        comparison.walk(by)
        return
    here = [
        one for one in host.workspace.checking.findings if one.trace in (editor.now.trace.name, editor.now.trace_name)
    ]
    stop = next_stop(editor.now, walk, by, here)
    if stop is None:
        editor.say(f"No {'later' if by > 0 else 'earlier'} {walk.removesuffix('s')} in this recording")
        return
    frame, words = stop
    editor.do(go_to, frame)
    if words:
        editor.say(words)


def _drive(host: Host) -> None:
    """Start or stop driving by hand."""
    if host.editor.now.live is None:
        host.editor.do(start_drive)
        host.editor.say("Driving by hand.  D stops")
    else:
        host.editor.do(stop_drive)


def _is_edited(host: Host) -> bool:
    return host.editor.now.path is not None and host.editor.now.project != host.editor.now.history.saved


def _revert(host: Host) -> None:
    host.editor.do(revert)
    host.editor.say("Reverted to saved.  Ctrl+Z restores the edits")


def _look(host: Host, look: Look) -> None:
    choose_look(look)
    host.editor.say(f"The window uses the {look if look != LOOKS[-1] else 'desktop'} theme from the next start on")


def _at_least(host: Host, count: int) -> bool:
    return len(host.editor.now.chosen) >= count


def _copy(host: Host) -> None:
    QGuiApplication.clipboard().setText(copied(host.editor.now.project, host.editor.now.chosen))
    host.editor.say(f"Copied {selection_title(host.editor.now)}")


def _cut(host: Host) -> None:
    _copy(host)
    host.editor.do(remove)


def _paste(host: Host) -> None:
    try:
        host.editor.do(paste, QGuiApplication.clipboard().text())
    except AvrinError as error:
        host.editor.say(str(error), error=True)
