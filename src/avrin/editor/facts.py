"""Facts about a variable or an event in a few rows: declaration, recorded values, users."""

from __future__ import annotations

from itertools import islice

from avrin.binding.places import is_template, place_title, rule_at, rule_places
from avrin.editor.snapshot import Snapshot
from avrin.project.project import Variable
from avrin.render.values import clock, format_value, with_unit
from avrin.rules.rename import renamed, renamed_in_template
from avrin.trace.summary import summarise_column

__all__ = ["facts"]

MAX_READ = 1000  # occurrences whose arguments are listed
NAMES = {"int": "whole number", "float": "number", "bool": "yes or no", "text": "text"}


def facts(now: Snapshot, name: str) -> list[tuple[str, str]]:
    """Return labels with their texts."""
    if name.endswith("()"):
        return _event(now, name.removesuffix("()"))
    variable = now.variable(name)
    found = _declared(variable) if variable is not None else []
    if now.is_derived(name):
        named = _users(now, name)
        return [("used in", ", ".join(named[:8]) + (" …" if len(named) > 8 else ""))] if named else []
    column = now.recorded_column(name)
    if column is None:
        return [*found, ("recorded", "not in this recording")]
    summary = summarise_column(name, column, now.trace)
    unit = variable.unit if variable is not None else ""
    seen = ", ".join(summary.words[:6]) if summary.words else ""
    if summary.low is not None and summary.high is not None:
        seen = f"{format_value(summary.low)} to {with_unit(summary.high, unit)}"
    parts = [seen, f"{summary.changes:,} changes", f"missing {summary.missing:.1%}" if summary.missing else ""]
    found.append(("recorded", ", ".join(part for part in parts if part)))
    if name in now.pins:
        found.append(("pinned at", with_unit(now.pins[name], unit)))
    named = _users(now, name)
    if named:
        found.append(("used in", ", ".join(named[:8]) + (" …" if len(named) > 8 else "")))
    return found


def _declared(variable: Variable) -> list[tuple[str, str]]:
    found = [("type", NAMES[variable.type])]
    low, high = variable.low, variable.high
    if low is not None and high is not None:
        found.append(("range", f"{format_value(float(low))} to {with_unit(float(high), variable.unit)}"))
    elif low is not None:
        found.append(("range", f"at least {with_unit(float(low), variable.unit)}"))
    elif high is not None:
        found.append(("range", f"at most {with_unit(float(high), variable.unit)}"))
    if variable.start is not None:
        start = variable.start if isinstance(variable.start, bool | str) else float(variable.start)
        found.append(("start", with_unit(start, variable.unit)))
    found.append(("restart", "keeps its value" if variable.keeps else "is reset"))
    if variable.owner:
        found.append(("of", variable.owner))
    if variable.note:
        found.append(("note", variable.note))
    return found


def _users(now: Snapshot, name: str) -> list[str]:
    """Return places whose rules use the name."""
    project = now.project
    found = []
    for place in rule_places(project):
        change = renamed_in_template if is_template(project, place) else renamed
        text = rule_at(project, place)
        if change(text, name, "a_name_that_is_not_there") != text:
            found.append(place_title(project, place))
    return list(dict.fromkeys(found))


def _event(now: Snapshot, name: str) -> list[tuple[str, str]]:
    mine = now.tracks.occurrences(name)
    found = [("happens" if mine.derived else "recorded", f"{len(mine):,} times" if len(mine) != 1 else "once")]
    if mine:
        found.append(("first", clock(mine[0].t)))
        some = list(islice(mine, MAX_READ))
        for arg in dict.fromkeys(arg for event in some for arg in event.args):
            values = list(dict.fromkeys(format_value(event.args.get(arg)) for event in some))
            found.append((arg, ", ".join(values[:6]) + (" …" if len(values) > 6 else "")))
    return found
