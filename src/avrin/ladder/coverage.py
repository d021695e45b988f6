"""Which states of a widget the recordings showed: how often, for how long, and which never."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from avrin.trace import Array
from avrin.widgets import BoundWidget, Tracks, changes

__all__ = ["HIDDEN", "Stay", "coverage"]

HIDDEN = "hidden"


class Stay(Struct, frozen=True):
    """How one recording showed one state. share: of its frames, 0–1. times: unbroken stretches within runs.

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
    """By state — each band, "" for none, and hidden — what each recording showed of it, in the order given."""
    states = [band.name for band in widget.widget.bands] + ["", HIDDEN]
    return {state: [_stay(one, widget, state) for one in tracks] for state in states}


def _stay(tracks: Tracks, widget: BoundWidget, state: str) -> Stay:
    visible = tracks.column(widget.columns["visible"]).data > 0
    if state == HIDDEN:
        mask = ~visible
    else:
        band = tracks.column(widget.columns["band"])
        code = band.words.index(state) if state in band.words else -2
        mask = visible & (band.data == code)
    lengths, first = _stretches(mask, tracks)
    return Stay(
        tracks.trace.name, int(mask.sum()), float(mask.mean()) if len(mask) else 0.0, len(lengths),
        min(lengths, default=None), max(lengths, default=None), first,
    )  # fmt: skip


def _stretches(mask: Array, tracks: Tracks) -> tuple[list[float], float | None]:
    """The lengths of all stretches in seconds, cut at restarts, and when the first began."""
    trace = tracks.trace
    cuts = np.unique(np.concatenate([[0], changes(mask.astype(np.int8)), trace.run_starts, [len(mask)]])).astype(int)
    lengths, first = [], None
    for start, end in zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True):
        if not mask[start]:
            continue
        until = (
            trace.axis[end]
            if end < len(mask) and trace.run[end] == trace.run[start]
            else trace.axis[end - 1] + trace.frame_time
        )
        lengths.append(float(until - trace.axis[start]))
        first = float(trace.axis[start]) if first is None else first
    return lengths, first
