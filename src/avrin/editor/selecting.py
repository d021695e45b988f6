"""Commands that select widgets and variables."""

from __future__ import annotations

from collections.abc import Sequence

from avrin.editor.snapshot import Selection, Snapshot

__all__ = [
    "extend_selection", "select", "select_all", "select_like", "select_merged", "select_siblings", "select_variable",
    "select_widget", "select_widgets", "toggle",
]  # fmt: skip


def select(now: Snapshot, chosen: Selection) -> Snapshot:
    """Select a widget, a variable or nothing. Ends the current undo step."""
    return now.replaced(history=now.history.sealed(), selection=chosen) if chosen != now.selection else now


def select_widget(now: Snapshot, ident: str) -> Snapshot:
    """Select a widget by id, "" for nothing."""
    return select(now, Selection(widget=ident))


def select_variable(now: Snapshot, name: str) -> Snapshot:
    """Select a variable by name."""
    return select(now, Selection(variable=name))


def select_widgets(now: Snapshot, *idents: str) -> Snapshot:
    """Select several widgets by id; the card shows the first."""
    return select(now, _several(*idents))


def select_merged(now: Snapshot, *idents: str) -> Snapshot:
    """Select what an edit has just created, without ending its undo step."""
    return now.replaced(selection=_several(*idents))


def toggle(now: Snapshot, ident: str) -> Snapshot:
    """Add a widget to the selection, or remove it."""
    chosen = now.chosen
    kept = tuple(one for one in chosen if one != ident) if ident in chosen else (*chosen, ident)
    return select_widgets(now, *kept)


def select_all(now: Snapshot) -> Snapshot:
    """Select every widget except hidden and locked ones."""
    away = {*now.hidden, *now.locked}
    return select_widgets(now, *(widget.id for widget in now.project.widgets if widget.id not in away))


def select_like(now: Snapshot) -> Snapshot:
    """Select all widgets of the selected kinds."""
    kinds = {now.project.widget(ident).kind for ident in now.chosen}
    more = (widget.id for widget in now.project.widgets if widget.kind in kinds and widget.id not in now.chosen)
    return select_widgets(now, *now.chosen, *more)


def select_siblings(now: Snapshot) -> Snapshot:
    """Select all widgets that share a group with a selected one."""
    groups = {now.project.widget(ident).group for ident in now.chosen} - {""}
    more = (widget.id for widget in now.project.widgets if widget.group in groups and widget.id not in now.chosen)
    return select_widgets(now, *now.chosen, *more)


def _several(*idents: str) -> Selection:
    return Selection(widget=idents[0], more=tuple(idents[1:])) if idents else Selection()


def extend_selection(now: Snapshot, widgets: Sequence[str], step: int) -> Snapshot:
    """Add the next widget of a list to the selection, or remove the latest one when going back. step: 1 or -1."""
    latest = next((ident for ident in reversed(now.chosen) if ident in widgets), None)
    if latest is None:
        return now
    other = widgets[min(max(0, widgets.index(latest) + step), len(widgets) - 1)]
    return now if other == latest else toggle(now, latest if other in now.chosen else other)
