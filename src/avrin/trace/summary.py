"""A summary of each column of a trace, for a first look at a recording."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from avrin.project.project import VariableType
from avrin.trace.frames import Column, Trace

__all__ = ["ColumnSummary", "summarise", "summarise_column"]


class ColumnSummary(Struct, frozen=True):
    """The summary of one column.

    type: as its cells suggest. low, high: minimum and maximum; None if everything is missing or it is not a
    number. missing: share of frames without a value, 0–1. changes: frames whose value differs from the previous one
    in the same run. words: the texts that occur.
    """

    name: str
    type: VariableType
    low: float | None
    high: float | None
    missing: float
    changes: int
    words: tuple[str, ...] = ()


def summarise(trace: Trace) -> list[ColumnSummary]:
    """Return a summary of every column, in the file's order."""
    return [summarise_column(name, column, trace) for name, column in trace.columns.items()]


def summarise_column(name: str, column: Column, trace: Trace) -> ColumnSummary:
    """Return a summary of one column of a trace."""
    missing = column.is_missing()
    share = float(missing.mean()) if len(trace) else 0.0
    same = (column.data[1:] == column.data[:-1]) | (missing[1:] & missing[:-1])
    changes = int((~same & (np.diff(trace.run) == 0)).sum())
    if column.kind == "flag":
        return ColumnSummary(name, "bool", None, None, share, changes)
    if column.kind == "text":
        return ColumnSummary(name, "text", None, None, share, changes, column.words)
    there = column.data[~missing]
    whole = len(there) > 0 and bool((there == np.rint(there)).all())
    low, high = (float(there.min()), float(there.max())) if len(there) else (None, None)
    return ColumnSummary(name, "int" if whole else "float", low, high, share, changes)
