"""Value differences of two projects: stretches of frames on which a track column differs, over all frames."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
from msgspec import Struct

from avrin.binding.binding import bind
from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.project.project import Project
from avrin.rules.check import Events
from avrin.trace.frames import Array, Column, Trace, Value

__all__ = ["Stretch", "both_bound", "differs", "rows_of", "stretches"]


class Stretch(Struct, frozen=True):
    """Consecutive frames of one run on which a column differs.

    widget: as in tracks, `ID[slot]` if repeated. first, last: times of the first and last frame, in seconds.
    start: its first frame. old, new: the values there.
    """

    trace: str
    widget: str
    column: str
    run: int
    first: float
    last: float
    frames: int
    old: Value
    new: Value
    start: int


def both_bound(old: Project, new: Project, events: Events, folders: tuple[Path, Path]) -> tuple[Bound, Bound]:
    """Bind both projects on one graph, so that equal rules are one step.

    events: events of any recording. folders: of each project's assets.
    """
    before = bind(old, events=events, folder=folders[0])
    return before, bind(new, before, events, folders[1])


def stretches(old: Tracks, new: Tracks) -> Iterator[Stretch]:
    """Yield those of one recording, by widget in the new project's order, by column, by time.

    Both must be over the same recording and of one graph: equal steps need no comparison.
    """
    trace = new.trace
    for ident, widget in new.bound.widgets.items():
        other = old.bound.widgets.get(ident)
        if other is None:
            continue
        copies = {one.slot: one for one in other.each()} if _is_repeated(other) == _is_repeated(widget) else {}
        for copy in widget.each():
            if copy.slot in copies:
                named = f"{ident}[{copy.slot}]" if _is_repeated(widget) else ident
                yield from _of_widget(trace, named, (old, copies[copy.slot]), (new, copy))


def _is_repeated(widget: BoundWidget) -> bool:
    return bool(widget.widget.repeat)


def _of_widget(
    trace: Trace, column: str, old: tuple[Tracks, BoundWidget], new: tuple[Tracks, BoundWidget]
) -> Iterator[Stretch]:
    (there, before), (here, after) = old, new
    for name, step in after.columns.items():
        if name not in before.columns or before.columns[name] is step:
            continue
        one, other = there.column(before.columns[name]), here.column(step)
        for start, end in rows_of(trace, differs(one, other)):
            yield Stretch(
                trace.name, column, name, int(trace.run[start]), float(trace.t[start]), float(trace.t[end - 1]), end - start,
                one[start], other[start], start,
            )  # fmt: skip


def differs(first: Column, second: Column) -> Array:
    """Compare columns; missing equals missing, texts are compared by content. Returns flags, shape (T,)."""
    found: Array
    if first.kind != second.kind:
        found = ~(first.is_missing() & second.is_missing())
    elif first.kind == "number":
        found = (first.data != second.data) & ~(np.isnan(first.data) & np.isnan(second.data))
    else:  # of one graph, so equal texts have equal codes
        found = first.data != second.data
    return found


def rows_of(trace: Trace, differs: Array) -> list[tuple[int, int]]:
    """Return first and end frame of each stretch within a run. differs: flags, shape (T,)."""
    if not differs.any():
        return []
    begins, ends = differs.copy(), differs.copy()
    starts = np.zeros(len(differs), bool)
    starts[trace.run_starts] = True
    begins[1:] &= ~differs[:-1] | starts[1:]
    ends[:-1] &= ~differs[1:] | starts[1:]
    return list(zip(np.flatnonzero(begins).tolist(), (np.flatnonzero(ends) + 1).tolist(), strict=True))
