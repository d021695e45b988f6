"""Rows of the ladder: one widget against one driver, with cells grouped around its edges."""

from __future__ import annotations

from collections.abc import Generator, Iterable, Iterator, Mapping, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.ladder.drivers import drivers, recorded_values
from avrin.ladder.probe import Probe
from avrin.ladder.samples import Sample, sample_ladder
from avrin.project.project import Band, Variable
from avrin.trace.frames import Trace, Value

__all__ = ["Arrival", "Cells", "Row", "RowWork", "never_shown", "sweep_row"]

OTHER = "another picture"
EMPTY = "empty"
MOST_ARRIVALS = 3
ARRIVALS = (0.0, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0)  # seconds after a change


class Cells(Struct, frozen=True):
    """Adjacent cells. name: what happens at their edge, "" without one. band: the one entered, for its colour.

    back: whether it is the edge at which a band with hysteresis is left.
    """

    samples: tuple[Sample, ...]
    name: str = ""
    band: str = ""
    edge: float | None = None
    back: bool = False


class Arrival(Struct, frozen=True):
    """The course of a change on the playhead's frame. before: the value until then. states: some seconds later each."""

    before: Value
    after: Value
    states: tuple[tuple[float, dict[str, Value]], ...]


class Row(Struct, frozen=True):
    """One widget against one driver. others: further drivers. held: those held at another value.

    now: what the HUD shows on the playhead's frame at `clock` seconds. arrivals: the course of changes over the first
    edges, if requested. span: of its numbers, 0 if there are none.
    omitted: number of edges that are not shown; endless: more than could be counted.
    """

    widget: BoundWidget
    driver: str
    groups: tuple[Cells, ...]
    now: Sample
    clock: float = 0.0
    others: tuple[str, ...] = ()
    held: dict[str, Value] = field(default_factory=dict)
    arrivals: tuple[Arrival, ...] = ()
    span: float = 0.0
    omitted: int = 0
    endless: bool = False

    def beyond(self, variable: Variable | None) -> int:
        """Return the number of never recorded cells that are impossible: missing values and those outside the declared range."""
        return sum(sample.never and not _can_come(sample.value, variable) for sample in self.samples)

    @property
    def samples(self) -> tuple[Sample, ...]:
        """All cells, from missing upwards."""
        return tuple(sample for group in self.groups for sample in group.samples)


def _can_come(value: Value, variable: Variable | None) -> bool:
    """Return whether a game that respects the declaration can produce a value."""
    if value is None or variable is None:
        return False
    if not isinstance(value, float):
        return value != ""
    return not (
        (variable.low is not None and value < variable.low) or (variable.high is not None and value > variable.high)
    )


RowWork = Generator[None, None, Row]


def sweep_row(
    tracks: Tracks,
    widget: BoundWidget,
    driver: str,
    frame: int,
    traces: Sequence[Trace],
    held: dict[str, Value] | None = None,
    *,
    arriving: bool = False,
) -> RowWork:
    """Compute a row, yielding in between. traces: recordings searched. held: further drivers held at values.

    arriving: whether to compute the course of changes over its edges.
    """
    also = dict(held or {})
    ladder = yield from sample_ladder(tracks, widget, driver, frame, also=also, traces=traces)
    found = list(ladder.samples)
    others = tuple(name for name in drivers(tracks.bound, widget) if name != driver)
    groups = _gathered(widget, found)
    arrivals: tuple[Arrival, ...] = ()
    if arriving:
        bench = yield from Probe.at(tracks, widget, driver, frame, also)
        arrivals = tuple(_arrivals(bench, groups, _before(tracks, driver, frame)))
    numbers = [sample.value for sample in found if isinstance(sample.value, float)]
    span = max(numbers, default=0.0) - min(numbers, default=0.0)
    clock = float(tracks.trace.t[frame]) if len(tracks.trace) else 0.0
    return Row(widget, driver, groups, ladder.now, clock, others, also, arrivals, span, ladder.omitted, ladder.endless)


def never_shown(rows: Iterable[Row]) -> list[Row]:
    """Return rows reduced to cells that no recording shows, without empty rows."""
    found = []
    for row in rows:
        left = [replace(g, samples=tuple(sample for sample in g.samples if sample.never)) for g in row.groups]
        if groups := tuple(group for group in left if group.samples):
            found.append(replace(row, groups=groups))
    return found


def _gathered(widget: BoundWidget, cells: list[Sample]) -> tuple[Cells, ...]:
    """Group each edge with the cells just below and above it; the cells between form groups of their own."""
    groups: list[Cells] = []
    taken = 0
    for i, sample in enumerate(cells):
        if not sample.edge or i < taken:  # two edges one cell apart share their cells
            continue
        crowded = i + 1 < len(cells) and cells[i + 1].edge and i > 0 and cells[i - 1].edge
        start = i - 1 if i > taken and cells[i - 1].beside else i
        end = i + 2 if not crowded and i + 1 < len(cells) and cells[i + 1].beside else i + 1
        groups += [Cells((lone,)) for lone in cells[taken:start]]
        before = cells[i - 1] if i else sample
        edge = sample.value if isinstance(sample.value, float) else None
        beyond = i + 1 < len(cells) and cells[i + 1].beside
        after = cells[i + 1] if beyond and _look_alike(before, sample) else sample
        name, band, back = _edge_name(widget, before, after)
        if name == EMPTY and not beyond and isinstance(before.value, float):
            edge = before.value  # for whole numbers the last one at which it is empty
        again = crowded and bool(groups) and not band  # consecutive edges, as for pips: only the first is named
        groups.append(Cells(tuple(cells[start:end]), "" if again else name, band, edge, back))
        taken = end
    return (*groups, *(Cells((lone,)) for lone in cells[taken:]))


def _edge_name(widget: BoundWidget, before: Sample, sample: Sample) -> tuple[str, str, bool]:
    """Return a short name of the change at an edge, the band entered or left, and whether hysteresis ends there."""
    name, band = _named_by(widget, before.state, sample.state)
    if before.afresh is None or sample.afresh is None:
        return name, band, False
    first, of = _named_by(widget, before.afresh, sample.afresh)
    if name == OTHER or (band and band == of):  # no difference given the past, or the same one
        return first, of, False
    sticky = next((one for one in widget.widget.bands if one.name == band and one.back), None)
    return (f"{band} until {sticky.back}", band, True) if sticky is not None and not of else (name, band, False)


def _named_by(widget: BoundWidget, was: Mapping[str, Value], now: Mapping[str, Value]) -> tuple[str, str]:
    # The most important change gives the name: visibility, then bands, then ends.
    if was["visible"] != now["visible"]:
        return ("shows" if now["visible"] else "hides"), str(now["band"] or "")
    if was["band"] != now["band"]:
        lower = str(was["band"] or "")  # an edge is named after what is below it: "critical below 25%"
        band = next((b for b in widget.widget.bands if b.name == (lower or now["band"])), None)
        return (f"{band.name} {_limit(band)}" if band is not None else str(now["band"])), str(
            lower or now["band"] or ""
        )
    kind = widget.kind
    for name in kind.edged("end"):
        share, earlier = now[name], was[name]
        if isinstance(share, float) and isinstance(earlier, float) and _end(share) != _end(earlier):
            return ("full" if 1 in (_end(share), _end(earlier)) else EMPTY), ""
    if any(isinstance(now[name], float) and was[name] != now[name] for name in kind.edged("part")):
        return "one more", ""
    for name in kind.edged("text"):
        if was.get(name) != now.get(name) and was.get(name) and now.get(name):
            return f"{was[name]} → {now[name]}", ""
    return OTHER, ""


def _end(share: float) -> int:
    """Return at or beyond which end of its range a share is; 0 for neither."""
    return -1 if share <= 0 else 1 if share >= 1 else 0


def _look_alike(first: Sample, second: Sample) -> bool:
    """Return whether two cells have the same band and visibility with and without a past."""
    both = [(first.state, second.state), *([(first.afresh, second.afresh)] if first.afresh and second.afresh else [])]
    return all(was[name] == now[name] for was, now in both for name in ("visible", "band"))


def _limit(band: Band) -> str:
    for word in ("below", "above", "when"):
        if rule := getattr(band, word):
            return f"{word} {rule}"
    return ""


def _before(tracks: Tracks, driver: str, frame: int) -> Value:
    """Return a driver's value before the frame: on the previous one of its run, or on itself at the start of a run."""
    (column,) = recorded_values(tracks.bound, driver, [tracks.trace])
    if column is None or not len(column.data):
        return None
    return column[frame if frame in tracks.trace.run_starts else frame - 1]


def _arrivals(bench: Probe, groups: Sequence[Cells], before: Value) -> Iterator[Arrival]:
    """Yield the course from the present value over each of the first edges; for non-numbers, to each other value."""
    edged = [group for group in groups if group.name and group.edge is not None]
    if edged:
        over = [
            g.samples[0] if not isinstance(before, float) or before >= (g.edge or 0.0) else g.samples[-1] for g in edged
        ]
        values = [sample.value for sample in over]
    else:
        values = [sample.value for group in groups for sample in group.samples if sample.value is not None]
    for after in [value for value in dict.fromkeys(values) if value != before][:MOST_ARRIVALS]:
        yield Arrival(before, after, tuple(zip(ARRIVALS, bench.arriving(after, ARRIVALS), strict=True)))
