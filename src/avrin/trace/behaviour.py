"""How a recorded variable behaves: what it is likely to mean to a player, told from its values alone.

A vital starts full, falls when something happens and recovers; a score only grows; a count-down loses a second each
second; a position wanders. Names are looked at elsewhere, and second.
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from avrin.model import VariableType
from avrin.trace.clock import counts_runs
from avrin.trace.frames import FALSE, MISSING, TRUE, Array, Column, FloatArray, Trace

__all__ = ["Behaviour", "RunsFound", "Sort", "behaviour", "runs_by_behaviour"]

Sort = Literal["still", "vital", "gauge", "grows", "counts down", "counts up", "wanders", "flag", "words"]
NEAR_TOP = 0.6  # of the highest: where the runs of a vital begin
DEEP = 0.25  # of the highest: how far a vital falls at least
DIP = 0.5  # of the highest: how far below zero a vital may dip; further down it is something that goes both ways
RESTS = 0.005  # share of frames that a level rests at an end of its own
JUMP = 0.04  # of the highest: a step at once, such as a blow or a refill
RESTLESS = 0.3  # share of frames at which a reading turns: above it is noise
LIVES = 3  # runs in which a vital falls to one value above zero, for that to be its bottom
BOTTOM = 0.1  # of the way from the highest to the lowest: how near each run comes to either
NOTHING = 0.1  # of the highest: so low is as good as nothing
SHALLOW = 0.05  # of the highest: less than that is no fall
STEADY = 0.06  # how far a count of seconds may be off its second
UNITS = (1.0, 1000.0)  # a second in seconds, and in thousandths
AT_LEAST = 3  # columns that begin anew where a run does


class Behaviour(Struct, frozen=True):
    """One variable over a recording.

    sort: what it is like. type: as its cells look. low, high: the extremes, None where there are none. start: the first
    value. alike: whether every run begins with the same one. changes: frames whose value differs from the frame before.
    restless: whether those are a third of the frames or more.
    bottom: where a vital ends that never comes near zero, the same in each life; None for zero.
    rises, falls: how often. ends_low: share of runs that end at (or near) zero or below it.
    per_second: what it counts in a second, 1 or 1000; 0 where it counts none. stretch: seconds that a flag, or a text,
    stays in the median. on: share of frames at which a flag is true. ends_on: for how
    many seconds it is true at most before a run ends. words: the texts that occur, at most 13 of them.
    """

    sort: Sort
    type: VariableType
    low: float | None = None
    high: float | None = None
    start: float | str | bool | None = None
    alike: bool = True
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


class RunsFound(Struct, frozen=True):
    """A column that seems to tell runs apart. steps: how often it rises; back: columns that begin anew at its steps."""

    column: str
    steps: int
    back: int

    def __str__(self) -> str:
        times = "once" if self.steps == 1 else f"{self.steps} times"
        return f"{self.column} rises by one, {times}; {self.back} columns fall back to their first values there"


def behaviour(column: Column, trace: Trace) -> Behaviour:
    """How one column of a trace behaves."""
    missing = column.is_missing()
    share = float(missing.mean()) if len(trace) else 1.0
    if share == 1.0:
        kinds: dict[str, VariableType] = {"number": "float", "flag": "bool", "text": "text"}
        return Behaviour("still", kinds[column.kind], missing=share)
    start = column[int(np.argmin(missing))]
    if column.kind != "number":
        return _told_apart(column, missing, trace, start, share)
    return _number(column.data, missing, trace, start, share)


def _told_apart(
    column: Column, missing: NDArray[np.bool_], trace: Trace, start: float | str | bool | None, share: float
) -> Behaviour:
    """A flag or a text: how long it stays as it is."""
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
    )  # fmt: skip


def _round_down(low: float, span: float) -> float:
    """A number a little below one, with no more figures than a hundredth of a span needs."""
    step = 10.0 ** (math.floor(math.log10(span)) - 1)
    return float(f"{math.floor(low / step) * step:.12g}")


def _in_figures(
    data: Array, missing: NDArray[np.bool_], trace: Trace, start: float | str | bool | None, share: float, rises: int,
    falls: int,
) -> Behaviour:  # fmt: skip
    """A flag that is recorded as 0 and 1."""
    flags = Column("flag", np.where(missing, MISSING, np.where(data == 1, TRUE, FALSE)).astype(np.int8))
    found = _told_apart(flags, missing, trace, start, share)
    return replace(found, type="int", low=0.0, high=1.0, rises=rises, falls=falls)


def _falls_to_a_bottom(values: FloatArray, steps: FloatArray, begun: Array, low: float, high: float) -> bool:
    """Whether a number begins each of several runs at its top, and each one ends, or is lowest, at the same value above zero."""
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
    """What a number is like, and what it counts in a second."""
    moved = steps[steps != 0]
    if low == high:
        return "still", 0.0
    if not len(moved):  # each run has its own value and keeps it, such as a level's number
        return "wanders", 0.0
    up, down = float(moved[moved > 0].sum()), -float(moved[moved < 0].sum())
    if counted := _counts(values, steps, took, up, down):
        return counted
    if down <= 0.005 * up and up > 0:
        return "grows", 0.0
    turns = int((np.diff(np.sign(moved)) != 0).sum())
    if turns > RESTLESS * len(values):
        return "wanders", 0.0
    levels = bool(((values != low) & (values != high)).any())  # more than two: not a flag in figures
    if levels and high > 0 and low > -DIP * high and low <= (1 - DEEP) * high:
        middle = float(np.sort(starts)[len(starts) // 2])
        at_top, at_bottom = float((values == high).mean()), float((values == low).mean())
        # What only swings, smoothly and without ever resting at its top, is a place or an angle.
        rests = at_top >= RESTS or up == 0 or float(np.abs(moved).max()) >= JUMP * high
        if middle >= NEAR_TOP * high and rests and (moved[0] < 0 or at_top >= RESTS):
            return "vital", 0.0
        if 0 <= low <= 0.02 * high and min(at_top, at_bottom) >= RESTS:
            return "gauge", 0.0
    return "wanders", 0.0


def _counts(
    values: FloatArray, steps: FloatArray, took: FloatArray, up: float, down: float
) -> tuple[Sort, float] | None:
    """Whether it loses, or gains, a second each second, but for few steps in which it is set anew."""
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
            # At zero a count-down waits: what is asked is how long it took while it went.
            still = (steps == 0) & (values[1:] <= 0) if sign < 0 else np.zeros(len(steps), bool)
            spent = float(took[going & ~still].sum()) * unit
            biggest = float(np.abs(steps[along]).max())
            usual = float(np.sort(took[going])[int(going.sum()) // 2]) * unit
            smooth = biggest <= max(1.05 * unit, 4 * usual)
            if spent and abs(mine - spent) <= STEADY * spent + unit and smooth and mine >= 3 * unit:
                return ("counts down" if sort == "counts down" else "counts up"), unit
    return None


def runs_by_behaviour(trace: Trace) -> RunsFound | None:
    """A column that may tell runs apart though nothing said so: where it rises, several others begin anew."""
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
    """Whether a column comes to its first value at (nearly) all of some frames, from another one at half of them."""
    first = column.data[0]
    here, before = column.data[at], column.data[at - 1]
    return bool((here == first).mean() >= 0.8) and bool(((here == first) & (before != first)).mean() >= 0.5)
