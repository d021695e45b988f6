"""The parts of the editor's state, and the record of which of them changed."""

from __future__ import annotations

from typing import Literal, get_args

from msgspec import Struct

__all__ = ["PARTS", "Change", "Part", "Result", "StatePart"]

# Parts of the snapshot, each with a version number:
#   file: the project's file, and external recordings     project: as edited
#   history: undo steps, and what was saved               access: whether another window has the project open
#   recordings: those that were read                      recording: the visible one
#   trace: the visible recording with pins applied        grown: more frames of the same trace
#   tracks: what the HUD shows over it                    pins, driving: values set by hand
#   playhead, playing, view, selection, layout, ground: see the fields of the snapshot
#   opened: another project                               message: something to tell the user
#   waiting: an evaluation to do in the background
StatePart = Literal[
    "file", "project", "history", "access", "recordings", "recording", "trace", "grown", "tracks", "pins", "driving",
    "playhead", "playing", "view", "selection", "layout", "ground", "opened", "message", "waiting",
]  # fmt: skip
# Results computed from the snapshot, which arrive later. figures: numbers beside the picture, updated less often than it
# during playback. film: another picture of a video behind the HUD.
Result = Literal["figures", "suggestions", "findings", "comparison", "extent", "film", "sweep"]
Part = StatePart | Result
PARTS: tuple[StatePart, ...] = get_args(StatePart)


class Change(Struct, frozen=True):
    """One change of the editor: the parts that differ from before."""

    parts: frozenset[Part]

    def of(self, *parts: Part) -> bool:
        """Return whether any of these parts changed."""
        return not self.parts.isdisjoint(parts)
