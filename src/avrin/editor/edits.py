"""Commands that edit the project: each is one undo step, or part of one."""

from __future__ import annotations

from avrin.binding.declarations import declared, with_variable
from avrin.binding.declarations import rename as renamed
from avrin.binding.event_kinds import Happening, event_of, with_event
from avrin.binding.places import RulePlace, place_title, with_rule
from avrin.editor.evaluation import reevaluated
from avrin.editor.history import History
from avrin.editor.selecting import select_variable, select_widgets
from avrin.editor.snapshot import Snapshot
from avrin.edits.placing import only_moved
from avrin.project.project import Project, Widget
from avrin.rules.rename import names_it
from avrin.trace.frames import event_column

__all__ = [
    "derive_event", "edit", "go_to_step", "mark_saved", "redo", "rename", "revert", "seal", "set_rule", "set_variable",
    "set_widget", "undo",
]  # fmt: skip


def edit(now: Snapshot, project: Project, label: str, merge: str = "") -> Snapshot:
    """Make an edit, one undo step. merge: consecutive edits with the same key form one step."""
    return _followed(now, now.history.pushed(project, label, merge)) if project != now.project else now


def set_widget(now: Snapshot, widget: Widget, label: str, merge: str = "") -> Snapshot:
    """Replace a widget, or add it."""
    return edit(now, now.project.with_widget(widget), label, merge)


def set_rule(now: Snapshot, place: RulePlace, text: str) -> Snapshot:
    """Set the rule at a place; continuous typing is one step. Recorded names it uses are declared."""
    project = with_rule(now.project, place, text)
    known = project.all_variables()
    for name in now.trace.columns:
        if name not in known and name in text and names_it(name, text):
            project = declared(project, now.trace, name)
    return edit(now, project, f"edit {place_title(now.project, place)}", f"rule {place}")


def rename(now: Snapshot, name: str, new: str) -> Snapshot:
    """Rename a variable, in every rule that names it. Raises AvrinError for an invalid name."""
    if new == name.rsplit("].", 1)[-1]:
        return now
    full = f"{name.rsplit('].', 1)[0]}].{new}" if "]." in name else new
    then = edit(now, renamed(now.project, name, new, now.may_have), f"rename {name}")
    return select_variable(then, full) if now.selection.variable == name else then


def set_variable(now: Snapshot, /, name: str, **changes: object) -> Snapshot:
    """Change a variable's declaration, declaring it first if it was only recorded. Raises AvrinError."""
    known = declared(now.project, now.trace, name)
    if name not in known.all_variables():
        return now
    what = ", ".join(changes) or "declaration"
    return edit(now, with_variable(known, name, **changes), f"{what} of {name}")


def derive_event(now: Snapshot, name: str, happening: Happening) -> Snapshot:
    """Add an event that happens whenever a variable changes, rises or falls, declaring the variable; and select it."""
    project = now.declared(name)
    event = event_of(project, name, happening, now.trace.event_kinds)
    then = edit(seal(now), with_event(project, event), f"add event {event.name}")
    return select_variable(then, event_column(event.name))


def undo(now: Snapshot) -> Snapshot:
    """Undo the latest step."""
    return _gone(now, now.history.undone(), f"Undid: {now.history.undo_label}")


def redo(now: Snapshot) -> Snapshot:
    """Redo the latest undone step."""
    return _gone(now, now.history.redone(), f"Did again: {now.history.redo_label}")


def go_to_step(now: Snapshot, number: int) -> Snapshot:
    """Go to a step of the history. Raises IndexError if it does not exist."""
    history = now.history.gone_to(number)
    return _gone(now, history, f"Went back to: {history.undo_label or 'opened'}")


def revert(now: Snapshot) -> Snapshot:
    """Revert to the saved state; can be undone."""
    return edit(seal(now), now.history.saved, "revert to saved")


def seal(now: Snapshot) -> Snapshot:
    """End the current undo step: further typing begins a new one."""
    return now.replaced(history=now.history.sealed())


def mark_saved(now: Snapshot) -> Snapshot:
    """Note that the project is as its file is."""
    return now.replaced(history=now.history.marked_saved())


def _followed(now: Snapshot, history: History) -> Snapshot:
    """Bind the changed project and evaluate what is new."""
    return reevaluated(now.replaced(history=history, just_moved=only_moved(now.project, history.project)))


def _gone(now: Snapshot, history: History, text: str) -> Snapshot:
    if history.at == now.history.at:
        return now.replaced(history=history)
    return _same_selected(now.project, _followed(now, history)).said(text)


def _same_selected(before: Project, now: Snapshot) -> Snapshot:
    """Keep the selection after a rename, by position in the project."""
    project, chosen = now.project, now.selection
    known = {widget.id for widget in project.widgets}
    if chosen.widget and chosen.widget not in known and len(project.widgets) == len(before.widgets):
        at = {widget.id: number for number, widget in enumerate(before.widgets)}
        now = select_widgets(now, *(project.widgets[at[one]].id for one in chosen.widgets if one in at))
    for had, has in ((before.variables, project.variables), (before.derived, project.derived)):
        names = [one.name for one in had]
        if chosen.variable in names and len(had) == len(has):
            now = select_variable(now, has[names.index(chosen.variable)].name)
    return now
