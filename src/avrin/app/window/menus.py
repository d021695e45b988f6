"""The window's menus: of all commands, of those for the selection, and of what dropped pictures become."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QMenu, QWidget

from avrin.app.controls.menu import new_menu
from avrin.app.services.plates import add_plates
from avrin.app.services.workspace import Workspace
from avrin.app.window.commands import Action
from avrin.video.numbered import numbered_name

__all__ = ["command_menu", "open_picture_menu", "selection_menu"]

SUBMENUS = {"widget": "Widgets", "place": "Their places", "kind": "Another kind", "time": "Time"}
SELECTION_GROUPS = ("widget", "place", "kind")


def command_menu(actions: Iterable[Action], parent: QWidget) -> QMenu:
    """Return a menu of all commands with their keys."""
    return _menu(actions, parent, SUBMENUS)


def selection_menu(actions: Iterable[Action], parent: QWidget) -> QMenu:
    """Return a menu of the commands available for the selection."""
    available = (action for action in actions if action.group in SELECTION_GROUPS and action.enabled())
    return _menu(available, parent, {**SUBMENUS, "widget": ""})


def _menu(actions: Iterable[Action], parent: QWidget, submenus: Mapping[str, str]) -> QMenu:
    menu = new_menu(parent)
    part, group = menu, ""
    for action in actions:
        if action.group != group:
            title = submenus.get(action.group, "")
            if group and not (title and submenus.get(group)):
                menu.addSeparator()
            group = action.group
            part = new_menu(menu) if title else menu
            if title:
                part.setTitle(title)
                menu.addMenu(part)
        entry = part.addAction(f"{action.text}\t{action.keys[0] if action.keys else ''}", action.act)
        entry.setEnabled(action.enabled())
    return menu


def open_picture_menu(
    workspace: Workspace, pictures: Sequence[Path], as_widgets: Callable[[Sequence[Path]], object], parent: QWidget
) -> None:
    """Ask at the pointer whether dropped pictures become plates, widgets or a film. as_widgets: adds them as widgets."""
    menu, single = new_menu(parent), len(pictures) == 1
    as_plates = partial(add_plates, workspace.editor, workspace.files, pictures)
    if numbered_name(pictures) is not None:
        text = f"Add a film of {len(pictures)} pictures behind the HUD"
        menu.addAction(text, partial(as_plates, as_film=True))
    menu.addAction("Add as a plate behind the HUD" if single else f"Add {len(pictures)} plates", as_plates)
    text = "Add as a picture widget" if single else f"Add {len(pictures)} picture widgets"
    menu.addAction(text, partial(as_widgets, pictures))
    menu.popup(QCursor.pos())
