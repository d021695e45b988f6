"""Suggest outcomes: conditions of a recording that a warning could be about."""

from __future__ import annotations

from collections.abc import Sequence

from avrin.project.project import Project
from avrin.trace.behaviour import behaviour
from avrin.trace.frames import Trace

__all__ = ["rare_flags"]

MAX_SHARE = 0.2  # of the frames: a flag that is true more often is a state
MAX_RISES_PER_MINUTE = 2.0


def rare_flags(project: Project, traces: Sequence[Trace]) -> dict[str, str]:
    """Return rules for flags that are rarely true, by flag name, except those that are outcomes of the project already."""
    known = {outcome.rule.strip() for outcome in project.outcomes}
    found: dict[str, str] = {}
    for variable in project.variables:
        if variable.type not in ("bool", "int"):
            continue
        rule = variable.name if variable.type == "bool" else f"{variable.name} == 1"
        if rule in known:
            continue
        told = [behaviour(column, trace) for trace in traces if (column := trace.find(variable.name)) is not None]
        mine = [one for one in told if one.sort == "flag"]
        minutes = sum(trace.length for trace in traces) / 60
        rises = sum(one.changes for one in mine) / 2
        whole = all(one.sort in ("flag", "still") for one in told)
        if (
            mine
            and whole
            and max(one.on for one in mine) <= MAX_SHARE
            and rises <= max(1.0, MAX_RISES_PER_MINUTE * minutes)
        ):
            found[variable.name] = rule
    return found
