"""Walk through the moments, findings or comments of the visible recording, one at a time."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from avrin.editor.comments import about, comment_frames
from avrin.editor.playback import moments
from avrin.editor.snapshot import Snapshot

if TYPE_CHECKING:
    from avrin.findings.finding import Finding

__all__ = ["WALKS", "next_stop"]

WALKS = ("moments", "differences", "findings", "comments")
Stop = tuple[int, str]  # a frame, and what is there


def next_stop(now: Snapshot, walk: str, by: int, findings: Sequence[Finding]) -> Stop | None:
    """Return the next stop after the playhead, or the one before it if `by` is negative; None if there is none.

    walk: one of `WALKS` but differences, which the comparison walks itself. findings: of the visible recording.
    """
    if walk == "moments":
        stops: list[Stop] = [(int(frame), "") for frame in moments(now)]
    elif walk == "findings":
        stops = sorted((first, one.why) for one in findings for first, _ in one.stretches)
    else:
        stops = [(frame, f"{about(now.project, one)}: {one.text}") for frame, one in comment_frames(now)]
    later = [stop for stop in stops if (stop[0] > now.frame if by > 0 else stop[0] < now.frame)]
    if not later:
        return None
    frame, words = later[0] if by > 0 else later[-1]
    return frame, words or _changed(now, frame)


def _changed(now: Snapshot, frame: int) -> str:
    """Describe what changed at a frame: the first widget with another state, and that state."""
    for widget in now.bound.widgets.values() if frame else ():
        before, after = (now.tracks.value(widget.state, at) for at in (frame - 1, frame))
        if before != after:
            return f"{widget.widget.title}: {now.bound.state_word(widget, after)}"
    run = int(now.trace.run[frame]) if len(now.trace) else 1
    return f"run {run} begins" if frame in now.trace.run_starts else ""
