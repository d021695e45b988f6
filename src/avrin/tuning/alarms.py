"""When a band is on at many limits at once: the alarms of each, over one recording."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.trace import FloatArray
from avrin.tuning.signals import Signal

__all__ = ["Alarms", "alarms"]

AT_ONCE = 300_000  # values times frames that are looked at together: what a processor keeps near
Frames = NDArray[np.int64]


class Alarms(Struct, frozen=True, eq=False):
    """Alarms at many values, those of the first value first, each value's in time. All of shape (alarms,).

    value: which one. first: the frame on which it begins. last: its last frame. run: which run it lies in.
    on: frames that the band is on, by value, shape (values,).
    """

    value: Frames
    first: Frames
    last: Frames
    run: Frames
    on: Frames


def alarms(signal: Signal, values: FloatArray, *, below: bool, sticky: bool, gap: float | None) -> Alarms:
    """Where a band's own condition holds at each value, its `back` included.

    values: shape (values,). below: it is entered below them, else above. gap: of `back` from each, None where the signal has
    it frame by frame.
    """
    at, level, back, starts = _turning(signal)
    if not len(at):
        nothing = np.zeros(0, np.int64)
        return Alarms(nothing, nothing, nothing, nothing, np.zeros(len(values), np.int64))
    ends = np.append(at[1:], len(signal.level))  # a frame after the last one that looks the same
    rows = max(1, AT_ONCE // len(at))
    parts = [
        _of(values[i : i + rows], i, at, ends, level, back, starts, below=below, sticky=sticky, gap=gap)
        for i in range(0, len(values), rows)
    ]
    value, first, last = (np.concatenate([part[k] for part in parts]) for k in range(3))
    on = np.bincount(value, last - first + 1, len(values)).astype(np.int64)
    run = np.searchsorted(signal.runs[:, 0], first, "right") - 1
    return Alarms(value, first, last, run, on)


def _turning(signal: Signal) -> tuple[Frames, FloatArray, FloatArray | None, NDArray[np.bool_]]:
    """The frames on which the level, or what it goes back at, is another than before, or a run begins; with both there."""
    level, back = signal.level, signal.back
    new = np.ones(len(level), bool)
    new[1:] = (level[1:] != level[:-1]) & ~(np.isnan(level[1:]) & np.isnan(level[:-1]))
    if back is not None:
        new[1:] |= back[1:] != back[:-1]
    begins = np.zeros(len(level), bool)
    begins[signal.runs[:, 0]] = True
    at = np.flatnonzero(new | begins)
    return at, level[at], back[at] if back is not None else None, begins[at]


def _of(
    values: FloatArray, number: int, at: Frames, ends: Frames, level: FloatArray, back: FloatArray | None,
    starts: NDArray[np.bool_], *, below: bool, sticky: bool, gap: float | None,
) -> tuple[Frames, Frames, Frames]:  # fmt: skip
    limit = values[:, None]
    on = level < limit if below else level > limit  # missing is neither
    if sticky:
        leave = limit + gap if gap is not None else back
        assert leave is not None  # what is sticky has either
        left = level >= leave if below else level <= leave
        on = _latched(on, (left | starts) & ~on)
    # A row begins where it is on and was not, or another run begins; it ends before the next that is off, or another run.
    begins, over = on.copy(), on.copy()
    begins[:, 1:] &= ~on[:, :-1] | starts[1:]
    over[:, :-1] &= ~on[:, 1:] | starts[1:]
    value, first = np.divmod(np.flatnonzero(begins), len(at))  # flat: several times quicker than by rows
    last = np.flatnonzero(over) % len(at)
    return value + number, at[first], ends[last] - 1


def _latched(entered: NDArray[np.bool_], left: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """On from where it is entered until it is left; never both on one frame. Shape (values, frames)."""
    frames = entered.shape[1]
    number = np.arange(1, frames + 1, dtype=np.int16 if frames < 2**15 else np.int32)
    latest_in, latest_out = entered * number, left * number
    np.maximum.accumulate(latest_in, axis=1, out=latest_in)
    np.maximum.accumulate(latest_out, axis=1, out=latest_out)
    found: NDArray[np.bool_] = latest_in > latest_out
    return found
