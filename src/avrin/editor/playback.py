"""Commands that move the playhead."""

from __future__ import annotations

from weakref import WeakKeyDictionary

import numpy as np

from avrin.binding.tracks import Tracks
from avrin.editor.snapshot import Selection, Snapshot
from avrin.trace.frames import Array

__all__ = [
    "SPEEDS", "change_speed", "go_to", "go_to_seconds", "moments", "next_moment", "previous_moment", "set_playing",
]  # fmt: skip

SPEEDS = (0.25, 0.5, 1.0, 2.0, 4.0)
# Painted at each frame, and the same until the tracks or the selection change.
_MOMENTS: WeakKeyDictionary[Tracks, tuple[Selection, Array]] = WeakKeyDictionary()


def go_to(now: Snapshot, frame: int) -> Snapshot:
    """Move the playhead, clamped to the trace."""
    frame = min(max(0, frame), max(0, len(now.trace) - 1))
    if frame == now.frame:
        return now
    then = now.replaced(frame=frame)
    return then.replaced("view") if now.view.follows and then.plate is not now.plate else then


def go_to_seconds(now: Snapshot, seconds: float) -> Snapshot:
    """Move the playhead to a time on the axis."""
    return go_to(now, now.trace.frame_at(seconds))


def moments(now: Snapshot) -> Array:
    """Return frames at which something visible changes, of the selected widget or of all.

    Returns: ascending frame numbers, shape (moments,).
    """
    known = _MOMENTS.get(now.tracks)
    if known is None or known[0] != now.selection:
        found = now.tracks.moments([now.widget] if now.widget is not None else None)
        known = _MOMENTS[now.tracks] = (now.selection, found)
    return known[1]


def next_moment(now: Snapshot) -> Snapshot:
    """Go to the next moment."""
    after = moments(now)
    at = int(np.searchsorted(after, now.frame, "right"))
    return go_to(now, int(after[at])) if at < len(after) else now


def previous_moment(now: Snapshot) -> Snapshot:
    """Go to the previous moment."""
    before = moments(now)
    at = int(np.searchsorted(before, now.frame, "left")) - 1
    return go_to(now, int(before[at])) if at >= 0 else now


def set_playing(now: Snapshot, playing: bool) -> Snapshot:
    """Start or stop playback; starting at the end begins at the start."""
    if playing and now.frame >= len(now.trace) - 1 and not now.growing:
        now = go_to(now, 0)
    return now.replaced(playing=playing)


def change_speed(now: Snapshot, steps: int) -> Snapshot:
    """Change to a faster (slower) speed."""
    at = min(range(len(SPEEDS)), key=lambda i: abs(SPEEDS[i] - now.speed))
    return now.replaced(speed=SPEEDS[min(max(0, at + steps), len(SPEEDS) - 1)])
