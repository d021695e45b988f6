"""Classify a recorded variable by its values alone: what it probably means to a player.

A vital starts full, falls in steps and recovers; a score only grows; a countdown loses a second per
second; a position wanders. Names are considered elsewhere, and only second.
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from avrin.project.project import VariableType
from avrin.trace.clock import counts_runs
from avrin.trace.frames import FALSE, MISSING, TRUE, Array, Column, FloatArray, Trace

__all__ = ["Behaviour", "RunsFound", "Sort", "behaviour", "runs_by_behaviour"]

Sort = Literal["still", "vital", "gauge", "grows", "counts down", "counts up", "wanders", "flag", "words"]
NEAR_TOP = 0.6  # of the maximum: runs of a vital start above this
DEEP = 0.25  # of the maximum: a vital falls at least this far
DIP = 0.5  # of the maximum: how far below zero a vital may go; a value that goes lower is signed
RESTS = 0.005  # share of frames at which a level rests at one of its own ends
JUMP = 0.04  # of the maximum: the smallest sudden change, such as a hit or a refill
RESTLESS = 0.3  # share of frames at which a value reverses; above it is noise
LIVES = 3  # runs in which a vital must fall to the same value above zero for that to be its bottom
BOTTOM = 0.1  # of the range: how close each run must come to either end
NOTHING = 0.1  # of the maximum: a value this low counts as empty
SHALLOW = 0.05  # of the maximum: a smaller fall is ignored
STEADY = 0.06  # how far a count of seconds may deviate from one per second
EVEN = 0.6  # share of a clock's steps that are as long as the time since the one before: it may be paused
UNITS = (1.0, 1000.0)  # units per second: seconds and milliseconds
AT_LEAST = 3  # columns that must reset at the start of a run


class Behaviour(Struct, frozen=True):
    """The behaviour of one variable over a recording.

    sort: its class. type: the type its cells suggest. low, high: extremes; None if there are none. start: the first
    value. same_start: every run begins with the same value. changes: frames whose value differs from the previous frame.
    restless: whether at least a third of the frames change.
    bottom: the lowest value of a vital that never comes near zero, the same in each life; None for zero.
    rises, falls: how often. ends_low: share of runs that end at, near or below zero.
    per_second: units it counts per second, 1 or 1000; 0 if it is not a clock. stretch: median seconds a flag or a text
    keeps its value. on: share of frames at which a flag is true. ends_on: the most
    seconds it is true before a run ends. words: the texts that occur, at most 13 of them.
    between_falls: the median seconds between two falls of a run; 0 with fewer than two.
    """

    sort: Sort
    type: VariableType
    low: float | None = None
    high: float | None = None
    start: float | str | bool | None = None
    same_start: bool = True
    changes: int = 0
    restless: bool = False
    rises: int = 0
    falls: int = 0
    ends_low: float = 0.0
    per_second: float = 0.0
    stretch: float = 0.0
    on: float = 0.0
    words: tuple[str, ...] = ()
    missing: float = 0.0
    bottom: float | None = None
    ends_on: float = 0.0
    between_falls: float = 0.0


class RunsFound(Struct, frozen=True):
    """A column that probably numbers runs. steps: how often it rises; back: columns that reset at those steps."""

    column: str
    steps: int
    back: int

    def __str__(self) -> str:
        times = "once" if self.steps == 1 else f"{self.steps} times"
        return f"{self.column} rises by one, {times}; {self.back} columns fall back to their first values there"


def behaviour(column: Column, trace: Trace) -> Behaviour:
    """Return the behaviour of one column of a trace."""
    missing = column.is_missing()
    share = float(missing.mean()) if len(trace) else 1.0
    if share == 1.0:
        kinds: dict[str, VariableType] = {"number": "float", "flag": "bool", "text": "text"}
        return Behaviour("still", kinds[column.kind], missing=share)
    start = column[int(np.argmin(missing))]
    if column.kind != "number":
        return _discrete_behaviour(column, missing, trace, start, share)
    return _number(column.data, missing, trace, start, share)


def _discrete_behaviour(
    column: Column, missing: NDArray[np.bool_], trace: Trace, start: float | str | bool | None, share: float
) -> Behaviour:
    """Return the behaviour of a flag or a text: how long it keeps its value."""
    data = column.data
    new = np.flatnonzero((data[1:] != data[:-1]) | (np.diff(trace.run) != 0)) + 1
    starts = np.concatenate(([0], new))
    ends = np.concatenate((new, [len(data)]))
    lengths = trace.axis[np.minimum(ends, len(data) - 1)] - trace.axis[starts]
    changes = int(((data[1:] != data[:-1]) & (np.diff(trace.run) == 0)).sum())
    alike = len({column[int(at)] for at in trace.run_starts}) == 1
    if column.kind == "flag":
        mine = lengths[data[starts] == TRUE]
        stretch = float(np.sort(mine)[len(mine) // 2]) if len(mine) else 0.0
        on = float((data == TRUE).mean())
        last = (data[starts] == TRUE) & np.isin(ends, [end for _, _, end in trace.runs()])
        return Behaviour(
            "flag" if changes else "still", "bool", None, None, start, alike, changes, stretch=stretch, on=on,
            missing=share, ends_on=float(lengths[last].max(initial=0.0)),
        )  # fmt: skip
    there = lengths[~missing[starts]]
    stretch = float(np.sort(there)[len(there) // 2]) if len(there) else 0.0
    used = np.flatnonzero(np.bincount(data[~missing])).tolist()
    words = tuple(column.words[code] for code in used[:13])
    return Behaviour("words" if changes or len(used) > 1 else "still", "text", None, None, start, alike, changes,
                     stretch=stretch, words=words, missing=share)  # fmt: skip


def _number(
    data: Array, missing: NDArray[np.bool_], trace: Trace, start: float | str | bool | None, share: float
) -> Behaviour:
    there = np.flatnonzero(~missing)
    values, run, t = data[there], trace.run[there], trace.t[there]
    low, high = float(values.min()), float(values.max())
    whole = bool((values == np.rint(values)).all())
    same = np.diff(run) == 0
    steps = np.where(same, np.diff(values), 0.0)
    moved = steps != 0
    begun = np.concatenate(([0], np.flatnonzero(~same) + 1))
    starts, ends = values[begun], values[np.concatenate((begun[1:] - 1, [len(values) - 1]))]
    changes, rises, falls = int(moved.sum()), int((steps > 0).sum()), int((steps < 0).sum())
    if changes and low == 0 and high == 1 and whole:
        return _in_figures(data, missing, trace, start, share, rises, falls)
    sort, per_second = _sort(values, steps, np.where(same, np.diff(t), 0.0), starts, low, high)
    bottom = None
    if sort == "wanders" and _falls_to_a_bottom(values, steps, begun, low, high):
        sort, bottom = "vital", _round_down(low, high - low)
    near = max(0.0, high) * 0.05
    return Behaviour(
        sort, "int" if whole else "float", low, high, start, bool((starts == starts[0]).all()), changes,
        3 * changes >= len(values), rises, falls,
        float((ends <= near).mean()) if bottom is None else 1.0, per_second, missing=share, bottom=bottom,
        between_falls=_between(steps < 0, t, run),
    )  # fmt: skip


def _between(falls: NDArray[np.bool_], t: FloatArray, run: Array) -> float:
    """Return the median seconds between two falls of one run; 0 with fewer than two. falls: of each step, shape (T − 1,)."""
    at = np.flatnonzero(falls) + 1
    passed = np.diff(t[at])[np.diff(run[at]) == 0]
    return float(np.median(passed)) if len(passed) else 0.0


def _round_down(low: float, span: float) -> float:
    """Return a number slightly below `low`, with no more digits than a hundredth of the span needs."""
    step = 10.0 ** (math.floor(math.log10(span)) - 1)
    return float(f"{math.floor(low / step) * step:.12g}")


def _in_figures(
    data: Array, missing: NDArray[np.bool_], trace: Trace, start: float | str | bool | None, share: float, rises: int,
    falls: int,
) -> Behaviour:  # fmt: skip
    """Return the behaviour of a flag recorded as 0 and 1."""
    flags = Column("flag", np.where(missing, MISSING, np.where(data == 1, TRUE, FALSE)).astype(np.int8))
    found = _discrete_behaviour(flags, missing, trace, start, share)
    return replace(found, type="int", low=0.0, high=1.0, rises=rises, falls=falls)


def _falls_to_a_bottom(values: FloatArray, steps: FloatArray, begun: Array, low: float, high: float) -> bool:
    """Return whether a number starts several runs at its top and reaches the same lowest value above zero in each."""
    if len(begun) < LIVES or low <= NOTHING * high or high - low < SHALLOW * high:
        return False
    near = BOTTOM * (high - low)
    tops = values[begun] >= high - near
    lowest = np.minimum.reduceat(values, begun) <= low + near
    moved = steps[steps != 0]
    turns = int((np.diff(np.sign(moved)) != 0).sum())
    return bool(tops.all() and lowest.all()) and turns <= RESTLESS * len(values)


def _sort(
    values: FloatArray, steps: FloatArray, took: FloatArray, starts: FloatArray, low: float, high: float
) -> tuple[Sort, float]:
    """Return a number's class and what it counts per second."""
    moved = steps[steps != 0]
    if low == high:
        return "still", 0.0
    if not len(moved):  # constant within each run, such as the number of a level
        return "wanders", 0.0
    up, down = float(moved[moved > 0].sum()), -float(moved[moved < 0].sum())
    if counted := _counts(values, steps, took, up, down):
        return counted
    if down <= 0.005 * up and up > 0:
        return "grows", 0.0
    turns = int((np.diff(np.sign(moved)) != 0).sum())
    if turns > RESTLESS * len(values):
        return "wanders", 0.0
    levels = bool(((values != low) & (values != high)).any())  # more than two values: not a flag recorded as a number
    if levels and high > 0 and low > -DIP * high and low <= (1 - DEEP) * high:
        middle = float(np.sort(starts)[len(starts) // 2])
        at_top, at_bottom = float((values == high).mean()), float((values == low).mean())
        # A value that only oscillates smoothly and never rests at its top is a position or an angle.
        rests = at_top >= RESTS or up == 0 or float(np.abs(moved).max()) >= JUMP * high
        if middle >= NEAR_TOP * high and rests and (moved[0] < 0 or at_top >= RESTS):
            return "vital", 0.0
        if 0 <= low <= 0.02 * high and min(at_top, at_bottom) >= RESTS:
            return "gauge", 0.0
    return "wanders", 0.0


def _counts(
    values: FloatArray, steps: FloatArray, took: FloatArray, up: float, down: float
) -> tuple[Sort, float] | None:
    """Return whether a number loses or gains one second per second, except at a few resets."""
    going = took > 0
    if going.sum() < 10:
        return None
    for unit in UNITS:
        for sign, sort in ((-1.0, "counts down"), (1.0, "counts up")):
            mine, back = (down, up) if sign < 0 else (up, down)
            along = steps * sign > 0
            against = int((steps * sign < 0).sum())
            if not along.any() or (against > max(3, 0.02 * along.sum()) and back > 0):
                continue
            # A countdown waits at zero, so only the time while it moved counts.
            still = (steps == 0) & (values[1:] <= 0) if sign < 0 else np.zeros(len(steps), bool)
            spent = float(took[going & ~still].sum()) * unit
            biggest = float(np.abs(steps[along]).max())
            usual = float(np.sort(took[going])[int(going.sum()) // 2]) * unit
            smooth = biggest <= max(1.05 * unit, 4 * usual)
            even = _is_even(steps[along] * sign, np.cumsum(took)[along] * unit, 1.5 * usual)
            if spent and abs(mine - spent) <= STEADY * spent + unit and smooth and even and mine >= 3 * unit:
                return ("counts down" if sort == "counts down" else "counts up"), unit
    return None


def _is_even(moved: FloatArray, at: FloatArray, slack: float) -> bool:
    """Return whether most moves are as long as the time since the one before: a clock, unlike kills at one a second.

    moved, at: how far, and when, in the clock's unit, shape (moves,). slack: by how much they may differ.
    """
    return len(moved) < 2 or float((np.abs(moved[1:] - np.diff(at)) <= slack).mean()) >= EVEN


def runs_by_behaviour(trace: Trace) -> RunsFound | None:
    """Return an undeclared column that probably numbers runs: several others reset where it rises."""
    if len(trace.run_starts) > 1 or len(trace) < 3:
        return None
    numbers = {name: c.data for name, c in trace.columns.items() if c.kind == "number"}
    best: RunsFound | None = None
    for name, data in numbers.items():
        if not counts_runs(data):
            continue
        at = np.flatnonzero(np.diff(data) > 0) + 1
        if not 1 <= len(at) <= len(trace) // 10:
            continue
        back = sum(
            1 for other, c in trace.columns.items()
            if other != name and _begins_anew(c, at)
        )  # fmt: skip
        if back >= AT_LEAST and (best is None or back > best.back):
            best = RunsFound(name, len(at), back)
    return best


def _begins_anew(column: Column, at: NDArray[np.intp]) -> bool:
    """Return whether a column returns to its first value at (nearly) all of some frames, changing at half of them."""
    first = column.data[0]
    here, before = column.data[at], column.data[at - 1]
    return bool((here == first).mean() >= 0.8) and bool(((here == first) & (before != first)).mean() >= 0.5)
