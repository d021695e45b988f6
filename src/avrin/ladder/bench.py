"""The bench: a widget's steps on invented recordings in which only one variable differs.

Each value is held for a while, so that conditions that must last have lasted.
"""

from __future__ import annotations

import functools
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from avrin.render import bounds, widget_shapes
from avrin.rules import Step, evaluate, plain_value
from avrin.trace import Array, Column, FloatArray, Trace, Value
from avrin.widgets import Bound, BoundWidget, Edge

__all__ = ["HIDDEN", "RANKS", "Bench", "Looks"]

RANKS: tuple[tuple[Edge, ...], ...] = (("state",), ("end",), ("part", "picture"), ("text",))  # by what hangs on them
HIDDEN = -1  # the mark of every rank while it is not to be seen
RADIX = 1_000_003  # a prime above any code or length that occurs; products wrap around alike on both sides
LASTS = 60.0  # seconds each value is held
SLACK = 1.0  # reference pixels by which letters may spill over their box


class Looks(NamedTuple):
    """What a widget is like at each of V values.

    marks: a whole number for its look by rank (of `RANKS`), shape (ranks, V); equal where that is the same. guides: numbers
    that pass zero where some operator takes a turn, or a whole number where `whole` says so, shape (guides, V).
    """

    marks: Array
    guides: FloatArray


class Bench:
    """Runs the widget's steps with all else held. held: the other variables' values."""

    def __init__(self, bound: Bound, widget: BoundWidget, name: str, held: Mapping[str, Value]) -> None:
        self._bound = bound
        self._widget = widget
        self.name = name
        used = {name for step in widget.steps() for name in step.sources()}
        self._held = {n: value for n, value in held.items() if n in used and n != name}
        columns = {c.name: c.edge for c in widget.kind.all_columns() if c.edge is not None}
        self._edged = {n: e for n, e in columns.items() if widget.columns[n].constant is None}
        self._turning = [step for step in _above(tuple(widget.columns[n] for n in self._edged)) if self._turns(step)]
        self._fits: dict[tuple[int, ...], bool] = {}

    def _turns(self, step: Step) -> bool:
        return step.op.turns is not None and self.name in step.sources()

    def states(self, values: Sequence[Value]) -> list[dict[str, Value]]:
        """What the widget shows at each value."""
        steps = {**self._widget.columns, **self._widget.drawn}
        arrays, graph = self._settled(list(steps.values()), Column.of(values)), self._bound.graph
        found = {
            name: [plain_value(step, raw, graph) for raw in array]
            for (name, step), array in zip(steps.items(), arrays, strict=True)
        }
        return [{name: column[i] for name, column in found.items()} for i in range(len(values))]

    def looks(self, values: FloatArray) -> Looks:
        """What it is like at each number, shape (V,)."""
        asked = [arg for step in self._turning for arg in step.args]
        columns = [self._widget.columns[name] for name in self._edged]
        arrays = self._settled([*columns, *asked], Column("number", values))
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
            any(self._turns(s) and s.op.turns is not None and any(s.op.turns.whole) for s in _above(c)) for c in columns
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

    def _settled(self, steps: Sequence[Step], values: Column) -> list[Array]:
        """Each step at each value, once that has been held for a while; arrays of shape (values,).

        What looks at no time takes all values as frames of one run, some ten times faster than with a run for each.
        """
        count = len(values.data)
        wanted = [step for step in dict.fromkeys(steps) if step.constant is None]
        slow = [step for step in wanted if _takes_time(step)]
        quick = [step for step in wanted if step not in slow]
        edge = list(dict.fromkeys(part for step in slow for part in _feeding(step)))
        every = list(dict.fromkeys([*quick, *edge]))
        found = (
            dict(zip(every, evaluate(every, self._trace(values, 1), self._bound.graph), strict=True)) if every else {}
        )
        if slow:
            # What takes time comes to the same wherever what feeds it is the same: one run for each such value.
            rows = np.stack(
                [np.nan_to_num(found[step].astype(float), nan=np.inf) for step in edge] or [np.zeros(count)]
            )
            _, first, of = np.unique(rows, axis=1, return_index=True, return_inverse=True)
            told = self._trace(Column(values.kind, values.data[first], values.words), 2)
            arrays = evaluate(slow, told, self._bound.graph, apart=True)
            found.update((step, array[1::2][of.reshape(-1)]) for step, array in zip(slow, arrays, strict=True))
        return [found[s] if s.constant is None else np.repeat(s.constant, count) for s in steps]

    def _trace(self, values: Column, times: int) -> Trace:
        """Each value at one frame of one run; or, with two times, at two frames of a run of its own."""
        count = len(values.data)
        columns = {name: _repeated(value, times * count) for name, value in self._held.items()}
        columns[self.name] = Column(values.kind, np.repeat(values.data, times), values.words)
        if times == 1:
            return Trace.make("", np.zeros(count), columns)
        return Trace.make("", np.tile([0.0, LASTS], count), columns, np.repeat(np.arange(count), 2).tolist())


def _repeated(value: Value, frames: int) -> Column:
    one = Column.of([value])
    return Column(one.kind, np.repeat(one.data, frames), one.words)


def _told(edge: Edge, values: Array) -> Array:
    """A whole number for each value of a column; equal where its picture is the same."""
    if edge == "part":
        return np.nan_to_num(values, nan=-1.0, posinf=1e15, neginf=-1e15).astype(np.int64)
    if edge == "end":
        return np.where(np.isnan(values), 3, np.where(values <= 0, 0, np.where(values >= 1, 2, 1)))
    return values.astype(np.int64)


def _above(steps: tuple[Step, ...]) -> list[Step]:
    """All that some steps come of, themselves among it, each once."""
    found: dict[Step, None] = {}
    waiting = list(steps)
    while waiting:
        step = waiting.pop()
        if step not in found:
            found[step] = None
            waiting += step.args
    return list(found)


@functools.lru_cache(maxsize=4096)
def _feeding(step: Step) -> tuple[Step, ...]:
    """The steps nearest to one that takes time which take none themselves."""
    if not _takes_time(step):
        return (step,) if step.constant is None else ()
    return tuple(dict.fromkeys(part for arg in step.args for part in _feeding(arg)))


@functools.lru_cache(maxsize=4096)
def _takes_time(step: Step) -> bool:
    """Whether a step looks at time or at earlier frames."""
    if step.op.name == "column":
        return False
    return step.op.timed or any(_takes_time(arg) for arg in step.args)
