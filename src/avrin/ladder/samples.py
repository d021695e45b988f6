"""One widget against one driver: its states just below, at and just above each edge, at the ends, beyond, missing."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Generator, Mapping, Sequence
from typing import TypeVar

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.ladder.compared_words import compared_words
from avrin.ladder.distribution import (
    Distribution,
    Found,
    declaration,
    distributions,
    found_value,
    typical_number,
)
from avrin.ladder.drivers import recorded_values
from avrin.ladder.edges import BEYOND, Turning, turning
from avrin.ladder.intervals import Interval, Intervals
from avrin.ladder.probe import RANKS, Probe
from avrin.project.project import Variable
from avrin.trace.frames import Trace, Value

__all__ = ["Climb", "Ladder", "Sample", "finish", "sample_ladder", "samples"]

MOST_TEXTS = 2  # shown edges at which only a text outgrows or regains its room
MOST_EDGES = 200  # shown edges; of more, the first ones, the last, and the number in between
CROWDING, CROWDED = 2, 4  # more than this many edges from this rank on, as for pips, are shown without neighbours


class Sample(Struct, frozen=True):
    """One value of the driver and the widget's state for it.

    value: None for missing. edge: whether the visible state changes here. state: see `Tracks.state`. interval: that contains
    the value. recorded: occurrences of the value itself. discrete: whether it occurs or not, unlike a
    continuous number. beside: whether it is shown for the edge next to it. afresh: the state without a past; None
    if equal.
    """

    value: Value
    edge: bool
    state: dict[str, Value]
    interval: Interval
    recorded: Found
    discrete: bool = True
    beside: bool = False
    afresh: dict[str, Value] | None = None

    @property
    def never(self) -> bool:
        """Whether no recording shows it."""
        return not self.interval.occurrences.frames or (self.discrete and not self.recorded.frames)

    @property
    def there(self) -> Found:
        """The target of a press: the recorded value itself, else its interval."""
        return self.recorded if self.recorded.frames else self.interval.occurrences


class Ladder(Struct, frozen=True):
    """Cells from missing upwards. now: the value at the frame, with what the widget shows there.

    omitted: number of edges not shown, before the last shown one. endless: there are more than could be counted.
    """

    samples: tuple[Sample, ...]
    now: Sample
    omitted: int = 0
    endless: bool = False


T = TypeVar("T")
Climb = Generator[None, None, Ladder]


def samples(tracks: Tracks, widget: BoundWidget, name: str, frame: int) -> list[Sample]:
    """Return the ladder of a widget against a driver, from missing upwards."""
    return list(finish(sample_ladder(tracks, widget, name, frame)).samples)


def finish(work: Generator[None, None, T]) -> T:
    """Run a generator to its end and return its result."""
    while True:
        try:
            next(work)
        except StopIteration as done:
            found: T = done.value
            return found


def sample_ladder(
    tracks: Tracks,
    widget: BoundWidget,
    name: str,
    frame: int,
    *,
    also: Mapping[str, Value] | None = None,
    traces: Sequence[Trace] | None = None,
) -> Climb:
    """Do the same, yielding every ten milliseconds or so, for the window.

    also: values of further drivers replaced at the frame. traces: the recordings searched for each
    interval; by default that of the tracks.
    """
    bench = yield from Probe.at(tracks, widget, name, frame, also or {})
    afresh = bench.afresh()
    recordings = distributions(tracks.bound, name, [tracks.trace] if traces is None else traces)
    variable = declaration(tracks.bound, name, recordings)
    edges: list[Turning] = []
    named: set[float] = set()
    beside: set[float] = set()
    values: list[Value]
    left, endless = 0, False
    if variable.type in ("bool", "text"):
        intervals = Intervals(recordings)
        compared = compared_words(widget.steps(), tracks.bound.graph, name)
        values = [False, True] if variable.type == "bool" else [*_texts(recordings, compared)]
    else:
        low, high = _range(variable, recordings)
        whole = variable.type == "int"
        found, endless = yield from turning(bench, low, high, integers=whole)
        if afresh is not None:  # a threshold that was passed earlier and makes no difference now still counts
            more, endless_too = yield from turning(afresh, low, high, integers=whole)
            found, endless = _together(found, more), endless or endless_too
        edges, left = _drawn(found)
        intervals = Intervals(recordings, [edge.value for edge in edges], low, high, integers=whole)
        named, beside = _around(edges, low, high, integers=whole)
        ends = _ends(low, high, integers=whole)
        values = [*_with_recorded(named, beside, intervals, recordings, ends, integers=whole)]
    discrete = variable.type != "float"
    (column,) = recorded_values(tracks.bound, name, [tracks.trace])
    now = column[frame] if column is not None and len(column.data) else None

    def sample(value: Value, state: dict[str, Value], begun: dict[str, Value] | None = None) -> Sample:
        recorded = found_value(recordings, value)
        return Sample(value, value in named, state, intervals.of(value), recorded, discrete, value in beside, begun)

    values = [None, *values]
    begun = afresh.states(values) if afresh is not None else [None] * len(values)
    settled = tuple(map(sample, values, bench.states(values), begun))
    return Ladder(settled, sample(now, bench.states([now], settled=False)[0]), left, endless)


def _together(first: list[Turning], second: list[Turning]) -> list[Turning]:
    """Merge edges, ascending, without duplicates."""
    ranks = {edge.value: edge.rank for edge in second}
    ranks.update((edge.value, min(edge.rank, ranks.get(edge.value, edge.rank))) for edge in first)
    return [Turning(value, ranks[value]) for value in sorted(ranks)]


def _texts(recordings: Sequence[Distribution], compared: Sequence[str]) -> list[str]:
    """Return the empty text, recorded texts and those that rules compare with."""
    recorded = [one.words[code] for one in recordings if one.kind == "text" for code in one.in_order().tolist()]
    return list(dict.fromkeys(["", *recorded, *compared]))


def _drawn(edges: list[Turning]) -> tuple[list[Turning], int]:
    """Return the edges to show, ascending, the most significant ones, and the number of others."""
    ranks = sorted({edge.rank for edge in edges})
    kept: list[Turning] = []
    for rank in ranks:
        mine = [edge for edge in edges if edge.rank == rank]
        room = min(MOST_EDGES - len(kept), MOST_TEXTS if rank == len(RANKS) - 1 else MOST_EDGES)
        kept += mine if len(mine) <= room else [*mine[: room - 1], mine[-1]][:room]
    return sorted(kept, key=lambda edge: edge.value), len(edges) - len(kept)


def _plainest(edge: float, below: float, above: float, span: float) -> float:
    """Return the shortest number that identifies an edge between its neighbours."""
    slack = 1e-12 * max(span, abs(edge))
    for digits in range(13):
        value = round(edge, digits) + 0.0
        if abs(value - edge) <= slack and below <= value < above:
            return value
    return edge


def _beside(
    edge: Turning, edges: list[Turning], name: float, step: float, below: float, above: float, *, integers: bool
) -> list[float]:
    """Return values slightly below and above an edge, if no other edge is in between; empty for consecutive edges."""
    if edge.rank >= CROWDING and sum(other.rank == edge.rank for other in edges) > CROWDED:
        return []
    before, after = round(name - step, 9), round(name + step, 9)
    above_it = not integers and edge.value <= after < above
    return [*([before] if below <= before < edge.value else []), *([after] if above_it else [])]


def _around(edges: list[Turning], low: float, high: float, *, integers: bool) -> tuple[set[float], set[float]]:
    """Return the numbers of edges, and the ones just below and, for continuous drivers, just above each."""
    step = 1.0 if integers else _step(high - low)
    exact = [edge.value for edge in edges]
    named: set[float] = set()
    beside: set[float] = set()
    for edge, below, above in zip(edges, [-math.inf, *exact], [*exact[1:], math.inf], strict=False):
        name = edge.value if integers else _plainest(edge.value, below, above, high - low)
        named.add(name)
        beside.update(_beside(edge, edges, name, step, below, above, integers=integers))
    return named, beside - named


def _with_recorded(
    edges_: set[float],
    beside: set[float],
    intervals: Intervals,
    recordings: Sequence[Distribution],
    ends: tuple[float, float],
    *,
    integers: bool,
) -> list[float]:
    """Return the ascending numbers at and beside edges, and a recorded one per interval.

    An interval without recordings gets a number only if it has none: one of `ends`, slightly beyond the range, or its
    least value, which then identifies its edge.
    """
    crowded = len(edges_) > CROWDED and len(beside) < len(edges_)  # as for pips: one cell each suffices
    found = edges_ | beside
    rising = sorted(found)
    for number in range(len(intervals.cuts) + 1):
        low, high = intervals.bounds(number)
        has = bisect_left(rising, high) - bisect_left(rising, low)
        if crowded and has:
            continue
        recorded = typical_number(recordings, low, high, integers=integers)
        if recorded is not None:
            found.add(recorded)
        elif not has:
            inner = [end for end in ends if low <= end < high]
            found.add(inner[0] if inner else low)
            edges_.update({low} & intervals.edges)
    return sorted(found)


def _range(variable: Variable, recordings: Sequence[Distribution]) -> tuple[float, float]:
    """Return the declared range; an open end is taken from the recordings."""
    known = [one.codes[np.isfinite(one.codes)] for one in recordings if one.kind == "number"]
    ends = [float(end) for codes in known if len(codes) for end in (codes[0], codes[-1])]
    low = variable.low if variable.low is not None else min(ends, default=0.0)
    high = variable.high if variable.high is not None else max(ends, default=low + 1.0)
    return (low, high) if high > low else (low, low + 1.0)


def _ends(low: float, high: float, *, integers: bool) -> tuple[float, float]:
    """Return short numbers slightly beyond a range, below and above."""
    step = 1.0 if integers else _step(high - low)
    reach = max((high - low) * BEYOND, step)
    return _neat(low - reach, step), _neat(high + reach, step)


def _step(span: float) -> float:
    """Return a round step that is small against the range: 0.1 for a hundred."""
    return float(10.0 ** math.floor(math.log10(span / 500))) if 1e-290 < span < math.inf else 0.1


def _neat(value: float, step: float) -> float:
    return float(round(round(value / step) * step, 9)) if math.isfinite(value / step) else value
