"""One widget against one variable: its states just below, at and just above each edge, at the ends, beyond, missing.

No rule is solved. The variable is swept through its range in a tiny invented recording, one run a value, with all
else held as it is at the playhead; where the visible state changes, narrowing in on it pins the edge down. So it works for
any rule. Each value is held for a while, so that conditions that must last have lasted.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Generator, Mapping, Sequence
from typing import TypeVar

import numpy as np
from msgspec import Struct

from avrin.model import Variable
from avrin.rules import Step, evaluate, plain_value
from avrin.trace import Array, Column, FloatArray, Trace, Value
from avrin.widgets import Bound, BoundWidget, Edge, Tracks

__all__ = ["Climb", "Rung", "climbing", "finish", "rungs"]

TURNS = 2  # in which the sweep is done
SWEEP = 129  # values tried across the range
BEYOND = 0.06  # of the range that is looked at past each end
ROUNDS, PARTS = 4, 16  # each round cuts an edge's neighbourhood in as many parts: some 1e-7 of the range in the end, of
# which the plainest number is the edge. Few rounds of many values cost a quarter of halving it one value at a time.
MOST_EDGES = 12
RADIX = 1_000_003  # a prime above any code or length that occurs; products wrap around alike on both sides
LASTS = 60.0  # seconds each value is held


class Rung(Struct, frozen=True):
    """One value of the variable and what the widget shows then.

    value: None for missing. edge: whether the visible state changes here. state: as `Tracks.state`.
    frames: how many frames of the recordings showed the widget in this stretch, a share of 0–1 of all; first: seconds on
    the axis of the recording `trace` that showed it first, or None.
    """

    value: Value
    edge: bool
    state: dict[str, Value]
    frames: int
    share: float
    first: float | None
    trace: str = ""


T = TypeVar("T")
Climb = Generator[None, None, list[Rung]]


def rungs(tracks: Tracks, widget: BoundWidget, variable: Variable, frame: int) -> list[Rung]:
    """The ladder of a widget against a variable that feeds it, from missing upwards."""
    return finish(climbing(tracks, widget, variable, frame))


def finish(work: Generator[None, None, T]) -> T:
    """Work that goes in small turns, done at once."""
    while True:
        try:
            next(work)
        except StopIteration as done:
            found: T = done.value
            return found


def climbing(
    tracks: Tracks,
    widget: BoundWidget,
    variable: Variable,
    frame: int,
    *,
    also: Mapping[str, Value] | None = None,
    seen: Sequence[Trace] | None = None,
) -> Climb:
    """The same in small turns of some ten milliseconds, for a window that must not stand still; returns the rungs.

    also: values of other variables that are held in place of those at the frame. seen: the recordings that are searched
    for each stretch; the one of the tracks if unsaid.
    """
    held = {name: column[frame] for name, column in tracks.trace.columns.items()} if len(tracks.trace) else {}
    bench = _Bench(tracks.bound, widget, variable.name, {**held, **(also or {})})
    recorded = tracks.trace.columns.get(variable.name)
    traces = [tracks.trace] if seen is None else seen
    if variable.type == "bool":
        values: list[Value] = [None, False, True]
        return _judged(bench, values, set(), traces, [])
    if variable.type == "text":
        words = {
            word: None for trace in traces if trace.find(variable.name) for word in trace.columns[variable.name].words
        }
        return _judged(bench, [None, "", *(w for w in words if w)], set(), traces, [])
    low, high = _range(variable, recorded)
    edges = yield from _edges(bench, low, high, whole=variable.type == "int")
    step = 1.0 if variable.type == "int" else _step(high - low)
    numbers: dict[float, bool] = {}
    reach = max((high - low) * BEYOND, step)
    for value in (low - reach, low, high, high + reach):
        numbers[_neat(value, step)] = False
    for edge in edges:
        for value in (edge - step, edge, edge + step):
            numbers[round(value, 9)] = value == edge or numbers.get(round(value, 9), False)
    ordered = sorted(numbers)
    return _judged(bench, [None, *ordered], {v for v in ordered if numbers[v]}, traces, [low, *edges, high])


class _Bench:
    """Runs the widget's steps on invented recordings in which only one variable differs."""

    def __init__(self, bound: Bound, widget: BoundWidget, name: str, held: dict[str, Value]) -> None:
        self._bound = bound
        self._widget = widget
        self.name = name
        used = {name for step in widget.steps() for name in step.sources()}
        self._held = {name: value for name, value in held.items() if name in used}

    def states(self, values: Sequence[Value]) -> list[dict[str, Value]]:
        """What the widget shows at each value."""
        steps = {**self._widget.columns, **self._widget.drawn}
        arrays, graph = self._settled(list(steps.values()), values), self._bound.graph
        found = {
            name: [plain_value(step, raw, graph) for raw in array]
            for (name, step), array in zip(steps.items(), arrays, strict=True)
        }
        return [{name: column[i] for name, column in found.items()} for i in range(len(values))]

    def signatures(self, values: FloatArray) -> Array:
        """A number for each value's visible state; equal where the widget looks the same but for its length."""
        of_track = self._widget.columns
        edges = {c.name: c.edge for c in self._widget.kind.all_columns() if c.edge is not None}
        columns = {name: of_track[name] for name in edges if of_track[name].constant is None}
        marks: Array = np.zeros(len(values), np.int64)
        hidden = np.zeros(len(values), bool)
        arrays = self._settled(list(columns.values()), values.tolist())
        for name, last in zip(columns, arrays, strict=True):
            if name == "visible":
                hidden = last == 0
                continue
            marks = marks * RADIX + self._told(edges[name], last) + 1
        return np.where(hidden, -1, marks)

    def _told(self, edge: Edge | None, values: Array) -> Array:
        """A whole number for each value of a column; equal where its picture is the same."""
        if edge == "part":
            return np.nan_to_num(values, nan=-1.0).astype(np.int64)
        if edge == "end":
            return np.where(np.isnan(values), 3, np.where(values <= 0, 0, np.where(values >= 1, 2, 1)))
        if edge == "text":
            return np.array([len(self._bound.graph.words.text(code) or "") for code in values.tolist()])
        return values.astype(np.int64)

    def _settled(self, steps: Sequence[Step], values: Sequence[Value]) -> list[Array]:
        """Each step at each value, once that has been held for a while; arrays of shape (values,).

        What looks at no time takes all values as frames of one run, some ten times faster than with a run for each.
        """
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
                [np.nan_to_num(found[step].astype(float), nan=np.inf) for step in edge] or [np.zeros(len(values))]
            )
            _, first, of = np.unique(rows, axis=1, return_index=True, return_inverse=True)
            told = self._trace([values[i] for i in first.tolist()], 2)
            arrays = evaluate(slow, told, self._bound.graph)
            found.update((step, array[1::2][of.reshape(-1)]) for step, array in zip(slow, arrays, strict=True))
        return [found[s] if s.constant is None else np.repeat(s.constant, len(values)) for s in steps]

    def _trace(self, values: Sequence[Value], times: int) -> Trace:
        """Each value at one frame of one run; or, with two times, at two frames of a run of its own."""
        frames = times * len(values)
        columns = {n: Column.of([v] * frames) for n, v in self._held.items() if n != self.name}
        columns[self.name] = Column.of([v for value in values for v in (value,) * times])
        if times == 1:
            return Trace.make("", [0.0] * frames, columns)
        return Trace.make("", [0.0, LASTS] * len(values), columns, [i for i in range(len(values)) for _ in (0, 1)])


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


def _range(variable: Variable, recorded: Column | None) -> tuple[float, float]:
    """The declared range; where an end is open, what was recorded."""
    known = (
        recorded.data[~np.isnan(recorded.data)] if recorded is not None and recorded.kind == "number" else np.zeros(0)
    )
    low = variable.low if variable.low is not None else float(known.min()) if len(known) else 0.0
    high = variable.high if variable.high is not None else float(known.max()) if len(known) else low + 1.0
    return (low, high) if high > low else (low, low + 1.0)


def _edges(bench: _Bench, low: float, high: float, *, whole: bool) -> Generator[None, None, list[float]]:
    """The least values at which the visible state has changed from what it was below."""
    reach = (high - low) * BEYOND
    tried = np.linspace(low - reach, high + reach, SWEEP)
    if whole:
        tried = np.unique(np.rint(tried))
    parts = []
    for part in np.array_split(tried, TURNS):
        parts.append(bench.signatures(part))
        yield
    marks = np.concatenate(parts)
    at = np.flatnonzero(marks[1:] != marks[:-1])[:MOST_EDGES]
    below, above, before = tried[at].copy(), tried[at + 1].copy(), marks[at]
    shares = np.arange(1, PARTS) / PARTS
    for _ in range(ROUNDS):
        inner = below[:, None] + (above - below)[:, None] * shares
        if whole:
            inner = np.floor(inner)
        open_ = (inner > below[:, None]) & (inner < above[:, None])
        if not open_.any():
            break
        changed = (bench.signatures(inner.ravel()).reshape(inner.shape) != before[:, None]) & open_
        yield
        first = np.where(changed.any(axis=1), changed.argmax(axis=1), PARTS)
        kept = open_ & (np.arange(PARTS - 1) < first[:, None])
        below = np.where(kept, inner, below[:, None]).max(axis=1)
        above = np.where(changed, inner, above[:, None]).min(axis=1)
    return sorted({_plainest(b, a) for b, a in zip(below.tolist(), above.tolist(), strict=True)})


def _plainest(below: float, above: float) -> float:
    """The value with the fewest digits that names an edge between two neighbours."""
    slack = 1e-9 * max(1.0, abs(above))
    for digits in range(10):
        value = round(above, digits)
        if below - slack <= value <= above + slack:
            return value
    return above


def _step(span: float) -> float:
    """A round step that is small against the range: 0.1 for a hundred."""
    return float(10.0 ** math.floor(math.log10(span / 500))) if span > 0 else 0.1


def _neat(value: float, step: float) -> float:
    return float(round(round(value / step) * step, 9))


def _judged(
    bench: _Bench, values: list[Value], edges: set[float], traces: Sequence[Trace], borders: list[float]
) -> list[Rung]:
    found = []
    whole = sum(len(trace) for trace in traces)
    columns = [(trace, trace.find(bench.name)) for trace in traces]
    for value, state in zip(values, bench.states(values), strict=True):
        frames, first, name = 0, None, ""
        for trace, recorded in columns:
            mine = _frames_like(value, recorded, borders)
            frames += len(mine)
            if len(mine) and first is None:
                first, name = float(trace.axis[mine[0]]), trace.name
        found.append(Rung(value, value in edges, state, frames, frames / max(1, whole), first, name))
    return found


def _frames_like(value: Value, recorded: Column | None, borders: list[float]) -> Array:
    """Frames of the recording whose value lies in the same stretch between borders."""
    if recorded is None:
        return np.zeros(0, np.int64)
    if value is None:
        return np.flatnonzero(recorded.is_missing())
    if recorded.kind != "number" or not isinstance(value, float):
        return (
            np.flatnonzero(recorded.data == Column.of([value]).data[0])
            if recorded.kind == "flag"
            else _like_text(value, recorded)
        )
    sides = np.searchsorted(borders, recorded.data, "right")
    mine = int(np.searchsorted(borders, value, "right"))
    same = (sides == mine) & ~np.isnan(recorded.data)
    if value == borders[-1]:  # the upper end belongs to the range, not to what lies beyond it
        same = recorded.data == value
    elif mine == len(borders):
        same &= recorded.data > borders[-1]
    return np.flatnonzero(same)


def _like_text(value: Value, recorded: Column) -> Array:
    if value not in recorded.words:
        return np.zeros(0, np.int64)
    return np.flatnonzero(recorded.data == recorded.words.index(str(value)))
