"""What a trace holds, column by column, for people who just got it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from avrin.trace.frames import Column, Trace, Value

__all__ = ["ColumnSummary", "summarise"]


@dataclass(frozen=True, slots=True)
class ColumnSummary:
    """One column told in a line.

    type: int, float, bool or text, as the cells look. low, high: the least and the greatest value, None if all are
    missing or the column is none of numbers. missing: share of frames without a value, 0–1. changes: frames whose
    value differs from the frame before, in the same run. words: the texts that occur.
    """

    name: str
    type: str
    low: Value
    high: Value
    missing: float
    changes: int
    words: tuple[str, ...] = ()


def summarise(trace: Trace) -> list[ColumnSummary]:
    """A summary of every column, in the file's order."""
    return [_of(name, column, trace) for name, column in trace.columns.items()]


def _of(name: str, column: Column, trace: Trace) -> ColumnSummary:
    missing = column.is_missing()
    share = float(missing.mean()) if len(trace) else 0.0
    same = (column.data[1:] == column.data[:-1]) | (missing[1:] & missing[:-1])
    changes = int((~same & (np.diff(trace.run) == 0)).sum())
    if column.kind != "number":
        return ColumnSummary(
            name, {"flag": "bool", "text": "text"}[column.kind], None, None, share, changes, column.words
        )
    there = column.data[~missing]
    whole = len(there) > 0 and bool((there == np.rint(there)).all())
    low, high = (float(there.min()), float(there.max())) if len(there) else (None, None)
    return ColumnSummary(name, "int" if whole else "float", low, high, share, changes)
