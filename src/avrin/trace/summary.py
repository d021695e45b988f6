"""What a trace holds, column by column, for people who just got it."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from avrin.model import VariableType
from avrin.trace.frames import Column, Trace

__all__ = ["ColumnSummary", "summarise", "summarise_column"]


class ColumnSummary(Struct, frozen=True):
    """One column told in a line.

    type: as the cells look. low, high: the least and the greatest value, None if all are missing or the column is
    none of numbers. missing: share of frames without a value, 0–1. changes: frames whose value differs from the frame
    before, in the same run. words: the texts that occur.
    """

    name: str
    type: VariableType
    low: float | None
    high: float | None
    missing: float
    changes: int
    words: tuple[str, ...] = ()


def summarise(trace: Trace) -> list[ColumnSummary]:
    """A summary of every column, in the file's order."""
    return [summarise_column(name, column, trace) for name, column in trace.columns.items()]


def summarise_column(name: str, column: Column, trace: Trace) -> ColumnSummary:
    """A summary of one column of a trace."""
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
