"""Evaluate a widget for many values of one driver on the playhead's frame, given the recorded past."""

from __future__ import annotations

from collections.abc import Generator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.kinds.kind import Edge
from avrin.ladder.drivers import driver_step
from avrin.render.bounds import bounds
from avrin.render.scene import widget_shapes
from avrin.rules.scan import plain_value
from avrin.rules.steps import Step
from avrin.rules.what_if import WhatIf, is_stateful, step_order
from avrin.trace.frames import Array, Column, FloatArray, Trace, Value

__all__ = ["HIDDEN", "RANKS", "Looks", "Probe"]

RANKS: tuple[tuple[Edge, ...], ...] = (("state",), ("end",), ("part", "picture"), ("text",))  # by significance
HIDDEN = -1  # the mark of every rank while it is invisible
RADIX = 1_000_003  # a prime above all codes and lengths; products wrap around equally on both sides
SLACK = 1.0  # reference pixels by which letters may exceed their box


class Looks(NamedTuple):
    """The look of a widget for each of V values.

    marks: an integer per rank (of `RANKS`), shape (ranks, V); equal marks mean an equal look. guides: numbers with a
    zero crossing at each breakpoint of an operator, or at whole numbers where `whole` is set, shape (guides, V).
    """

    marks: Array
    guides: FloatArray


class Probe:
    """A widget on one frame of a recording, with the driver's value replaced and everything else as recorded.

    Edges are searched in the settled state, after the value has been held for a while. also: further replaced drivers,
    one value each by name. texts: whether texts that outgrow their room make edges.
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
    ) -> Generator[None, None, Probe]:
        """Return the same for a frame of the tracks' recording, yielding while the past is scanned."""
        if not len(tracks.trace):
            empty = Trace.make("", [0.0], {})
            tracks, frame = Tracks(tracks.bound, empty, only=(widget,)), 0
        steps = [*widget.columns.values(), *widget.drawn.values(), widget.state]
        states = yield from tracks.checkpoints.before(steps, frame)
        return cls(WhatIf(tracks.trace, tracks.bound.graph, frame, states), tracks, widget, name, also)

    def afresh(self) -> Probe | None:
        """Return the same without a past; None if nothing the driver affects has a memory.

        Texts that outgrow their room make no edges there: only the ones given the past count.
        """
        if not any(is_stateful(step) for step in self._moved if step is not self._driver):
            return None
        what_if = replace(self._what_if, states={}, fixed={})
        return Probe(what_if, self._tracks, self._widget, self.name, self._held, texts=False)

    def _raw(self, step: Step, values: Sequence[Value]) -> Array:
        """Return values in the engine's codes, shape (V,); missing for another kind."""
        column = Column.of(values)
        if column.kind != step.kind:
            column = Column.missing(len(values), step.kind)
        if step.kind != "text":
            return column.data
        return self._bound.graph.words.codes([None if value is None else str(value) for value in values])

    def _dependent(self, steps: Sequence[Step]) -> set[Step]:
        """Return the steps that depend on the driver, with all their arguments."""
        found = {self._driver}
        for step in step_order(steps, [self._driver]):
            if any(arg in found for arg in step.args):
                found.add(step)
        return found

    def _turns(self, step: Step) -> bool:
        return step.op.breakpoints is not None and step in self._moved and step is not self._driver

    def states(self, values: Sequence[Value], *, settled: bool = True) -> list[dict[str, Value]]:
        """Return the widget's state for each value: on the frame itself, or settled."""
        steps = {**self._widget.columns, **self._widget.drawn, "state": self._widget.state}
        arrays = self._values(list(steps.values()), self._raw(self._driver, values), settled=settled)
        graph = self._bound.graph
        found = {
            name: [plain_value(step, raw, graph) for raw in array]
            for (name, step), array in zip(steps.items(), arrays, strict=True)
        }
        return [{name: column[i] for name, column in found.items()} for i in range(len(values))]

    def looks(self, values: FloatArray) -> Looks:
        """Return the looks for numbers, shape (V,)."""
        asked = [arg for step in self._turning for arg in step.args]
        columns = [self._widget.columns[name] for name in self._edged]
        arrays = self._values([*columns, *asked], values)
        shown = dict(zip(self._edged, arrays, strict=False))
        marks: Array = np.zeros((len(RANKS), len(values)), np.int64)
        for rank, edges in enumerate(RANKS):
            for name, edge in self._edged.items():
                if edge in edges and edge != "text" and name != "visible":
                    marks[rank] = marks[rank] * RADIX + _codes(edge, shown[name]) + 1
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
                assert step.op.breakpoints is not None
                guides += [
                    np.broadcast_to(guide, values.shape) for guide in step.op.breakpoints.guides(args, step.params)
                ]
        return Looks(marks, np.array(guides) if guides else np.zeros((0, len(values))))

    def stepped(self) -> list[bool]:
        """Return for each rank whether it depends on breakpoints at whole numbers, of which there may be infinitely many."""
        columns = [tuple(self._widget.columns[n] for n, edge in self._edged.items() if edge in rank) for rank in RANKS]
        return [
            any(
                s.op.breakpoints is not None and any(s.op.breakpoints.at_integers)
                for s in step_order(c, [self._driver])
                if self._turns(s)
            )
            for c in columns
        ]

    def at_integers(self) -> Array:
        """For each guide whether every whole number is a breakpoint, not only zero: flags, shape (guides,)."""
        return np.array(
            [each for step in self._turning if (at := step.op.breakpoints) is not None for each in at.at_integers], bool
        )

    def _rooms(self, values: FloatArray, texts: Sequence[Array], hidden: Array) -> Array:
        """Return 1 where the widget's texts exceed its box, else 0. Texts of equal length have equal width."""
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
        """Return whether the drawn widget fits its box: horizontally, and vertically unless it is a line of text."""
        reach = bounds((widget_shapes(self._widget, dict(state), 0.0, self._bound),))
        width, height = self._widget.widget.place.size
        across = reach.x >= -SLACK and reach.x + reach.width <= width + SLACK
        return across and (self._widget.kind.fits == "line" or reach.y + reach.height <= height + SLACK)

    def arriving(self, value: Value, seconds: Sequence[float]) -> list[dict[str, Value]]:
        """Return the widget's states at ascending seconds after the frame, with the driver held at a value."""
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
        """Return each step for each value, arrays of shape (V,)."""
        return self._what_if.values(steps, {**self._also, self._driver: values}, settled=settled)


def _codes(edge: Edge, values: Array) -> Array:
    """Return an integer per value of a column; equal for equal pictures."""
    if edge == "part":
        return np.asarray(np.clip(np.nan_to_num(values, nan=-1.0), -1e15, 1e15).astype(np.int64))
    if edge == "end":
        return np.where(np.isnan(values), 3, np.where(values <= 0, 0, np.where(values >= 1, 2, 1)))
    return values.astype(np.int64)
