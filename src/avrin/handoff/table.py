"""The table of expected states for tests in the game: states at the frames where one changes."""

from __future__ import annotations

import numpy as np

from avrin.binding.tracks import changes
from avrin.trace.frames import Column, Trace

__all__ = ["at_changes"]


def at_changes(track: Trace) -> Trace:
    """Return a track reduced to each run's first frame and the frames at which any column changes."""
    marks = np.zeros(len(track), bool)
    marks[track.run_starts] = True
    for column in track.columns.values():
        marks[changes(column.data)] = True
    at = np.flatnonzero(marks)
    kept = {name: Column(c.kind, c.data[at], c.words) for name, c in track.columns.items()}
    return Trace(track.name, track.t[at], track.run[at], kept)
