"""Rows of the ladder: one widget against one variable that drives it, its rungs gathered around its edges."""

from __future__ import annotations

from collections.abc import Generator, Iterable, Iterator, Mapping, Sequence
from itertools import pairwise

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from avrin.ladder.rungs import Rung, climbing
from avrin.model import Band, Variable
from avrin.rules import evaluate, plain_value
from avrin.trace import Column, Trace, Value
from avrin.widgets import Bound, BoundWidget, Tracks

__all__ = ["Arrival", "Cells", "Row", "RowWork", "arriving_states", "climb_row", "drivers", "never_shown"]

MOST_ARRIVALS = 3
ARRIVALS = (0.0, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0)  # seconds after a change
RATE = 60


class Cells(Struct, frozen=True):
    """Rungs that stand together. name: what happens at their edge, "" around none. band: the one entered, for its colour."""

    rungs: tuple[Rung, ...]
    name: str = ""
    band: str = ""
    edge: float | None = None


class Arrival(Struct, frozen=True):
    """How a change over an edge arrives. states: seconds after it, with what is shown then."""

    before: Value
    after: Value
    states: tuple[tuple[float, dict[str, Value]], ...]


class Row(Struct, frozen=True):
    """One widget against one variable. others: further variables that drive it. held: those held at another value.

    current: the rung in whose stretch the variable is where all else is held. arrivals: how changes over its first edges
    arrive, where asked for. span: from the least to the greatest of its numbers, 0 where there are none.
    left: how many more edges there are than are shown; endless: more than could be counted.
    """

    widget: BoundWidget
    driver: str
    groups: tuple[Cells, ...]
    current: Rung | None = None
    others: tuple[str, ...] = ()
    held: dict[str, Value] = field(default_factory=dict)
    arrivals: tuple[Arrival, ...] = ()
    span: float = 0.0
    left: int = 0
    endless: bool = False

    def beyond(self, variable: Variable | None) -> int:
        """How many rungs that no recording shows cannot come: missing values, and those outside the range declared."""
        return sum(not rung.frames and not _can_come(rung.value, variable) for rung in self.rungs)

    @property
    def rungs(self) -> tuple[Rung, ...]:
        """All of them, from missing upwards."""
        return tuple(rung for group in self.groups for rung in group.rungs)


def _can_come(value: Value, variable: Variable | None) -> bool:
    """Whether a game that keeps to the declaration may ever give a value."""
    if value is None or variable is None:
        return False
    if not isinstance(value, float):
        return value != ""
    return not (
        (variable.low is not None and value < variable.low) or (variable.high is not None and value > variable.high)
    )


RowWork = Generator[None, None, Row]


def drivers(bound: Bound, widget: BoundWidget) -> tuple[str, ...]:
    """The declared variables that a widget depends on, through derived values too; the one it is about first."""
    known = bound.project.all_variables()
    ordered = [widget.inputs[name] for name in (*widget.kind.main_inputs(), "visible")]
    names = dict.fromkeys(name for step in (*ordered, *widget.steps()) for name in step.sources())
    return tuple(name for name in names if name in known)


def climb_row(
    tracks: Tracks,
    widget: BoundWidget,
    driver: str,
    frame: int,
    seen: Sequence[Trace],
    held: dict[str, Value] | None = None,
    *,
    arriving: bool = False,
) -> RowWork:
    """A row, worked out in small turns. seen: recordings searched. held: other variables held at these values.

    arriving: whether to tell how changes over its edges arrive, too.
    """
    variable = replace(tracks.bound.project.all_variables()[driver], name=driver)
    ladder = yield from climbing(tracks, widget, variable, frame, also=held, seen=seen)
    found = list(ladder.rungs)
    others = tuple(name for name in drivers(tracks.bound, widget) if name != driver)
    column = tracks.trace.find(driver)
    groups = _gathered(widget, found)
    current = _stretch(found, column[frame] if column is not None and len(column.data) else None)
    arrivals = tuple(_arrivals(tracks, widget, driver, frame, groups, held or {})) if arriving else ()
    numbers = [rung.value for rung in found if isinstance(rung.value, float)]
    span = max(numbers, default=0.0) - min(numbers, default=0.0)
    return Row(widget, driver, groups, current, others, dict(held or {}), arrivals, span, ladder.left, ladder.endless)


def _stretch(found: Sequence[Rung], now: Value) -> Rung | None:
    """The rung whose stretch a value lies in."""
    if not isinstance(now, float):
        return next((rung for rung in found if rung.value == now and type(rung.value) is type(now)), None)
    known = [rung for rung in found if isinstance(rung.value, float)]
    below = [rung for rung in known if isinstance(rung.value, float) and rung.value <= now]
    return below[-1] if below else (known[0] if known else None)


def never_shown(rows: Iterable[Row]) -> list[Row]:
    """Rows with those of their rungs alone that no recording shows; without rows that have none."""
    found = []
    for row in rows:
        left = [replace(g, rungs=tuple(rung for rung in g.rungs if not rung.frames)) for g in row.groups]
        if groups := tuple(group for group in left if group.rungs):
            found.append(replace(row, groups=groups))
    return found


def _gathered(widget: BoundWidget, found: list[Rung]) -> tuple[Cells, ...]:
    """Each edge with the rungs just below and just above it; what lies between in groups of their own."""
    groups: list[Cells] = []
    taken = 0
    for i, rung in enumerate(found):
        if not rung.edge or i < taken:  # two edges one rung apart share their cells
            continue
        crowded = i + 1 < len(found) and found[i + 1].edge and i > 0 and found[i - 1].edge
        start, end = max(taken, i - 1), i + 1 if crowded else min(len(found), i + 2)
        groups += [Cells((lone,)) for lone in found[taken:start]]
        before = found[i - 1] if i else rung
        edge = rung.value if isinstance(rung.value, float) else None
        after = found[i + 1] if _alike(before, rung) and i + 1 < len(found) else rung
        name, band = _named(widget, before, after)
        again = crowded and bool(groups) and not band  # one after another, as pips come: the first is named
        groups.append(Cells(tuple(found[start:end]), "" if again else name, band, edge))
        taken = end
    return (*groups, *(Cells((lone,)) for lone in found[taken:]))


def _named(widget: BoundWidget, before: Rung, rung: Rung) -> tuple[str, str]:
    """What changes at an edge, in a few words, and the band that is entered or left."""
    was, now = before.state, rung.state
    # What people look for first is named first: whether it shows, then its band, then its ends.
    if was["visible"] != now["visible"]:
        return ("shows" if now["visible"] else "hides"), str(now["band"] or "")
    if was["band"] != now["band"]:
        lower = str(was["band"] or "")  # an edge is named after what lies below it: "critical below 25%"
        band = next((b for b in widget.widget.bands if b.name == (lower or now["band"])), None)
        return (f"{band.name} {_limit(band)}" if band is not None else str(now["band"])), str(
            lower or now["band"] or ""
        )
    kind = widget.kind
    for name in kind.edged("end"):
        share, earlier = now[name], was[name]
        if isinstance(share, float) and isinstance(earlier, float) and _end(share) != _end(earlier):
            return ("full" if 1 in (_end(share), _end(earlier)) else "empty"), ""
    if any(isinstance(now[name], float) and was[name] != now[name] for name in kind.edged("part")):
        return "one more", ""
    for name in kind.edged("text"):
        if was.get(name) != now.get(name) and was.get(name) and now.get(name):
            return f"{was[name]} → {now[name]}", ""
    return "another picture", ""


def _end(share: float) -> int:
    """Which end of its range a share lies at or beyond; 0 at neither."""
    return -1 if share <= 0 else 1 if share >= 1 else 0


def _alike(one: Rung, other: Rung) -> bool:
    """Whether two rungs show the same band and are both to be seen, or neither."""
    return all(one.state[name] == other.state[name] for name in ("visible", "band"))


def _limit(band: Band) -> str:
    for word in ("below", "above", "when"):
        if rule := getattr(band, word):
            return f"{word} {rule}"
    return ""


def _arrivals(
    tracks: Tracks, widget: BoundWidget, driver: str, frame: int, groups: Sequence[Cells], also: Mapping[str, Value]
) -> Iterator[Arrival]:
    """From just above to just below each of the first edges; for what is no number, from each value to the next."""
    edged = [(group.rungs[-1].value, group.rungs[0].value) for group in groups if group.name]
    if not edged:
        values = [rung.value for group in groups for rung in group.rungs if rung.value is not None]
        edged = list(pairwise(values)) if not any(isinstance(value, float) for value in values) else []
    for before, after in edged[:MOST_ARRIVALS]:
        yield Arrival(before, after, tuple(arriving_states(tracks, widget, driver, frame, before, after, also)))


def arriving_states(
    tracks: Tracks, widget: BoundWidget, driver: str, frame: int, before: Value, after: Value, also: Mapping[str, Value]
) -> list[tuple[float, dict[str, Value]]]:
    """What a widget shows while a change arrives: the flash, the trail, the wait. Seconds after it, with the state then.

    The variable is held at one value for a minute and then at the other, what is in `also` as it says,
    and all else as it is at the frame.
    """
    held = {**{name: column[frame] for name, column in tracks.trace.columns.items()}, **also}
    count = int(max(ARRIVALS) * RATE) + 1
    times = [0.0, 60.0, *(60.0 + (i + 1) / RATE for i in range(count))]
    columns = {name: Column.of([value] * len(times)) for name, value in held.items() if name != driver}
    columns[driver] = Column.of([before, before, *([after] * count)])
    trace = Trace.make("", times, columns)
    steps = {**widget.columns, **widget.drawn}
    arrays = evaluate([s for s in steps.values() if s.constant is None], trace, tracks.bound.graph)
    values = iter(arrays)
    graph = tracks.bound.graph
    found = {
        n: (np.repeat(s.constant, len(times)) if s.constant is not None else next(values), s) for n, s in steps.items()
    }
    at = [2 + min(count - 1, round(second * RATE)) for second in ARRIVALS]
    return [
        (second, {name: plain_value(step, array[i], graph) for name, (array, step) in found.items()})
        for second, i in zip(ARRIVALS, at, strict=True)
    ]  # fmt: skip
