"""Edit rosters: create from columns, rename, resize and dissolve; rules and recordings' names follow."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping

from msgspec.structs import replace

from avrin.binding.declarations import followed, linked
from avrin.errors import AvrinError
from avrin.project.project import Project, Recording, Roster, Variable
from avrin.storage.files import check_name
from avrin.trace.frames import Column
from avrin.trace.naming import FoundRoster, plain_name

__all__ = ["found_by", "rename_roster", "widened", "with_roster", "without_roster"]

MOST_SLOTS = 256
SLOT_PATTERN = re.compile(r"(?P<roster>.+?)\[(?P<slot>\d+)\]\.(?P<field>.+)")
Has = Callable[[Recording, str], bool]


def with_roster(project: Project, candidate: FoundRoster, has: Has = lambda _recording, _name: True) -> Project:
    """Return the project with variables grouped into a roster; rules name its slots instead.

    has: whether a recording contains a name of the project's. Raises AvrinError if the name is used.
    """
    known = {variable.name: variable for variable in project.variables}
    other = {own: new for listed in project.traces for own, new in listed.names.items()}
    now = {own: other.get(own, own) for own in candidate.columns}
    mine = set(now.values())
    check_name(candidate.name, _taken(project) - mine)
    fields: dict[str, Variable] = {}
    for own, (_, part) in candidate.columns.items():
        variable = known.get(now[own])
        if variable is not None and (part not in fields or fields[part].start is None):
            fields[part] = replace(variable, name=part)
    roster = Roster(name=candidate.name, slots=candidate.slots, fields=tuple(fields.values()))
    project = replace(
        project, variables=tuple(v for v in project.variables if v.name not in mine), rosters=(*project.rosters, roster)
    )
    for own, new in candidate.names.items():
        project = followed(project, now[own], new)
        project = linked(project, now[own], new, has)
    return project


def without_roster(project: Project, name: str, has: Has = lambda _recording, _name: True) -> Project:
    """Return the project with a roster dissolved into variables, under the recordings' names if possible.

    Rules that name a slot by number follow; those that use `slot` cannot.
    """
    roster = next(one for one in project.rosters if one.name == name)
    own_of = {new: own for listed in project.traces for own, new in listed.names.items()}
    project = replace(project, rosters=tuple(one for one in project.rosters if one.name != name))
    taken = _taken(project)
    for slot in range(roster.slots):
        for field in roster.fields:
            full = f"{name}[{slot}].{field.name}"
            if not any(has(listed, full) for listed in project.traces):
                continue
            new, number = plain_name(own_of.get(full, full)), 2
            while new in taken:
                new, number = f"{plain_name(own_of.get(full, full))}_{number}", number + 1
            taken.add(new)
            project = replace(project, variables=(*project.variables, replace(field, name=new)))
            project = linked(followed(project, full, new), full, new, has)
    return project


def rename_roster(project: Project, name: str, new: str, has: Has = lambda _recording, _name: True) -> Project:
    """Return the project with a roster renamed, in every rule as well. Raises AvrinError for an invalid name."""
    if name == new:
        return project
    check_name(new, _taken(project) - {name})
    roster = next(one for one in project.rosters if one.name == name)
    project = replace(
        project, rosters=tuple(replace(one, name=new) if one.name == name else one for one in project.rosters)
    )
    for slot in range(roster.slots):
        for field in roster.fields:
            project = linked(project, f"{name}[{slot}].{field.name}", f"{new}[{slot}].{field.name}", has)
    project = followed(project, f"{name}[]", f"{new}[]")
    widgets = tuple(
        replace(
            widget, repeat=new if widget.repeat == name else widget.repeat,
            options={key: new if (key, value) == ("roster", name) else value for key, value in widget.options.items()},
        )
        for widget in project.widgets
    )  # fmt: skip
    events = tuple(replace(event, over=new) if event.over == name else event for event in project.events)
    players = new if project.players == name else project.players
    return replace(project, widgets=widgets, events=events, players=players)


def widened(project: Project, name: str, slots: int) -> Project:
    """Return the project with a roster's number of slots changed. Raises AvrinError for an invalid number."""
    if not 1 <= slots <= MOST_SLOTS:
        raise AvrinError(f"a roster has 1 to {MOST_SLOTS} slots", advice="Choose another number")
    return replace(
        project, rosters=tuple(replace(one, slots=slots) if one.name == name else one for one in project.rosters)
    )


def found_by(pattern: str, columns: Mapping[str, Column], name: str = "") -> FoundRoster:
    """Return the columns that match a pattern as a roster: `diver#_` matches diver1_scrap, diver2_name and so on.

    pattern: the start of their names, with # for the number. name: of the roster; by default from the pattern. Raises
    AvrinError if no column matches.
    """
    before, mark, after = pattern.strip().partition("#")
    if not mark or not before.strip():
        raise AvrinError(f"'{pattern}' has no # for the number", advice="Write for example diver#_")
    expression = re.compile(rf"{re.escape(before)}(\d+){re.escape(after)}(.*)")
    found = [(own, match) for own in columns if (match := expression.fullmatch(own)) is not None]
    if not found:
        raise AvrinError(f"no column matches '{pattern}'", advice="Write # in place of the number")
    least = min(int(match[1]) for _, match in found)
    slots = max(int(match[1]) for _, match in found) - least + 1
    if slots > MOST_SLOTS:
        raise AvrinError(f"that would be {slots} slots; a roster has {MOST_SLOTS} at most")
    members = {own: (int(match[1]) - least, plain_name(match[2].strip("_.- ]") or "value")) for own, match in found}
    kinds: dict[str, str] = {}
    for own, (_, part) in members.items():
        if kinds.setdefault(part, columns[own].kind) != columns[own].kind:
            raise AvrinError(f"'{part}' is now a {kinds[part]}, now a {columns[own].kind}", place=(f"column '{own}'",))
    title = name or plain_name(before.strip("_.- ["))
    return FoundRoster(title, slots, tuple(kinds), members, least)


def _taken(project: Project) -> set[str]:
    named: Iterable[str] = (
        *(v.name for v in project.variables), *(d.name for d in project.derived), *(r.name for r in project.rosters)
    )  # fmt: skip
    return set(named)
