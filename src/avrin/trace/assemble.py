"""Build a trace from a table's columns: normalise names, settle the clock, number the runs, check times and sizes."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from avrin.errors import AvrinError
from avrin.trace.clock import AT_RESTARTS, EACH_ROW, ONE_RUN, Clock, in_seconds, settle_clock
from avrin.trace.frames import Column, ColumnKind, Event, FloatArray, Trace, check_times, in_order, numbered

__all__ = ["MOST_CELLS", "MOST_COLUMNS", "assemble", "canonical", "check_names", "check_size", "wanted"]

MOST_COLUMNS = 10_000
MOST_CELLS = 600_000_000  # cells of eight bytes: about 5 GB, more than the window can load


def canonical(name: str) -> str:
    """Return the canonical name of a roster column, `crew[0].scrap`; `crew.0.scrap` is accepted too."""
    return re.sub(r"\.(\d+)(?=\.)", r"[\1]", name)


def check_names(names: Sequence[str], place: str) -> None:
    """Check that a table's column names are unique. Raises AvrinError if they are not."""
    if len(names) > MOST_COLUMNS:
        raise AvrinError(
            f"has {len(names):,} columns; a recording may have {MOST_COLUMNS:,}",
            place=(place,),
            advice="Record what the HUD shows",
        )
    seen: set[str] = set()
    for number, name in enumerate(map(canonical, names), 1):
        if not name:
            raise AvrinError(f"column {number} has no name", place=(place,), advice="Name it")
        if name in seen:
            raise AvrinError(f"has '{name}' twice", place=(place,), advice="Rename or drop one of them")
        seen.add(name)


def check_size(frames: int, columns: int) -> None:
    """Check that a trace fits into memory. Raises AvrinError if it does not."""
    if frames * columns > MOST_CELLS:
        raise AvrinError(
            f"would be {frames:,} frames of {columns:,} columns, more than this program holds",
            advice="Cut the recording, or record fewer frames a second",
        )


def wanted(name: str, kinds: Mapping[str, ColumnKind], clock: Clock) -> ColumnKind | None:
    """Return the required kind of a column: the declared one, or number for time and runs; None to infer it."""
    title = canonical(name)
    return kinds.get(title) or ("number" if title in ("t", "run", clock.time, clock.run) else None)


def assemble(
    name: str, columns: Mapping[str, Column], clock: Clock, *, lines: bool, events: Iterable[Event] = ()
) -> Trace:
    """Return the trace of a table. columns: by their names in the file, including time and run.

    lines: whether rows are lines of a text file, so that errors name lines.
    Raises AvrinError naming row and column.
    """
    kept = {canonical(title): column for title, column in columns.items()}
    clock = settle_clock(clock, kept, lambda title: _numbers(kept, title))
    if clock.time == EACH_ROW and clock.time not in kept:
        rows = len(next(iter(kept.values())).data)
        times = in_seconds(np.arange(rows, dtype=np.float64), clock)
    else:
        times = in_seconds(_numbers(kept, clock.time), clock)
    runs = np.ones(len(times), np.int32)
    if clock.run == AT_RESTARTS and AT_RESTARTS not in kept:
        runs[1:] += np.cumsum(np.diff(times) < 0, dtype=np.int32)
    elif clock.run and clock.run != ONE_RUN:
        raw = kept[clock.run]
        if raw.kind != "number" or raw.is_missing().any() or (raw.data != np.rint(raw.data)).any():
            raise AvrinError("runs must be whole numbers without gaps", place=(f"column '{clock.run}'",))
        runs = numbered(raw.data)
    check_times(times, runs, clock.time, lines=lines)
    # The column that separates runs stays a name for rules, unless it is called as they call the run's number anyway.
    rest = {title: column for title, column in kept.items() if title not in (clock.time, "run")}
    return Trace(name, times, runs, rest, in_order(events), clock)


def _numbers(columns: Mapping[str, Column], title: str) -> FloatArray:
    column = columns[title]
    if column.kind != "number":
        raise AvrinError("the times are not numbers", place=(f"column '{title}'",), advice="Write seconds")
    return column.data
