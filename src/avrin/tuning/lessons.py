"""Prompts over recordings: shown when needed, hidden once learnt, and when obeyed.

A prompt is *needed* while `when` is true, *learnt* from the first frame of a run on which `until` is true, and *obeyed* after
the time from being shown to `until`.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.trace.frames import TRUE, Array, Trace

__all__ = ["Lesson", "is_lesson", "lesson_rows", "lesson_table", "lessons"]

COLUMNS = ("trace", "run", "needed", "shown", "gone", "waited", "needless", "after_learnt", "obeyed")


class Lesson(Struct, frozen=True):
    """An interval in which a prompt was needed or shown. Frames are the recording's, None if it was not.

    recording: its index. slot: of a repeated prompt. needed: where `when` became true. shown, gone: the first visible
    frame and the end frame. waited: seconds from needed to shown. needless: seconds it was visible but not needed.
    after_learnt: it appeared after being learnt. obeyed: seconds from shown to `until`, None if that never came
    in the run or had come before. teaches: whether its `until` can become true.
    """

    recording: int
    slot: int
    run: int
    needed: int | None
    shown: int | None
    gone: int | None = None
    waited: float | None = None
    needless: float = 0.0
    after_learnt: bool = False
    obeyed: float | None = None
    teaches: bool = True


def is_lesson(widget: BoundWidget) -> bool:
    """Return whether a widget asks for something until it is done."""
    return "when" in widget.inputs and "until" in widget.inputs


def lessons(every: Sequence[Tracks], ident: str) -> list[Lesson]:
    """Return every interval a prompt was needed or shown, over all recordings in order. Raises AvrinError for other widgets."""
    found = []
    for number, tracks in enumerate(every):
        widget = tracks.bound.widgets.get(ident)
        if widget is None or not is_lesson(widget):
            raise AvrinError(
                f"'{ident}' is not a prompt",
                advice="Choose a prompt",
                command="Name a prompt, or use --band and --before for another widget",
            )
        for copy in widget.each():
            found += _of(number, tracks, copy)
    return found


def _of(number: int, tracks: Tracks, widget: BoundWidget) -> list[Lesson]:
    trace = tracks.trace
    when, until = (_flags(tracks, widget, name) for name in ("when", "until"))
    seen: Array = tracks.column(widget.columns["visible"]).data > 0
    lasting, teaches = trace.lasting, widget.inputs["until"].constant is None
    found: list[Lesson] = []
    for run, first, end in trace.runs():
        known = np.flatnonzero(until[first:end]) + first
        learnt = int(known[0]) if len(known) else end
        needs, showings = _rows(when, first, end), _rows(seen, first, end)
        answered: set[int] = set()
        for start, stop in showings:
            need = next((one for one in needs if one[0] <= start < one[1] and one[0] not in answered), None)
            if need is not None:
                answered.add(need[0])
            after = known[known >= start] if learnt >= start else known[:0]
            found.append(Lesson(
                number, widget.slot, run, need[0] if need is not None else None, start, stop,
                float(trace.t[start] - trace.t[need[0]]) if need is not None else None,
                float(lasting[start:stop][~when[start:stop]].sum()), learnt < start,
                float(trace.t[after[0]] - trace.t[start]) if len(after) else None, teaches,
            ))  # fmt: skip
        missed = [start for start, _ in needs if start not in answered]
        found += [Lesson(number, widget.slot, run, start, None, teaches=teaches) for start in missed]
    return sorted(found, key=lambda lesson: lesson.needed if lesson.needed is not None else lesson.shown or 0)


def _flags(tracks: Tracks, widget: BoundWidget, name: str) -> Array:
    """Return where an input's condition is true, shape (frames,); missing counts as false."""
    return np.asarray(tracks.column(widget.inputs[name]).data == TRUE)


def _rows(mask: Array, first: int, end: int) -> list[tuple[int, int]]:
    """Return first and end frame of each stretch of true flags, shape (frames,), within a run."""
    edges = np.flatnonzero(np.diff(mask[first:end].astype(np.int8), prepend=0, append=0)) + first
    return list(zip(edges[0::2].tolist(), edges[1::2].tolist(), strict=True))


def lesson_rows(lessons_: Sequence[Lesson], every: Sequence[Trace]) -> list[list[str]]:
    """Return a table row per lesson; times in seconds from the recording's start; "" for None."""
    told = []
    for one in lessons_:
        trace = every[one.recording]
        at = [
            "" if frame is None else f"{float(trace.axis[min(frame, len(trace) - 1)]):.6g}"
            for frame in (one.needed, one.shown, one.gone)
        ]
        rest = ["" if number is None else f"{number:.6g}" for number in (one.waited, one.needless, one.obeyed)]
        after = ("yes" if one.after_learnt else "no") if one.shown is not None else ""
        told.append([trace.name, str(one.run), *at, rest[0], rest[1] if one.shown is not None else "", after, rest[2]])
    return told


def lesson_table(rows: Iterable[Sequence[str]]) -> str:
    """Return rows of lessons as CSV."""
    file = io.StringIO()
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(COLUMNS)
    writer.writerows(rows)
    return file.getvalue()
