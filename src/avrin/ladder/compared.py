"""A row of the ladder beside the same widget as it was: at which values it would have looked otherwise."""

from __future__ import annotations

from collections.abc import Mapping

from avrin.ladder.bench import Bench
from avrin.ladder.rows import Row
from avrin.render import widget_shapes
from avrin.trace import Value
from avrin.widgets import Bound, BoundWidget, Group, Tracks

__all__ = ["otherwise"]


def otherwise(row: Row, bound: Bound, before: Tracks, frame: int) -> tuple[bool, ...]:
    """For each of a row's rungs whether the widget as it was looks otherwise there, all else held as in the row.

    bound: the project as the row was made of. before: the project as it was, over the recording whose frame is held.
    """
    there = before.bound.widgets.get(row.widget.widget.id)
    rungs = row.rungs
    if there is None:
        return (True,) * len(rungs)
    trace = before.trace
    held: dict[str, Value] = {name: column[frame] for name, column in trace.columns.items()} if len(trace) else {}
    states = Bench(before.bound, there, row.driver, {**held, **row.held}).states([rung.value for rung in rungs])
    return tuple(
        _drawn(there, was, before.bound) != _drawn(row.widget, rung.state, bound)
        for was, rung in zip(states, rungs, strict=True)
    )


def _drawn(widget: BoundWidget, state: Mapping[str, Value], bound: Bound) -> Group | None:
    """A widget's picture in a state, None where it is not to be seen."""
    return widget_shapes(widget, state, 0.0, bound) if state["visible"] else None
