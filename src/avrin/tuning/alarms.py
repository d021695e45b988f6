"""Alarms of a band for many limits at once, over one recording."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.trace.frames import FloatArray
from avrin.tuning.signals import Signal

__all__ = ["Alarms", "alarms"]

AT_ONCE = 300_000  # values times frames processed together, to fit the processor's cache
Frames = NDArray[np.int64]


class Alarms(Struct, frozen=True, eq=False):
    """Alarms for many values, grouped by value and ordered in time. All of shape (alarms,).

    value: its index. first, last: the first and the last frame. run: the index of its run.
    on: frames the band is on, by value, shape (values,).
    """

    value: Frames
    first: Frames
    last: Frames
    run: Frames
    on: Frames


def alarms(
    signal: Signal, values: FloatArray, *, below: bool, sticky: bool, gap: float | None, held: float = 0.0
) -> Alarms:
    """Return when a band's condition holds for each value, including `back` and `held`.

    values: shape (values,). below: it is entered below its limit, else above. gap: distance of `back` from the limit, None if
    the signal has `back` per frame. held: seconds the condition must hold first.
    """
    at, level, back, starts = _turning(signal)
    if not len(at):
        nothing = np.zeros(0, np.int64)
        return Alarms(nothing, nothing, nothing, nothing, np.zeros(len(values), np.int64))
    ends = np.append(at[1:], len(signal.level))  # the next frame with another level
    rows = max(1, AT_ONCE // len(at))
    parts = []
    for i in range(0, len(values), rows):
        limit = values[i : i + rows, None]
        on = level < limit if below else level > limit  # false where missing
        left = _is_left(limit, level, back, on, starts, below=below, gap=gap) if sticky else None
        if held > 0:
            value, first, last = _waited(signal.t, on, left, at, ends, starts, held)
        else:
            value, first, last = _rows(on if left is None else _latched(on, left), at, ends, starts)
        parts.append((value + i, first, last))
    value, first, last = (np.concatenate([part[k] for part in parts]) for k in range(3))
    frames = np.bincount(value, last - first + 1, len(values)).astype(np.int64)
    run = np.searchsorted(signal.runs[:, 0], first, "right") - 1
    return Alarms(value, first, last, run, frames)


def _turning(signal: Signal) -> tuple[Frames, FloatArray, FloatArray | None, NDArray[np.bool_]]:
    """Return the frames on which the level or `back` changes or a run begins, with both values there."""
    level, back = signal.level, signal.back
    new = np.ones(len(level), bool)
    new[1:] = (level[1:] != level[:-1]) & ~(np.isnan(level[1:]) & np.isnan(level[:-1]))
    if back is not None:
        new[1:] |= back[1:] != back[:-1]
    begins = np.zeros(len(level), bool)
    begins[signal.runs[:, 0]] = True
    at = np.flatnonzero(new | begins)
    return at, level[at], back[at] if back is not None else None, begins[at]


def _is_left(
    limit: FloatArray, level: FloatArray, back: FloatArray | None, on: NDArray[np.bool_], starts: NDArray[np.bool_],
    *, below: bool, gap: float | None,
) -> NDArray[np.bool_]:  # fmt: skip
    """Return where the level is outside and a run begins, or the level is back at or beyond the leaving limit.

    limit: shape (values, 1). on: where it is inside, shape (values, frames). Returns that shape.
    """
    leave = limit + gap if gap is not None else back
    assert leave is not None  # a band with hysteresis has one of them
    found: NDArray[np.bool_] = level >= leave if below else level <= leave
    found |= starts
    return np.greater(found, on)  # "and not", in half the time


def _rows(on: NDArray[np.bool_], at: Frames, ends: Frames, starts: NDArray[np.bool_]) -> tuple[Frames, Frames, Frames]:
    """Return value, first and last frame of each stretch of true. on: shape (values, considered frames)."""
    # A stretch begins where it turns true or another run begins; it ends before the next false or another run.
    begins, over = on.copy(), on.copy()
    begins[:, 1:] &= ~on[:, :-1] | starts[1:]
    over[:, :-1] &= ~on[:, 1:] | starts[1:]
    value, first = np.divmod(np.flatnonzero(begins), len(at))  # flat: several times faster than row by row
    last = np.flatnonzero(over) % len(at)
    return value, at[first], ends[last] - 1


def _waited(
    t: FloatArray, on: NDArray[np.bool_], leaves: NDArray[np.bool_] | None, at: Frames, ends: Frames,
    starts: NDArray[np.bool_], held: float,
) -> tuple[Frames, Frames, Frames]:  # fmt: skip
    """Do the same for bands that must hold for some seconds first. leaves: where they are leaves, with hysteresis."""
    value, first, last = _rows(on, at, ends, starts)
    came, above = first.copy(), last + 1  # the first late enough frame, found by bisection between these two
    while (came < above).any():
        middle = (came + above) // 2
        late = t[np.minimum(middle, last)] - t[first] >= held
        came, above = np.where(late, came, np.minimum(middle + 1, above)), np.where(late, middle, above)
    there = came <= last
    value, came, last = value[there], came[there], last[there]
    if leaves is None:
        return value, came, last
    # It stays until the next frame on which it is left, or until its run ends; re-entering before that is the same alarm.
    count = len(at)
    out = np.flatnonzero(leaves | starts)
    column = np.searchsorted(at, came, "right") - 1
    after = np.searchsorted(out, value * count + column, "right")
    until = np.minimum(np.append(out, on.size)[after], (value + 1) * count)
    stays, kept = np.unique(until, return_index=True)
    return value[kept], came[kept], np.append(at, ends[-1])[stays - value[kept] * count] - 1


def _latched(entered: NDArray[np.bool_], leaves: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Return the latch: on from where it is entered until it is left; never both on one frame. Shape (values, frames)."""
    frames = entered.shape[1]
    number = np.arange(1, frames + 1, dtype=np.int16 if frames < 2**15 else np.int32)
    latest_in, latest_out = entered * number, leaves * number
    np.maximum.accumulate(latest_in, axis=1, out=latest_in)
    np.maximum.accumulate(latest_out, axis=1, out=latest_out)
    found: NDArray[np.bool_] = latest_in > latest_out
    return found
