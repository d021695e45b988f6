"""A recording with other start values: "what if hull starts at 50", with the same recorded changes."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from msgspec.structs import replace

from avrin.project.project import Variable
from avrin.trace.arrays import FloatArray
from avrin.trace.frames import Column, Trace, Value

__all__ = ["with_start_values"]


def with_start_values(trace: Trace, starts: Mapping[str, Value], declared: Mapping[str, Variable]) -> Trace:
    """Return the trace with other start values for some variables in each run.

    A number then follows its recorded changes, clamped to its recorded extremes and its declared range.
    Anything else stays at its start value until it first changes; an unrecorded variable keeps it throughout.
    """
    columns = dict(trace.columns)
    for name, start in starts.items():
        column = columns.get(name)
        if column is None:
            one = Column.of([start])
            columns[name] = Column(one.kind, np.full(len(trace), one.data[0], one.data.dtype), one.words)
        elif column.kind == "number" and isinstance(start, int | float) and not isinstance(start, bool):
            columns[name] = replace(column, data=_shifted(trace, column.data, float(start), declared.get(name)))
        elif (changed := _until_it_changes(trace, column, start)) is not None:
            columns[name] = changed
    return Trace(trace.name, trace.t, trace.run, columns, trace.events, trace.clock)


def _shifted(trace: Trace, data: FloatArray, start: float, variable: Variable | None) -> FloatArray:
    """Apply changes step by step, because clamping has a memory: a hull at 0 that is repaired by 20 is at 20."""
    ends = [float(np.nanmin(data)), float(np.nanmax(data)), start] if np.isfinite(data).any() else [start]
    low, high = min(ends), max(ends)
    if variable is not None and not variable.guessed:
        low = variable.low if variable.low is not None else low
        high = variable.high if variable.high is not None else high
    out = data.copy()
    for _, first, end in trace.runs():
        there = first + np.flatnonzero(np.isfinite(data[first:end]))
        if not len(there):
            continue
        moved = np.flatnonzero(np.diff(data[there]) != 0) + 1
        begins = np.concatenate(([0], moved))
        level, levels = min(max(start, low), high), []
        for step in np.diff(data[there[begins]], prepend=data[there[0]]).tolist():
            level = min(max(level + step, low), high)
            levels.append(level)
        out[there] = np.repeat(np.array(levels), np.diff(begins, append=len(there)))
    return out


def _until_it_changes(trace: Trace, column: Column, start: Value) -> Column | None:
    """Replace a flag or a text until its first change in each run; None if the start has another type."""
    one = Column.of([start])
    if one.kind != column.kind or start is None:
        return None
    words = column.words if start in column.words or column.kind != "text" else (*column.words, str(start))
    value = words.index(str(start)) if column.kind == "text" else one.data[0]
    data = column.data.copy()
    for _, first, end in trace.runs():
        mine = data[first:end]
        moved = np.flatnonzero(mine != mine[0])
        mine[: int(moved[0]) if len(moved) else len(mine)] = value
    return Column(column.kind, data, words)
