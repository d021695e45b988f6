"""Evaluate a widget at many values of one driver: on the playhead's frame, after all that happened before it."""

from __future__ import annotations

from collections.abc import Generator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from avrin.ladder.drivers import driver_step
from avrin.render import bounds, widget_shapes
from avrin.rules import Step, WhatIf, is_stateful, plain_value, step_order
from avrin.trace import Array, Column, FloatArray, Trace, Value
from avrin.widgets import BoundWidget, Edge, Tracks

__all__ = ["HIDDEN", "RANKS", "Bench", "Looks"]

RANKS: tuple[tuple[Edge, ...], ...] = (("state",), ("end",), ("part", "picture"), ("text",))  # by what hangs on them
HIDDEN = -1  # the mark of every rank while it is not to be seen
RADIX = 1_000_003  # a prime above any code or length that occurs; products wrap around alike on both sides
SLACK = 1.0  # reference pixels by which letters may spill over their box


class Looks(NamedTuple):
    """What a widget is like at each of V values.

    marks: a whole number for its look by rank (of `RANKS`), shape (ranks, V); equal where that is the same. guides: numbers
    that pass zero where some operator takes a turn, or a whole number where `whole` says so, shape (guides, V).
    """

    marks: Array
    guides: FloatArray


class Bench:
    """A widget on one frame of a recording, with the driver's value replaced and everything else as recorded.

    Edges are looked for in what the widget comes to once the value has been held for a while. also: further drivers that are
    replaced, by name, each by one value. texts: whether the room that texts have makes edges.
    """

    def __init__(
        self,
        what_if: WhatIf,
        tracks: Tracks,
        widget: BoundWidget,
        name: str,
        also: Mapping[str, Value],
        *,
        texts: bool = True,
    ) -> None:
        self._what_if = what_if
        self._tracks, self._held = tracks, also
        self._bound = tracks.bound
        self._widget = widget
        self.name = name
        self._driver = driver_step(self._bound, name)
        self._also = {
            step: self._raw(step, [value]) for n, value in also.items() if (step := driver_step(self._bound, n))
        }
        columns = {c.name: c.edge for c in widget.kind.all_columns() if c.edge is not None}
        if not texts:
            columns = {name: edge for name, edge in columns.items() if edge != "text"}
        self._edged = {n: e for n, e in columns.items() if widget.columns[n].constant is None}
        self._moved = self._dependent([*widget.columns.values(), *widget.drawn.values()])
        self._turning = [
            step for step in step_order([widget.columns[n] for n in self._edged], [self._driver]) if self._turns(step)
        ]
        self._fits: dict[tuple[int, ...], bool] = {}

    @classmethod
    def at(
        cls, tracks: Tracks, widget: BoundWidget, name: str, frame: int, also: Mapping[str, Value]
    ) -> Generator[None, None, Bench]:
        """The same for a frame of the tracks' recording; the past is looked up, or scanned in small turns."""
        if not len(tracks.trace):
            empty = Trace.make("", [0.0], {})
            tracks, frame = Tracks(tracks.bound, empty, only=(widget,)), 0
        steps = [*widget.columns.values(), *widget.drawn.values(), widget.state]
        states = yield from tracks.checkpoints.before(steps, frame)
        return cls(WhatIf(tracks.trace, tracks.bound.graph, frame, states), tracks, widget, name, also)

    def afresh(self) -> Bench | None:
        """The same as if nothing had happened before; None where nothing that the driver moves remembers anything.

        Thresholds of its texts' room are none that anybody wrote: they are looked for after what happened alone.
        """
        if not any(is_stateful(step) for step in self._moved if step is not self._driver):
            return None
        what_if = replace(self._what_if, states={}, fixed={})
        return Bench(what_if, self._tracks, self._widget, self.name, self._held, texts=False)

    def _raw(self, step: Step, values: Sequence[Value]) -> Array:
        """Values as the engine has them, shape (V,); missing where they are of another kind."""
        column = Column.of(values)
        if column.kind != step.kind:
            column = Column.missing(len(values), step.kind)
        if step.kind != "text":
            return column.data
        return self._bound.graph.words.codes([None if value is None else str(value) for value in values])

    def _dependent(self, steps: Sequence[Step]) -> set[Step]:
        """The steps, and all they come of, that change with the driver."""
        found = {self._driver}
        for step in step_order(steps, [self._driver]):
            if any(arg in found for arg in step.args):
                found.add(step)
        return found

    def _turns(self, step: Step) -> bool:
        return step.op.turns is not None and step in self._moved and step is not self._driver

    def states(self, values: Sequence[Value], *, settled: bool = True) -> list[dict[str, Value]]:
        """What the widget shows at each value: on the frame itself, or once that has settled."""
        steps = {**self._widget.columns, **self._widget.drawn, "state": self._widget.state}
        arrays = self._values(list(steps.values()), self._raw(self._driver, values), settled=settled)
        graph = self._bound.graph
        found = {
            name: [plain_value(step, raw, graph) for raw in array]
            for (name, step), array in zip(steps.items(), arrays, strict=True)
        }
        return [{name: column[i] for name, column in found.items()} for i in range(len(values))]

    def looks(self, values: FloatArray) -> Looks:
        """What it is like at each number, shape (V,)."""
        asked = [arg for step in self._turning for arg in step.args]
        columns = [self._widget.columns[name] for name in self._edged]
        arrays = self._values([*columns, *asked], values)
        shown = dict(zip(self._edged, arrays, strict=False))
        marks: Array = np.zeros((len(RANKS), len(values)), np.int64)
        for rank, edges in enumerate(RANKS):
            for name, edge in self._edged.items():
                if edge in edges and edge != "text" and name != "visible":
                    marks[rank] = marks[rank] * RADIX + _told(edge, shown[name]) + 1
        hidden = shown["visible"] == 0 if "visible" in shown else np.zeros(len(values), bool)
        marks[RANKS.index(("text",))] = self._rooms(
            values, [shown[name] for name, edge in self._edged.items() if edge == "text"], hidden
        )
        marks[:, hidden] = HIDDEN
        guides: list[Array] = []
        at = len(columns)
        with np.errstate(all="ignore"):
            for step in self._turning:
                args = arrays[at : at + len(step.args)]
                at += len(step.args)
                assert step.op.turns is not None
                guides += [np.broadcast_to(guide, values.shape) for guide in step.op.turns.guides(args, step.params)]
        return Looks(marks, np.array(guides) if guides else np.zeros((0, len(values))))

    def stepped(self) -> list[bool]:
        """Of each rank whether what it hangs on turns at whole numbers of something: perhaps without end."""
        columns = [tuple(self._widget.columns[n] for n, edge in self._edged.items() if edge in rank) for rank in RANKS]
        return [
            any(
                s.op.turns is not None and any(s.op.turns.whole)
                for s in step_order(c, [self._driver])
                if self._turns(s)
            )
            for c in columns
        ]

    def whole(self) -> Array:
        """Of each guide whether every whole number is a turn, and not zero alone: flags, shape (guides,)."""
        return np.array([whole for step in self._turning if step.op.turns for whole in step.op.turns.whole], bool)

    def _rooms(self, values: FloatArray, texts: Sequence[Array], hidden: Array) -> Array:
        """1 where what it writes does not fit into its box, else 0. Texts of equal lengths are as wide as one another."""
        if not texts or self._widget.kind.fits == "free":
            return np.zeros(len(values), np.int64)
        words = self._bound.graph.words
        lengths = np.stack([np.array([len(words.text(code) or "") for code in column.tolist()]) for column in texts])
        found = np.zeros(len(values), np.int64)
        kinds, first, of = np.unique(lengths, axis=1, return_index=True, return_inverse=True)
        unknown = [
            (tuple(kinds[:, i].tolist()), int(at))
            for i, at in enumerate(first.tolist())
            if tuple(kinds[:, i].tolist()) not in self._fits and not hidden[at]
        ]
        for (key, _), state in zip(unknown, self.states([float(values[at]) for _, at in unknown]), strict=True):
            self._fits[key] = self._is_within(state)
        for i in range(kinds.shape[1]):
            if not self._fits.get(tuple(kinds[:, i].tolist()), True):
                found[of.reshape(-1) == i] = 1
        return found

    def _is_within(self, state: Mapping[str, Value]) -> bool:
        """Whether the drawn widget stays in its box: sideways, and, where it is no line of text, in height."""
        reach = bounds((widget_shapes(self._widget, dict(state), 0.0, self._bound),))
        width, height = self._widget.widget.place.size
        across = reach.x >= -SLACK and reach.x + reach.width <= width + SLACK
        return across and (self._widget.kind.fits == "line" or reach.y + reach.height <= height + SLACK)

    def arriving(self, value: Value, seconds: Sequence[float]) -> list[dict[str, Value]]:
        """What the widget shows some seconds after the frame, rising, while the driver stays at a value."""
        steps = {**self._widget.columns, **self._widget.drawn, "state": self._widget.state}
        replaced = {**self._also, self._driver: self._raw(self._driver, [value])}
        arrays = self._what_if.series(list(steps.values()), replaced, seconds)
        graph = self._bound.graph
        return [
            {
                name: plain_value(step, array[i], graph)
                for (name, step), array in zip(steps.items(), arrays, strict=True)
            }
            for i in range(len(seconds))
        ]

    def _values(self, steps: Sequence[Step], values: Array, *, settled: bool = True) -> list[Array]:
        """Each step at each value, arrays of shape (V,)."""
        return self._what_if.values(steps, {**self._also, self._driver: values}, settled=settled)


def _told(edge: Edge, values: Array) -> Array:
    """A whole number for each value of a column; equal where its picture is the same."""
    if edge == "part":
        return np.asarray(np.clip(np.nan_to_num(values, nan=-1.0), -1e15, 1e15).astype(np.int64))
    if edge == "end":
        return np.where(np.isnan(values), 3, np.where(values <= 0, 0, np.where(values >= 1, 2, 1)))
    return values.astype(np.int64)
