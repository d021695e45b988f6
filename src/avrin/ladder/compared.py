"""A row of the ladder beside the same widget as it was: at which values it would have looked otherwise."""

from __future__ import annotations

from collections.abc import Generator, Mapping

from avrin.ladder.bench import Bench
from avrin.ladder.drivers import is_driver
from avrin.ladder.rows import Row
from avrin.render import widget_shapes
from avrin.trace import Value
from avrin.widgets import Bound, BoundWidget, Group, Tracks

__all__ = ["otherwise"]


def otherwise(row: Row, bound: Bound, before: Tracks, frame: int) -> Generator[None, None, tuple[bool, ...]]:
    """For each of a row's cells, the present one first, whether the widget as it was looks otherwise there, in small turns.

    bound: the project as the row was made of. before: the project as it was, over the recording whose frame is looked at.
    """
    there = before.bound.widgets.get(row.widget.widget.id)
    if there is None or not all(is_driver(before.bound, name) for name in (row.driver, *row.held)):
        return (True,) * (len(row.rungs) + 1)
    bench = yield from Bench.at(before, there, row.driver, frame, row.held)
    states = bench.states([row.now.value], settled=False) + bench.states([rung.value for rung in row.rungs])
    return tuple(
        _drawn(there, was, before.bound) != _drawn(row.widget, rung.state, bound)
        for was, rung in zip(states, (row.now, *row.rungs), strict=True)
    )


def _drawn(widget: BoundWidget, state: Mapping[str, Value], bound: Bound) -> Group | None:
    """A widget's picture in a state, None where it is not to be seen."""
    return widget_shapes(widget, state, 0.0, bound) if state["visible"] else None
