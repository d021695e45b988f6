"""One widget against one variable: its states just below, at and just above each edge, at the ends, beyond, missing."""

from __future__ import annotations

import math
from collections.abc import Generator, Mapping, Sequence
from itertools import pairwise
from typing import TypeVar

import numpy as np
from msgspec import Struct

from avrin.ladder.bench import RANKS, Bench
from avrin.ladder.edges import BEYOND, Turning, turning
from avrin.ladder.words import compared_words
from avrin.model import Variable
from avrin.trace import Array, Column, Trace, Value
from avrin.widgets import BoundWidget, Tracks

__all__ = ["Climb", "Ladder", "Rung", "climbing", "finish", "rungs"]

MOST_TEXTS = 2  # drawn of edges at which only a text outgrows its room, or has room again
MOST_EDGES = 200  # drawn; of more the first, the last and how many lie between
CROWDING, CROWDED = (
    2,
    4,
)  # from this rank on, edges that follow one another, as pips do: more are shown without what lies beside


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


class Ladder(Struct, frozen=True):
    """Rungs from missing upwards. left: how many edges more there are, before the last of those that are shown.

    endless: there are more than could be counted.
    """

    rungs: tuple[Rung, ...]
    left: int = 0
    endless: bool = False


T = TypeVar("T")
Climb = Generator[None, None, Ladder]


def rungs(tracks: Tracks, widget: BoundWidget, variable: Variable, frame: int) -> list[Rung]:
    """The ladder of a widget against a variable that feeds it, from missing upwards."""
    return list(finish(climbing(tracks, widget, variable, frame)).rungs)


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
    bench = Bench(tracks.bound, widget, variable.name, {**held, **(also or {})})
    recorded = tracks.trace.columns.get(variable.name)
    traces = [tracks.trace] if seen is None else seen
    if variable.type == "bool":
        return Ladder(_judged(bench, [None, False, True], set(), traces, []))
    if variable.type == "text":
        recorded_words = [
            w for trace in traces if trace.find(variable.name) for w in trace.columns[variable.name].words
        ]
        words = dict.fromkeys([*recorded_words, *compared_words(widget.steps(), tracks.bound.graph, variable.name)])
        return Ladder(_judged(bench, [None, "", *(w for w in words if w)], set(), traces, []))
    low, high = _range(variable, recorded)
    whole = variable.type == "int"
    found, endless = yield from turning(bench, low, high, whole=whole)
    edges, left = _told(found)
    step = 1.0 if whole else _step(high - low)
    reach = max((high - low) * BEYOND, step)
    numbers = [_neat(end, step) for end in (low - reach, low, high, high + reach)]
    exact = [edge.value for edge in edges]
    named = set()
    for edge, below, above in zip(edges, [-math.inf, *exact], [*exact[1:], math.inf], strict=False):
        name = edge.value if whole else _plainest(edge.value, below, above, high - low)
        named.add(name)
        numbers += [name, *_beside(edge, edges, name, step, below, above)]
    numbers.sort()
    for start, end in pairwise([*exact, math.inf]):  # what holds from one edge to the next is always shown
        if not any(start <= number < end for number in numbers):
            named.add(start)
            numbers.append(start)
    values: list[Value] = [None, *sorted(set(numbers))]
    borders = sorted({low, high, *(edge.value for edge in found)})
    return Ladder(_judged(bench, values, named, traces, borders), left, endless)


def _told(found: list[Turning]) -> tuple[list[Turning], int]:
    """The edges that are drawn, rising, and how many more there are: those that most hangs on come first."""
    ranks = sorted({edge.rank for edge in found})
    kept: list[Turning] = []
    for rank in ranks:
        mine = [edge for edge in found if edge.rank == rank]
        room = min(MOST_EDGES - len(kept), MOST_TEXTS if rank == len(RANKS) - 1 else MOST_EDGES)
        kept += mine if len(mine) <= room else [*mine[: room - 1], mine[-1]][:room]
    return sorted(kept, key=lambda edge: edge.value), len(found) - len(kept)


def _plainest(edge: float, below: float, above: float, span: float) -> float:
    """The number with the fewest digits that names an edge: itself but for rounding, between the edges around it."""
    slack = 1e-12 * max(span, abs(edge))
    for digits in range(13):
        value = round(edge, digits) + 0.0
        if abs(value - edge) <= slack and below <= value < above:
            return value
    return edge


def _beside(edge: Turning, edges: list[Turning], name: float, step: float, below: float, above: float) -> list[float]:
    """A little below and above an edge, as far as no other edge lies between; nothing where many follow one another."""
    if edge.rank >= CROWDING and sum(other.rank == edge.rank for other in edges) > CROWDED:
        return []
    before, after = round(name - step, 9), round(name + step, 9)
    return [*([before] if below <= before < edge.value else []), *([after] if edge.value <= after < above else [])]


def _range(variable: Variable, recorded: Column | None) -> tuple[float, float]:
    """The declared range; where an end is open, what was recorded."""
    known = (
        recorded.data[~np.isnan(recorded.data)] if recorded is not None and recorded.kind == "number" else np.zeros(0)
    )
    low = variable.low if variable.low is not None else float(known.min()) if len(known) else 0.0
    high = variable.high if variable.high is not None else float(known.max()) if len(known) else low + 1.0
    return (low, high) if high > low else (low, low + 1.0)


def _step(span: float) -> float:
    """A round step that is small against the range: 0.1 for a hundred."""
    return float(10.0 ** math.floor(math.log10(span / 500))) if span > 0 else 0.1


def _neat(value: float, step: float) -> float:
    return float(round(round(value / step) * step, 9))


def _judged(
    bench: Bench, values: list[Value], edges: set[float], traces: Sequence[Trace], borders: list[float]
) -> tuple[Rung, ...]:
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
    return tuple(found)


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
