"""Everything that can be done by keyboard: one table, which makes the shortcuts, the menus and what is found by typing."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtGui import QGuiApplication

from avrin.app.window.desks import DESKS
from avrin.arrange import STEPS, Step, Way
from avrin.model import AvrinError
from avrin.widgets import KINDS

if TYPE_CHECKING:
    from avrin.app.window.window import Window

__all__ = ["Action", "commands"]

ALIGN: dict[Way, tuple[str, str]] = {
    "left": ("Line up their left edges", "Ctrl+Shift+Left"), "right": ("Line up their right edges", "Ctrl+Shift+Right"),
    "top": ("Line up their tops", "Ctrl+Shift+Up"), "bottom": ("Line up their bottoms", "Ctrl+Shift+Down"),
    "middle": ("Line up on one upright line", "Ctrl+Shift+M"), "centre": ("Line up on one level line", "Ctrl+Shift+C"),
}  # fmt: skip
ORDER: dict[Step, str] = dict(zip(STEPS, ("Ctrl+Home", "Ctrl+PgUp", "Ctrl+PgDown", "Ctrl+End"), strict=True))


class Action(Struct, frozen=True):
    """One command. keys: as Qt writes them, the first is shown. group: its part of the menu.

    everywhere: it works on the first page too. where: whether its key acts, as the focus stands; letters ask.
    """

    text: str
    keys: tuple[str, ...]
    act: Callable[[], object]
    group: str
    enabled: Callable[[], bool] = lambda: True
    everywhere: bool = False
    where: Callable[[], bool] | None = None


def commands(window: Window) -> list[Action]:
    """Every command there is."""
    return [
        *_files(window), *_edits(window), *_widgets(window), *_places(window), *_kinds(window), *_time(window),
        *_views(window),
    ]  # fmt: skip


def _files(window: Window) -> list[Action]:
    return [
        Action("The first page", ("Ctrl+N",), window.show_first_page, "file", everywhere=True),
        Action("Open …", ("Ctrl+O",), window.ask_open, "file", everywhere=True),
        Action("Add recordings …", ("Ctrl+Shift+O",), window.add_trace, "file"),
        Action("Save", ("Ctrl+S",), window.save, "file"),
        Action("Save as …", ("Ctrl+Shift+S",), window.ask_save, "file"),
        Action("Quit", ("Ctrl+Q",), window.close, "file", everywhere=True),
    ]


def _edits(window: Window) -> list[Action]:
    s, desk = window.session, window.desk
    return [
        Action("Find a command", ("Ctrl+K", "?"), lambda: window.finder.open_it(), "edit"),  # noqa: PLW0108  (made when first wanted)
        Action("Undo", ("Ctrl+Z",), s.undo, "edit", lambda: bool(s.history.undo_label)),
        Action("Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), s.redo, "edit", lambda: bool(s.history.redo_label)),
        Action("A first HUD of the six best", ("Ctrl+H",), desk.first_hud, "edit", lambda: bool(s.trace.columns)),
        Action("Find a lane", ("Ctrl+F",), desk.find_lane, "edit"),
        Action(
            "Edit the variable's declaration", ("Ctrl+E",), desk.lanes.edit_chosen, "edit",
            lambda: bool(s.selected.variable),
        ),
        Action("Let go of all held values", ("Ctrl+L",), s.hand.let_go, "edit", lambda: bool(s.hand.pins)),
        Action("Paste widgets", ("Ctrl+V",), partial(_paste, window), "edit"),
        Action("Select all widgets", ("Ctrl+A",), s.arranging.all, "edit", lambda: bool(s.project.widgets)),
    ]  # fmt: skip


def _widgets(window: Window) -> list[Action]:
    hands = window.session.arranging
    any_ = partial(_at_least, window, 1)

    def one() -> bool:
        return len(hands.chosen) == 1

    def grouped() -> bool:
        return any(window.session.project.widget(ident).group for ident in hands.chosen)

    return [
        Action("Name and exact place …", ("Ctrl+P",), window.desk.edit_place, "widget", one),
        Action("Duplicate", ("Ctrl+D",), hands.duplicate, "widget", any_),
        Action("Copy", ("Ctrl+C",), partial(_copy, window), "widget", any_),
        Action("Cut", ("Ctrl+X",), partial(_cut, window), "widget", any_),
        Action("Select all of this kind", ("Ctrl+Shift+A",), hands.like, "widget", any_),
        Action("Into a group", ("Ctrl+G",), hands.group, "widget", any_),
        Action("Out of the group", ("Ctrl+Shift+G",), hands.ungroup, "widget", grouped),
        Action("Remove", ("Delete",), hands.remove, "widget", any_),
    ]


def _places(window: Window) -> list[Action]:
    hands = window.session.arranging
    any_, many, three = (partial(_at_least, window, count) for count in (1, 2, 3))
    return [
        *(Action(text, (key,), partial(hands.align, way), "place", any_) for way, (text, key) in ALIGN.items()),
        Action("Spread evenly across", ("Ctrl+Shift+H",), partial(hands.spread, across=True), "place", three),
        Action("Spread evenly down", ("Ctrl+Shift+V",), partial(hands.spread, across=False), "place", three),
        Action("As wide as the first", ("Ctrl+Shift+W",), partial(hands.same_size, wide=True), "place", many),
        Action("As high as the first", ("Ctrl+Shift+T",), partial(hands.same_size, high=True), "place", many),
        Action("In a square grid", ("Ctrl+Shift+R",), hands.square, "place", many),
        *(Action(f"Move {step}", (key,), partial(hands.order, step), "place", any_) for step, key in ORDER.items()),
    ]


def _kinds(window: Window) -> list[Action]:
    hands = window.session.arranging
    return [
        Action(f"Make it a {kind}", (), partial(hands.make, kind), "kind", partial(_at_least, window, 1))
        for kind in KINDS
    ]


def _time(window: Window) -> list[Action]:
    s, watched = window.session, window.is_watched
    return [
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
        Action("Drive by hand, or stop", ("D",), window.drive, "time", where=watched),
    ]


def _views(window: Window) -> list[Action]:
    s, desk = window.session, window.desk
    scale = desk.scale
    return [
        Action("Offers, or none", ("Ctrl+J",), lambda: desk.show_offers(desk.shelf.isHidden()), "view"),
        Action("Closer to the picture", ("Ctrl++", "Ctrl+="), lambda: desk.hud.zoom(2), "view"),
        Action("Further from the picture", ("Ctrl+-",), lambda: desk.hud.zoom(-2), "view"),
        Action("The picture pixel by pixel", ("Ctrl+9",), lambda: desk.hud.look(1), "view"),
        Action("All of the picture", ("Ctrl+0",), desk.hud.fit, "view"),
        Action("Closer in time", ("+", "="), lambda: scale.zoom(0.6, s.seconds), "view"),
        Action("Further in time", ("-",), lambda: scale.zoom(1 / 0.6, s.seconds), "view"),
        Action("The whole recording", ("0",), lambda: scale.show_all(s.trace.length), "view"),
        Action("To the rules", ("F2",), desk.card.focus_first, "view"),
        Action("To the lanes", ("F3",), desk.lanes.setFocus, "view"),
        Action("To the picture", ("F4",), desk.hud.setFocus, "view"),
        Action("Select nothing", ("Esc",), window.escape, "view", everywhere=True),
        *(Action(f"The {d.name} desk", (d.key,), partial(window.show_desk, d.name), "desk") for d in DESKS),
        Action("Next finding", ("F8",), lambda: window.walk(1), "desk"),
        Action("Previous finding", ("Shift+F8",), lambda: window.walk(-1), "desk"),
    ]


def _at_least(window: Window, count: int) -> bool:
    return len(window.session.arranging.chosen) >= count


def _copy(window: Window) -> None:
    hands = window.session.arranging
    QGuiApplication.clipboard().setText(hands.copied())
    window.session.said.emit(f"Copied {hands.title}", False)


def _cut(window: Window) -> None:
    _copy(window)
    window.session.arranging.remove()


def _paste(window: Window) -> None:
    try:
        window.session.arranging.paste(QGuiApplication.clipboard().text())
    except AvrinError as error:
        window.session.said.emit(str(error), True)
