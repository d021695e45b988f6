"""Count how often recordings hold each value of a driver, and on which frame first."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.bound import Bound
from avrin.ladder.drivers import driver_step, recorded_values
from avrin.project.project import Variable, VariableType
from avrin.trace.frames import Array, Column, ColumnKind, FloatArray, Trace, Value

__all__ = ["Distribution", "Found", "declaration", "distributions", "found_value", "found_within", "typical_number"]

TYPES: dict[ColumnKind, VariableType] = {"number": "float", "flag": "bool", "text": "text"}

_KEPT = "distributions"  # traces are immutable, so the counts are cached with them


class Found(Struct, frozen=True):
    """Occurrences of some values. frames: number of frames with one. first: seconds on the axis of `trace`, None for never."""

    frames: int = 0
    first: float | None = None
    trace: str = ""


class Distribution(Struct, frozen=True, eq=False):
    """The values of one recording. All of shape (distinct values,).

    codes: ascending numbers; flags and texts in the column's codes. frames: number of frames with each; first: the
    first one. words: of a text's codes. missing: frames without a value, and the first of those or -1.
    """

    trace: Trace
    kind: str
    codes: Array
    frames: Array
    first: Array
    words: tuple[str, ...]
    missing: tuple[int, int]

    @classmethod
    def of(cls, trace: Trace, column: Column | None) -> Distribution:
        """Count a column's values except missing ones; a trace without the column has none."""
        if column is None:
            nothing = np.zeros(0, np.int64)
            return cls(trace, "", np.zeros(0), nothing, nothing, (), (0, -1))
        absent = np.flatnonzero(column.is_missing())
        there = np.flatnonzero(~column.is_missing()) if len(absent) else np.arange(len(column.data))
        codes, first, frames = np.unique(column.data[there], return_index=True, return_counts=True)
        missing = (len(absent), int(absent[0]) if len(absent) else -1)
        return cls(trace, column.kind, codes, frames, there[first], tuple(column.words), missing)

    def within(self, low: float, high: float) -> slice:
        """Return the slice of numbers from `low` up to, but not including, `high`; infinity is included."""
        if self.kind != "number":
            return slice(0, 0)
        start, end = np.searchsorted(self.codes, [low, high], "left").tolist()
        return slice(start, len(self.codes) if high == np.inf else end)

    def in_order(self) -> Array:
        """Its codes in order of first occurrence, shape (distinct values,)."""
        return self.codes[np.argsort(self.first)]

    def with_value(self, value: Value) -> slice:
        """Return the slice of one value, which must not be missing."""
        code: float
        if isinstance(value, bool):
            kind, code = "flag", float(Column.of([value]).data[0])
        elif isinstance(value, str):
            kind, code = "text", float(self.words.index(value)) if value in self.words else -1.0
        else:
            kind, code = "number", float(value or 0.0)
        if self.kind != kind:
            return slice(0, 0)
        start = int(np.searchsorted(self.codes, code, "left"))
        return slice(start, start + (start < len(self.codes) and float(self.codes[start]) == code))


def declaration(bound: Bound, name: str, recorded: Sequence[Distribution]) -> Variable:
    """Return a driver's declaration; for a derived value inferred from its rule and the recordings."""
    variable = bound.project.all_variables().get(name)
    if variable is not None:
        return replace(variable, name=name)
    numbers = [one.codes for one in recorded if one.kind == "number" and len(one.codes)]
    whole = bool(numbers) and all(np.array_equal(codes, np.rint(codes)) for codes in numbers)
    return Variable(name=name, type="int" if whole else TYPES[driver_step(bound, name).kind])


def distributions(bound: Bound, name: str, traces: Sequence[Trace]) -> list[Distribution]:
    """Count a driver's values in each recording."""
    declared = name in bound.project.all_variables()
    found = []
    for trace in traces:
        kept: dict[str, Distribution] = trace.__dict__.setdefault(_KEPT, {}) if declared else {}
        if name not in kept:
            (column,) = recorded_values(bound, name, [trace])
            kept[name] = Distribution.of(trace, column)
        found.append(kept[name])
    return found


def found_within(recorded: Sequence[Distribution], low: float, high: float) -> Found:
    """Count numbers from `low` up to, but not including, `high`, over recordings in order."""
    return _count([(one, one.within(low, high)) for one in recorded])


def found_value(recorded: Sequence[Distribution], value: Value) -> Found:
    """Count one value over recordings; None counts frames where a recorded driver is missing."""
    if value is not None:
        return _count([(one, one.with_value(value)) for one in recorded])
    having = [one for one in recorded if one.missing[0]]
    if not having:
        return Found()
    trace = having[0].trace
    return Found(sum(one.missing[0] for one in having), float(trace.axis[having[0].missing[1]]), trace.name)


def _count(parts: Sequence[tuple[Distribution, slice]]) -> Found:
    having = [(one, part) for one, part in parts if part.stop > part.start]
    if not having:
        return Found()
    one, part = having[0]
    frames = sum(int(one.frames[part].sum()) for one, part in having)
    return Found(frames, float(one.trace.axis[int(one.first[part].min())]), one.trace.name)


def typical_number(recorded: Sequence[Distribution], low: float, high: float, *, integers: bool) -> float | None:
    """Return the representative number from `low` up to `high`: the most frequent one, or the (lower) median.

    None if nothing was recorded there.
    """
    parts = [(one, one.within(low, high)) for one in recorded]
    values: FloatArray = np.concatenate(
        [np.zeros(0), *(one.codes[part] for one, part in parts if one.kind == "number")]
    )
    if not len(values):
        return None
    weights = np.concatenate([one.frames[part] for one, part in parts if one.kind == "number"])
    values, of = np.unique(values, return_inverse=True)
    counts = np.bincount(of.reshape(-1), weights)
    if integers:
        return float(values[np.argmax(counts)])
    return float(values[np.searchsorted(np.cumsum(counts), counts.sum() / 2, "left")])
