"""Commands on the selected widgets: position, order, copies, groups, removal. Each is one undo step."""

from __future__ import annotations

import math

from msgspec.structs import replace

from avrin.editor.edits import edit, seal
from avrin.editor.layout import HIDDEN, LOCKED, hide, layout_renamed, lock
from avrin.editor.selecting import select_merged, select_widgets
from avrin.editor.snapshot import Snapshot
from avrin.edits import clipboard, identity, kinds, placing
from avrin.edits.order import Step, ordered
from avrin.errors import AvrinError
from avrin.project.numbers import counted
from avrin.project.project import Project

__all__ = [
    "align", "change_kind", "distribute", "duplicate", "grid", "group", "hide_selected", "lock_selected", "nudge", "order",
    "paste", "remove", "rename_widget", "repeat", "same_size", "say_locked", "selection_title", "set_title", "square",
    "ungroup", "unlocked",
]  # fmt: skip

PASTE_OFFSET = 24.0  # reference pixels from the copied widgets to the pasted ones
MAX_COPIES = 400  # in a grid of copies
GAP = 12.0  # between the cells of a grid


def selection_title(now: Snapshot) -> str:
    """Return the selection in words."""
    return now.project.widget(now.chosen[0]).title if len(now.chosen) == 1 else counted(len(now.chosen), "widget")


# -- hidden and locked ------------------------------------------------------------------------------------------------


def hide_selected(now: Snapshot) -> Snapshot:
    """Hide them in the editor, or show them again; they stay selected."""
    then = hide(now, now.chosen)
    return then.said(f"{selection_title(now)}: {HIDDEN if {*now.chosen} <= {*then.hidden} else 'visible again'}")


def lock_selected(now: Snapshot) -> Snapshot:
    """Lock them in the editor, or unlock them."""
    then = lock(now, now.chosen)
    return then.said(f"{selection_title(now)}: {LOCKED if {*now.chosen} <= {*then.locked} else 'unlocked'}")


def unlocked(now: Snapshot) -> tuple[str, ...]:
    """Return the selected widgets that are not locked."""
    return tuple(ident for ident in now.chosen if ident not in now.locked)


def say_locked(now: Snapshot) -> Snapshot:
    """Report selected widgets that stay where they are, because they are locked."""
    free, chosen = unlocked(now), now.chosen
    if len(free) == len(chosen):
        return now
    return now.said(f"{f'{len(chosen) - len(free)} of them' if free else selection_title(now)}: {LOCKED}")


# -- places -----------------------------------------------------------------------------------------------------------


def nudge(now: Snapshot, dx: float, dy: float) -> Snapshot:
    """Move by reference pixels; consecutive steps are one edit."""
    now, free = say_locked(now), unlocked(now)
    return _done(now, placing.moved(now.project, free, dx, dy), "nudge", " ".join(("nudge", *free)))


def align(now: Snapshot, way: placing.Way) -> Snapshot:
    """Align several with one another, one with the safe area."""
    now, free = say_locked(now), unlocked(now)
    return _done(now, placing.aligned(now.project, free, way, now.view.screen), f"align {way}")


def distribute(now: Snapshot, *, across: bool) -> Snapshot:
    """Distribute three or more with equal gaps."""
    if len(now.chosen) < 3:
        return now.said("Select at least three widgets to distribute")
    now, free = say_locked(now), unlocked(now)
    return _done(now, placing.spread(now.project, free, across, now.view.screen), "spreading")


def same_size(now: Snapshot, *, wide: bool = False, high: bool = False) -> Snapshot:
    """Give all the width or height of the one selected first."""
    now, free = say_locked(now), unlocked(now)
    return _done(now, placing.same_size(now.project, free, wide=wide, high=high), "size")


def square(now: Snapshot) -> Snapshot:
    """Arrange in a grid with about as many columns as rows."""
    return grid(now, math.ceil(math.sqrt(max(1, len(now.chosen)))))


def grid(now: Snapshot, columns: int) -> Snapshot:
    """Arrange in rows of `columns` widgets."""
    now, free = say_locked(now), unlocked(now)
    return _done(now, placing.in_grid(now.project, free, columns, GAP, now.view.screen), "grid")


def order(now: Snapshot, step: Step) -> Snapshot:
    """Move forward or backward."""
    return _done(now, ordered(now.project, now.chosen, step), "order")


def repeat(now: Snapshot, across: int, down: int) -> Snapshot:
    """Repeat the first one to fill a grid, starting at its position. Raises AvrinError for too many."""
    project, ident = now.project, now.chosen[0]
    if not 1 < across * down <= MAX_COPIES:
        raise AvrinError(
            f"{across} × {down} is not a valid grid of copies",
            advice=f"Write for example 4 × 4, at most {MAX_COPIES} copies",
        )
    made = [ident]
    for _ in range(across * down - 1):
        project, more = clipboard.duplicated(project, [ident])
        made += more
    return select_merged(_done(now, placing.in_grid(project, made, across, GAP, now.view.screen), "grid"), *made)


# -- copies -----------------------------------------------------------------------------------------------------------


def duplicate(now: Snapshot) -> Snapshot:
    """Duplicate each, with an offset, and select the copies."""
    project, made = clipboard.duplicated(now.project, now.chosen)
    return select_merged(_done(now, project, "duplicate"), *made) if made else now


def paste(now: Snapshot, text: str) -> Snapshot:
    """Add the widgets of a text and select them. Raises AvrinError for any other text."""
    taken, shift = [widget.place for widget in now.project.widgets], 0.0
    project, made = clipboard.pasted(now.project, text)
    for _ in taken:  # not exactly on top of an identical one
        if all(project.widget(ident).place not in taken for ident in made):
            break
        shift += PASTE_OFFSET
        project, made = clipboard.pasted(now.project, text, shift)
    what = f"{len(made)} widgets" if len(made) > 1 else project.widget(made[0]).title
    return select_merged(edit(now, project, f"paste {what}"), *made).said(f"Pasted {what}")


def remove(now: Snapshot) -> Snapshot:
    """Remove them."""
    if not now.chosen:
        return now
    title, them = selection_title(now), "them" if len(now.chosen) > 1 else "it"
    kept = tuple(widget for widget in now.project.widgets if widget.id not in now.chosen)
    then = select_widgets(edit(now, replace(now.project, widgets=kept), f"remove {title}"))
    return then.said(f"Removed {title}.  Ctrl+Z brings {them} back")


# -- identity ---------------------------------------------------------------------------------------------------------


def group(now: Snapshot) -> Snapshot:
    """Group them."""
    if not now.chosen:
        return now
    project, ident = identity.grouped(now.project, now.chosen)
    return _done(now, project, "grouping").said(f"{selection_title(now)} in group {ident}")


def ungroup(now: Snapshot) -> Snapshot:
    """Move them out of their group, without changing their position."""
    return _done(now, identity.ungrouped(now.project, now.chosen), "ungrouping")


def change_kind(now: Snapshot, kind: str) -> Snapshot:
    """Change their kind, keeping what fits and reporting what does not."""
    before = project = now.project
    for ident in now.chosen:
        project = kinds.kind_changed(project, ident, kind)
    lost = [name for one in now.chosen for name in kinds.kind_losses(before.widget(one), project.widget(one))]
    then = _done(now, project, "kind")
    names = ", ".join(dict.fromkeys(lost))
    return then.said(f"A {kind} has no {names}: left out.  Ctrl+Z undoes it") if lost else then


def set_title(now: Snapshot, ident: str, title: str) -> Snapshot:
    """Set a widget's title; its id stays. Raises AvrinError if it is too long."""
    project = identity.titled(now.project, ident, title)
    return edit(seal(now), project, f"title of {now.project.widget(ident).title}") if project != now.project else now


def rename_widget(now: Snapshot, ident: str, new: str) -> Snapshot:
    """Change a widget's id. Raises AvrinError for an invalid name."""
    before, project = now.project, identity.renamed_widget(now.project, ident, new)
    if project == before:
        return now
    given = project.widgets[[widget.id for widget in before.widgets].index(ident)].id
    chosen = [given if one == ident else one for one in now.chosen]
    then = edit(now, project, f"id of {before.widget(ident).title}")
    return select_merged(layout_renamed(then, ident, given), *chosen)


def _done(now: Snapshot, project: Project, what: str, merge: str = "") -> Snapshot:
    return edit(now if merge else seal(now), project, f"{what} of {selection_title(now)}", merge)
