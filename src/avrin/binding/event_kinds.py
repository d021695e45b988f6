"""Edit a project's events: declare from a recording, annotate, rename in all rules."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal

from msgspec.structs import replace

from avrin.binding.declarations import SLOT_PATTERN
from avrin.binding.places import is_template, rule_at, rule_places, with_rule
from avrin.errors import AvrinError
from avrin.kinds.registry import KINDS
from avrin.project.project import EventKind, Project, VariableType
from avrin.rules.common_subexpressions import event_renamed_in, event_renamed_in_template
from avrin.storage.files import check_name
from avrin.trace.frames import Trace

__all__ = ["Happening", "event_declared", "event_of", "event_renamed", "event_undeclared", "with_event"]


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


Happening = Literal["changes", "rises", "falls"]
WORDS: dict[Happening, str] = {"changes": "changed", "rises": "rose", "falls": "fell"}


def event_of(project: Project, name: str, happening: Happening, recorded: Collection[str] = ()) -> EventKind:
    """Return a derived event that happens whenever a variable changes, rises or falls, not yet in the project.

    name: a declared variable; a roster's field makes an event of every slot. A condition rises when it turns true.
    recorded: names of events that recordings contain, which are not used.
    """
    variable = project.all_variables()[name]
    match = SLOT_PATTERN.fullmatch(name)
    roster = next((one for one in project.rosters if match is not None and one.name == match["roster"]), None)
    value = f"{roster.name}[slot].{match['field']}" if match is not None and roster is not None else name
    args: dict[str, VariableType] = {}
    values: dict[str, str] = {}
    who = next((field.name for field in roster.fields if field.type == "text"), "") if roster is not None else ""
    if roster is not None:
        args["who"] = "text" if who else "int"
        values["who"] = f"{roster.name}[slot].{who}" if who else "slot + 1"
    if variable.type in ("int", "float"):
        when = {"changes": f"changed({value})", "rises": f"change({value}) > 0", "falls": f"change({value}) < 0"}[
            happening
        ]
        args |= {"by": variable.type, "to": variable.type}
        values |= {"by": f"-change({value})" if happening == "falls" else f"change({value})", "to": value}
    elif variable.type == "bool":
        when = {"changes": f"changed({value})", "rises": f"rose({value})", "falls": f"fell({value})"}[happening]
    else:
        when = f"changed({value}) and length({value}) > 0"
        args["to"], values["to"] = "text", value
    wanted = f"{match['field'] if match is not None else name}_{WORDS[happening]}"
    known = {*(event.name for event in project.events), *recorded}
    title = next(one for one in (wanted, *(f"{wanted}_{i}" for i in range(2, len(known) + 3))) if one not in known)
    return EventKind(name=title, args=args, when=when, values=values, over=roster.name if roster is not None else "")


def with_event(project: Project, event: EventKind) -> Project:
    """Return the project with an event added; unchanged if it has one of that name."""
    known = any(one.name == event.name for one in project.events)
    return project if known else replace(project, events=(*project.events, event))


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
