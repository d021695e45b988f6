"""Which states of a widget the recordings showed: how often, for how long, and which never."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.trace import FloatArray
from avrin.widgets import HIDDEN, BoundWidget, Tracks

__all__ = ["Stay", "Stretches", "coverage", "state_stretches"]

Frames = NDArray[np.int64]


class Stretches(Struct, frozen=True, eq=False):
    """Longest rows of frames of one run on which a widget is in one state, in time. All of shape (stretches,).

    state: numbers of `names`. first, end: its first frame, and the one after its last. run: its number.
    seconds: how long, by how long each frame lasts.
    """

    names: tuple[str, ...]
    state: Frames
    first: Frames
    end: Frames
    run: Frames
    seconds: FloatArray


def state_stretches(tracks: Tracks, widget: BoundWidget) -> Stretches:
    """Every state a recording shows of a widget, or of one of its copies: the band's name, "" for none, or another state's word.

    Names come in the order in which the states do.
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
    """How one recording showed one state. share: of its time, 0–1. times: unbroken stretches within runs.

    shortest, longest: of those, in seconds; first: when it came first, seconds on the axis; None where it never did.
    """

    trace: str
    frames: int
    share: float
    times: int
    shortest: float | None
    longest: float | None
    first: float | None


def coverage(tracks: Sequence[Tracks], widget: BoundWidget) -> dict[str, list[Stay]]:
    """By state — each band, "" for none, hidden, and what else one showed — what each recording showed of it, in the order given.

    Of a repeated widget it is what all its copies together showed.
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
