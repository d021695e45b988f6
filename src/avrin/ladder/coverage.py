"""State coverage: which states of a widget the recordings showed, how often and how long, and which never."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.kinds.states import HIDDEN
from avrin.trace.frames import FloatArray

__all__ = ["Stay", "Stretches", "coverage", "state_stretches"]

Frames = NDArray[np.int64]


class Stretches(Struct, frozen=True, eq=False):
    """Maximal stretches of one run in which a widget is in one state, in order. All of shape (stretches,).

    state: indexes into `names`. first, end: first and end frame. run: its number.
    seconds: the total duration of its frames.
    """

    names: tuple[str, ...]
    state: Frames
    first: Frames
    end: Frames
    run: Frames
    seconds: FloatArray


def state_stretches(tracks: Tracks, widget: BoundWidget) -> Stretches:
    """Return the states of a widget or a copy in a recording: the band's name, "" for none, or another state word.

    Names are in the order of first occurrence.
    """
    trace = tracks.trace
    column = tracks.column(widget.state)
    codes = column.data
    new = np.ones(len(codes), bool)
    new[1:] = codes[1:] != codes[:-1]
    new[trace.run_starts] = True
    first = np.flatnonzero(new)
    if not len(first):
        nothing = np.zeros(0, np.int64)
        return Stretches((), nothing, nothing, nothing, nothing, np.zeros(0))
    known, came, state = np.unique(codes[first], return_index=True, return_inverse=True)
    order = np.argsort(came)
    ranks = np.empty(len(order), np.int64)
    ranks[order] = np.arange(len(order))
    names = tuple(column.words[known[i]] for i in order.tolist())
    return Stretches(
        names, ranks[state.reshape(-1)], first, np.append(first[1:], len(codes)), trace.run[first].astype(np.int64),
        np.add.reduceat(trace.lasting, first),
    )  # fmt: skip


class Stay(Struct, frozen=True):
    """The occurrence of one state in one recording. share: of its time, 0–1. times: stretches within runs.

    shortest, longest: in seconds; first: the first start, seconds on the axis; None if it never occurred.
    """

    trace: str
    frames: int
    share: float
    times: int
    shortest: float | None
    longest: float | None
    first: float | None


def coverage(tracks: Sequence[Tracks], widget: BoundWidget) -> dict[str, list[Stay]]:
    """Return by state (each band, "" for none, hidden and other recorded states) its occurrence in each recording.

    For a repeated widget all copies are combined.
    """
    each = [(one, [state_stretches(one, copy) for copy in widget.each()]) for one in tracks]
    usual = [*(band.name for band in widget.widget.bands), "", HIDDEN]
    states = dict.fromkeys([*usual, *(name for _, found in each for one in found for name in one.names)])
    return {state: [_stay(one, found, state) for one, found in each] for state in states}


def _stay(tracks: Tracks, copies: Sequence[Stretches], state: str) -> Stay:
    trace = tracks.trace
    having = [(found, found.state == found.names.index(state)) for found in copies if state in found.names]
    if not having:
        return Stay(trace.name, 0, 0.0, 0, None, None, None)
    seconds = np.concatenate([found.seconds[mine] for found, mine in having])
    first = min(int(found.first[mine][0]) for found, mine in having)
    frames = sum(int((found.end - found.first)[mine].sum()) for found, mine in having)
    whole = float(trace.lasting.sum()) * len(copies)
    share = float(seconds.sum()) / whole if whole else frames / (len(trace) * len(copies))
    return Stay(
        trace.name, frames, share, len(seconds), float(seconds.min()), float(seconds.max()), float(trace.axis[first])
    )  # fmt: skip
