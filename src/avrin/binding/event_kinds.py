"""Edit a project's events: declare from a recording, annotate, rename in all rules."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.binding.places import is_template, rule_at, rule_places, with_rule
from avrin.errors import AvrinError
from avrin.kinds.registry import KINDS
from avrin.project.project import EventKind, Project
from avrin.rules.common_subexpressions import event_renamed_in, event_renamed_in_template
from avrin.storage.files import check_name
from avrin.trace.frames import Trace

__all__ = ["event_declared", "event_renamed", "event_undeclared"]


def event_declared(project: Project, trace: Trace, name: str) -> Project:
    """Return the project with an event declared, with its recorded arguments."""
    args: dict[str, object] = {}
    for event in trace.events:
        if event.name == name:
            args.update({arg: value for arg, value in event.args.items() if arg not in args or args[arg] is None})
    types = {
        arg: "bool" if isinstance(value, bool) else "text" if isinstance(value, str) else "float"
        for arg, value in args.items()
    }
    return replace(project, events=(*project.events, EventKind(name=name, args=types)))  # type: ignore[arg-type]


def event_undeclared(project: Project, name: str) -> Project:
    """Return the project with an event undeclared."""
    return replace(project, events=tuple(event for event in project.events if event.name != name))


def event_renamed(project: Project, name: str, new: str) -> Project:
    """Return the project with an event renamed in rules and feeds. Raises AvrinError.

    Recordings keep their own names: those that contain the old name then contain a different event.
    """
    check_name(new, [event.name for event in project.events if event.name != name])
    if new == name:
        return project
    for place in list(rule_places(project)):
        before = rule_at(project, place)
        change = event_renamed_in_template if is_template(project, place) else event_renamed_in
        if (after := change(before, name, new)) != before:
            project = with_rule(project, place, after)
    widgets = []
    for widget in project.widgets:
        lines, kind = widget.options.get("lines"), KINDS.get(widget.kind)
        if kind is not None and kind.tells_events and isinstance(lines, dict) and name in lines:
            if new in lines:
                raise AvrinError(f"{widget.title} already has a line for '{new}'", advice="Choose another name")
            told = {(new if key == name else key): text for key, text in lines.items()}
            widget = replace(widget, options={**widget.options, "lines": told})  # noqa: PLW2901
        widgets.append(widget)
    events = tuple(replace(event, name=new) if event.name == name else event for event in project.events)
    return replace(project, widgets=tuple(widgets), events=events)
