"""From a table's columns to a trace: names made ours, the clock settled, runs numbered, times checked, sizes bounded."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from avrin.model import AvrinError
from avrin.trace.clock import EACH_ROW, ONE_RUN, Clock, in_seconds, settle_clock
from avrin.trace.frames import Column, ColumnKind, Event, FloatArray, Trace, check_times, in_order, numbered

__all__ = ["MOST_CELLS", "MOST_COLUMNS", "assemble", "canonical", "check_names", "check_size", "wanted"]

MOST_COLUMNS = 10_000
MOST_CELLS = 600_000_000  # of eight bytes: some 5 GB, beyond which no window opens


def canonical(name: str) -> str:
    """Roster columns are `crew[0].scrap`; `crew.0.scrap` is read too."""
    return re.sub(r"\.(\d+)(?=\.)", r"[\1]", name)


def check_names(names: Sequence[str], place: str) -> None:
    """See that a table's names tell its columns apart. Raises AvrinError where they do not."""
    if len(names) > MOST_COLUMNS:
        raise AvrinError(
            f"has {len(names):,} columns; a recording may have {MOST_COLUMNS:,}",
            place=(place,),
            advice="Record what the HUD shows",
        )
    seen: set[str] = set()
    for number, name in enumerate(map(canonical, names), 1):
        if not name:
            raise AvrinError(f"the column number {number} has no name", place=(place,), advice="Name it")
        if name in seen:
            raise AvrinError(f"has '{name}' twice", place=(place,), advice="Rename or drop one of them")
        seen.add(name)


def check_size(frames: int, columns: int) -> None:
    """See that a trace would fit into memory. Raises AvrinError where it would not."""
    if frames * columns > MOST_CELLS:
        raise AvrinError(
            f"would be {frames:,} frames of {columns:,} columns, more than this program holds",
            advice="Cut the recording, or record fewer frames a second",
        )


def wanted(name: str, kinds: Mapping[str, ColumnKind], said: Clock) -> ColumnKind | None:
    """What a column has to be: what it is declared as, and a number if it tells time or runs; None for what it looks."""
    title = canonical(name)
    return kinds.get(title) or ("number" if title in ("t", "run", said.time, said.run) else None)


def assemble(
    name: str, columns: Mapping[str, Column], said: Clock, *, lines: bool, events: Iterable[Event] = ()
) -> Trace:
    """The trace of a table. columns: by their names in the file, time and run among them.

    lines: whether rows stand on lines of a text, which faults are then told by.
    Raises AvrinError naming row and column.
    """
    kept = {canonical(title): column for title, column in columns.items()}
    clock = settle_clock(said, kept, lambda title: _numbers(kept, title))
    if clock.time == EACH_ROW and clock.time not in kept:
        rows = len(next(iter(kept.values())).data)
        times = in_seconds(np.arange(rows, dtype=np.float64), clock)
    else:
        times = in_seconds(_numbers(kept, clock.time), clock)
    runs = np.ones(len(times), np.int32)
    if clock.run and clock.run != ONE_RUN:
        raw = kept[clock.run]
        if raw.kind != "number" or raw.is_missing().any() or (raw.data != np.rint(raw.data)).any():
            raise AvrinError("runs must be whole numbers without gaps", place=(f"column '{clock.run}'",))
        runs = numbered(raw.data)
    check_times(times, runs, clock.time, lines=lines)
    rest = {title: column for title, column in kept.items() if title not in (clock.time, clock.run)}
    return Trace(name, times, runs, rest, in_order(events), clock)


def _numbers(columns: Mapping[str, Column], title: str) -> FloatArray:
    column = columns[title]
    if column.kind != "number":
        raise AvrinError("the times are not numbers", place=(f"column '{title}'",), advice="Write seconds")
    return column.data
