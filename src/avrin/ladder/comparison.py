"""Compare a ladder row with the same widget before an edit: the values at which it looks different."""

from __future__ import annotations

from collections.abc import Generator, Mapping

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.kinds.shapes import Group
from avrin.ladder.drivers import is_driver
from avrin.ladder.probe import Probe
from avrin.ladder.rows import Row
from avrin.render.scene import widget_shapes
from avrin.trace.frames import Value

__all__ = ["otherwise"]


def otherwise(row: Row, bound: Bound, before: Tracks, frame: int) -> Generator[None, None, tuple[bool, ...]]:
    """Return for each of a row's cells, the present one first, whether the widget looked different before; yields in between.

    bound: the project of the row. before: tracks of the project before the edit, over the recording in view.
    """
    there = before.bound.widgets.get(row.widget.widget.id)
    if there is None or not all(is_driver(before.bound, name) for name in (row.driver, *row.held)):
        return (True,) * (len(row.samples) + 1)
    bench = yield from Probe.at(before, there, row.driver, frame, row.held)
    states = bench.states([row.now.value], settled=False) + bench.states([sample.value for sample in row.samples])
    return tuple(
        _drawn(there, was, before.bound) != _drawn(row.widget, sample.state, bound)
        for was, sample in zip(states, (row.now, *row.samples), strict=True)
    )


def _drawn(widget: BoundWidget, state: Mapping[str, Value], bound: Bound) -> Group | None:
    """Return a widget's picture in a state, or None if it is invisible."""
    return widget_shapes(widget, state, 0.0, bound) if state["visible"] else None
