"""Edit declarations: variables and roster fields, together with every rule that names them.

A roster's field can be named by any of its slots, `crew[2].scrap`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable

from msgspec.structs import replace

from avrin.binding.places import is_template, rule_at, rule_places, with_rule
from avrin.errors import AvrinError
from avrin.project.numbers import plain_number
from avrin.project.project import Project, Recording, Roster, Variable
from avrin.project.reserved_words import RESERVED
from avrin.rules.rename import renamed, renamed_in_template
from avrin.storage.files import check_name, is_name
from avrin.trace.declare import guess
from avrin.trace.frames import Trace

__all__ = ["all_declared", "declared", "followed", "linked", "rename", "undeclare", "with_variable"]

MOST_SLOTS = 256  # of a roster
SLOT_PATTERN = re.compile(r"(?P<roster>.+?)\[(?P<slot>\d+)\]\.(?P<field>.+)")


def with_variable(project: Project, name: str, **changes: object) -> Project:
    """Return the project with changed fields of a variable (all but its name).

    Raises AvrinError if the result is inconsistent, and KeyError for an undeclared name.
    """
    known = project.all_variables()[name]
    changed = replace(known, **{"guessed": False, **changes})  # no longer a guess once edited
    if changed.low is not None and changed.high is not None and changed.low >= changed.high:
        raise AvrinError(
            f"the range {plain_number(changed.low)} to {plain_number(changed.high)} is empty",
            advice="Write the lower end first",
        )
    if changed.type not in ("int", "float"):
        changed = replace(changed, low=None, high=None, unit="")
    changed = replace(changed, start=_start(changed))
    match = SLOT_PATTERN.fullmatch(name)
    if match is None:
        return replace(project, variables=tuple(changed if v.name == name else v for v in project.variables))
    return _with_fields(
        project, match["roster"], lambda fields: tuple(changed if f.name == match["field"] else f for f in fields)
    )


def _start(variable: Variable) -> float | str | bool | None:
    """Convert a start value to the variable's type; None if that is impossible."""
    start = variable.start
    if start is None:
        return None
    if variable.type == "bool":
        return start if isinstance(start, bool) else None
    if variable.type == "text":
        return start if isinstance(start, str) else None
    if isinstance(start, bool | str):
        return None
    return float(round(start)) if variable.type == "int" else start


def declared(project: Project, trace: Trace, name: str) -> Project:
    """Return the project with a trace's column declared; for a roster's field, the whole roster as recorded."""
    if name in project.all_variables() or name not in trace.columns:
        return project
    match = SLOT_PATTERN.fullmatch(name)
    if match is None:
        return replace(project, variables=(*project.variables, guess(trace, name)))
    found: dict[str, Variable] = {}
    slots = 0
    for column in trace.columns:
        mine = SLOT_PATTERN.fullmatch(column)
        if mine is not None and mine["roster"] == match["roster"]:
            slots = max(slots, int(mine["slot"]) + 1)
            guessed = guess(trace, column)
            found[mine["field"]] = widened(found[mine["field"]], guessed) if mine["field"] in found else guessed
    others = tuple(roster for roster in project.rosters if roster.name != match["roster"])
    return replace(project, rosters=(*others, Roster(name=match["roster"], slots=slots, fields=tuple(found.values()))))


def all_declared(project: Project, trace: Trace) -> Project:
    """Return the project with every usable column of a trace declared as a guess; rosters as wide as recorded.

    A guess from other recordings or slots is widened to cover this one.
    """
    variables = {variable.name: variable for variable in project.variables}
    known = set(variables)
    taken = known | {d.name for d in project.derived} | {r.name for r in project.rosters}
    fields: dict[str, dict[str, Variable]] = {r.name: {f.name: f for f in r.fields} for r in project.rosters}
    slots = {r.name: r.slots for r in project.rosters}
    for name in trace.columns:
        match = SLOT_PATTERN.fullmatch(name)
        if match is None:
            if name in variables and variables[name].guessed:
                variables[name] = widened(variables[name], guess(trace, name))
            elif name not in taken and is_name(name) and name not in RESERVED:
                variables[name] = guess(trace, name)
            continue
        roster, slot = match["roster"], int(match["slot"])
        if slot >= MOST_SLOTS or not is_name(match["field"]) or not is_name(roster) or roster in known | {*RESERVED}:
            continue
        slots[roster] = max(slots.get(roster, 0), slot + 1)
        mine = fields.setdefault(roster, {})
        field = mine.get(match["field"])
        if field is None:
            mine[match["field"]] = guess(trace, name)
        elif field.guessed:
            mine[match["field"]] = widened(field, guess(trace, name))
    old = {roster.name: roster for roster in project.rosters}
    rosters = tuple(
        replace(old[name], slots=count, fields=tuple(fields[name].values())) if name in old
        else Roster(name=name, slots=count, fields=tuple(fields[name].values()))
        for name, count in slots.items()
    )  # fmt: skip
    return replace(project, variables=tuple(variables.values()), rosters=rosters)


def widened(current: Variable, more: Variable) -> Variable:
    """Merge two guessed declarations of one variable so that both ranges are covered.

    A guess without recorded values (no start) does not count for the type.
    """
    if current.start is None or more.start is None:
        kind = current.type if more.start is None else more.type
    else:
        kind = "float" if {current.type, more.type} == {"int", "float"} else current.type
    lows = [one.low for one in (current, more) if one.low is not None]
    highs = [one.high for one in (current, more) if one.high is not None]
    number = kind in ("int", "float")
    return replace(
        current, type=kind, start=more.start if current.start is None else current.start, unit=current.unit or more.unit,
        low=min(lows) if number and lows else None, high=max(highs) if number and highs else None,
    )  # fmt: skip


def undeclare(project: Project, name: str) -> Project:
    """Return the project without a variable, or without the roster of a field."""
    match = SLOT_PATTERN.fullmatch(name)
    if match is None:
        return replace(project, variables=tuple(v for v in project.variables if v.name != name))
    return replace(project, rosters=tuple(r for r in project.rosters if r.name != match["roster"]))


def rename(
    project: Project, name: str, new: str, has: Callable[[Recording, str], bool] = lambda _recording, _name: True
) -> Project:
    """Return the project with a variable, derived value or roster field renamed, in every rule as well.

    Recordings keep their own names and store the mapping. has: whether a recording contains a name.
    Raises AvrinError if the new name cannot be used.
    """
    match = SLOT_PATTERN.fullmatch(name)
    if match is not None:
        old_field, roster = match["field"], match["roster"]
        fields = next(r.fields for r in project.rosters if r.name == roster)
        check_name(new, [f.name for f in fields if f.name != old_field])
        project = _with_fields(
            project, roster, lambda fields: tuple(replace(f, name=new) if f.name == old_field else f for f in fields)
        )
        slots = next(r.slots for r in project.rosters if r.name == roster)
        for slot in range(slots):
            project = linked(project, f"{roster}[{slot}].{old_field}", f"{roster}[{slot}].{new}", has)
        return followed(project, f"{roster}[].{old_field}", f"{roster}[].{new}")
    taken = {
        *(v.name for v in project.variables),
        *(d.name for d in project.derived),
        *(r.name for r in project.rosters),
    }
    check_name(new, taken - {name})
    project = replace(
        project,
        variables=tuple(replace(v, name=new) if v.name == name else v for v in project.variables),
        derived=tuple(replace(d, name=new) if d.name == name else d for d in project.derived),
    )
    if any(v.name == new for v in project.variables):
        project = linked(project, name, new, has)
    return followed(project, name, new)


def linked(project: Project, old: str, new: str, has: Callable[[Recording, str], bool]) -> Project:
    """Return the project whose recordings map what was called `old` to `new`."""

    def named(listed: Recording) -> Recording:
        own = next((own for own, name in listed.names.items() if name == old), None)
        if own is None and not has(listed, old):
            return listed
        names = {key: value for key, value in listed.names.items() if key != (own or old)}
        if (own or old) != new:
            names[own or old] = new
        starts = {new if name == old else name: value for name, value in listed.starts.items()}
        return replace(listed, names=names, starts=starts)

    return replace(project, traces=tuple(map(named, project.traces)))


def followed(project: Project, old: str, new: str) -> Project:
    """Return the project with a name replaced in rules and actions. old, new: as for `renamed`."""
    for place in list(rule_places(project)):
        text = rule_at(project, place)
        change = renamed_in_template if is_template(project, place) else renamed
        if (other := change(text, old, new)) != text:
            project = with_rule(project, place, other)
    actions = tuple(
        replace(action, does=tuple(replace(c, set=renamed(c.set, old, new)) for c in action.does))
        for action in project.actions
    )
    return replace(project, actions=actions)


def _with_fields(
    project: Project, roster: str, change: Callable[[tuple[Variable, ...]], tuple[Variable, ...]]
) -> Project:
    def changed(rosters: Iterable[Roster]) -> tuple[Roster, ...]:
        return tuple(replace(r, fields=change(r.fields)) if r.name == roster else r for r in rosters)

    return replace(project, rosters=changed(project.rosters))
