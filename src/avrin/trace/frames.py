"""Recorded state: frames in time order, one typed column per variable, split into runs.

Missing is NaN in a number column, `MISSING` in a flag column and code -1 in a text column. Flags are int8 with
FALSE < MISSING < TRUE, so that three-valued `and` is the minimum, `or` the maximum and `not` the mirror image
(Kleene's strong logic). Texts are int32 codes into the column's words.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from itertools import pairwise
from typing import Literal

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray

from avrin.errors import AvrinError
from avrin.project.project import VariableType
from avrin.trace.arrays import Array, FloatArray
from avrin.trace.clock import Clock

__all__ = [
    "FALSE", "KIND_OF", "MISSING", "NO_TEXT", "TRUE", "Array", "Column", "ColumnKind", "Event", "FloatArray", "Trace", "Value",
    "event_column", "events_of", "is_event_column", "present",
]  # fmt: skip

ColumnKind = Literal["number", "flag", "text"]
Value = float | bool | str | None

ROUNDED = 0.02  # relative error of times rounded to milliseconds
FALSE, MISSING, TRUE = 0, 1, 2
KIND_OF: dict[VariableType, ColumnKind] = {"int": "number", "float": "number", "bool": "flag", "text": "text"}
NO_TEXT = -1


class Column(Struct, frozen=True):
    """One variable over T frames.

    kind: "number" (data float64), "flag" (int8) or "text" (int32 codes into `words`).
    """

    kind: ColumnKind
    data: Array
    words: tuple[str, ...] = ()

    @classmethod
    def of(cls, values: Sequence[Value]) -> Column:
        """Return a column of plain values; None is missing. The first value that is not None sets the kind."""
        first = next((value for value in values if value is not None), None)
        if isinstance(first, bool):
            return cls("flag", np.array([MISSING if v is None else TRUE if v else FALSE for v in values], np.int8))
        if isinstance(first, str):
            words = tuple(dict.fromkeys(v for v in values if isinstance(v, str)))
            codes = {word: code for code, word in enumerate(words)}
            return cls("text", np.array([NO_TEXT if v is None else codes[str(v)] for v in values], np.int32), words)
        return cls("number", np.array([np.nan if v is None else v for v in values], np.float64))

    @classmethod
    def missing(cls, frames: int, kind: ColumnKind = "number") -> Column:
        """Return a column that is missing at every frame."""
        if kind == "number":
            return cls(kind, np.full(frames, np.nan))
        return cls(
            kind, np.full(frames, MISSING if kind == "flag" else NO_TEXT, np.int8 if kind == "flag" else np.int32)
        )

    def __getitem__(self, frame: int) -> Value:
        raw = self.data[frame]
        if self.kind == "number":
            return None if np.isnan(raw) else float(raw)
        if self.kind == "flag":
            return None if raw == MISSING else bool(raw == TRUE)
        return None if raw == NO_TEXT else self.words[raw]

    def is_missing(self) -> NDArray[np.bool_]:
        """Where the value is missing, shape (T,)."""
        if self.kind == "number":
            return np.isnan(self.data)
        return np.equal(self.data, MISSING if self.kind == "flag" else NO_TEXT)


class Event(Struct, frozen=True):
    """Something that happened. t: seconds of the trace's clock. run: its run, from 1. args: values by name."""

    t: float
    name: str
    args: Mapping[str, Value] = field(default_factory=dict)
    run: int = 1


def event_column(name: str, arg: str = "") -> str:
    """Return the name under which rules find an event: its count per frame, or an argument of its latest occurrence."""
    return f"{name}().{arg}" if arg else f"{name}()"


def is_event_column(name: str) -> bool:
    """Return whether a column name was made by `event_column`."""
    return "()" in name


class Trace(Struct, frozen=True, dict=True):
    """Frames of recorded state.

    t: seconds, shape (T,), not falling within a run. run: the run of each frame, from 1, shape (T,).
    columns: by variable name, T frames each. events: in order of occurrence.
    name: the recording's title. clock: how its file stored time; None for generated traces.
    """

    name: str
    t: FloatArray
    run: NDArray[np.int32]
    columns: Mapping[str, Column] = field(default_factory=dict)
    events: tuple[Event, ...] = ()
    clock: Clock | None = None

    @classmethod
    def make(
        cls,
        name: str,
        t: Sequence[float] | FloatArray,
        columns: Mapping[str, Column],
        run: Sequence[int] | None = None,
        events: Iterable[Event] = (),
    ) -> Trace:
        """Return a trace of times in seconds, shape (T,); `run`, of the same shape, separates runs.

        Raises AvrinError if time runs backwards within a run or a column has another length.
        """
        times = np.asarray(t, np.float64)
        runs = numbered(np.asarray(run, np.float64)) if run is not None else np.ones(len(times), np.int32)
        check_times(times, runs)
        for title, column in columns.items():
            if len(column.data) != len(times):
                raise AvrinError(f"has {len(column.data)} frames, the trace {len(times)}", place=(f"column '{title}'",))
        return cls(name, times, runs, dict(columns), in_order(events))

    def __len__(self) -> int:
        return len(self.t)

    def has_content_of(self, other: Trace) -> bool:
        """Return whether another trace has the same name, frames, columns and events, bit for bit."""
        return (
            (self.name, self.clock, self.events) == (other.name, other.clock, other.events)
            and [*self.columns] == [*other.columns]
            and _are_bits_equal(self.t, other.t)
            and _are_bits_equal(self.run, other.run)
            and all(
                (one.kind, one.words) == (two.kind, two.words) and _are_bits_equal(one.data, two.data)
                for one, two in zip(self.columns.values(), other.columns.values(), strict=True)
            )
        )

    @cached_property
    def run_starts(self) -> NDArray[np.int64]:
        """First frame of each run, shape (runs,)."""
        if not len(self):
            return np.zeros(0, np.int64)
        return np.concatenate(([0], np.flatnonzero(np.diff(self.run)) + 1))

    @cached_property
    def axis(self) -> FloatArray:
        """Seconds since the trace began, shape (T,), never falling: runs that restart from zero are laid end to end."""
        axis = self.t - self.t[0] if len(self) else self.t
        for start in self.run_starts[1:]:
            if axis[start] < axis[start - 1]:
                axis[start:] += axis[start - 1] - axis[start] + self.frame_time
        return axis

    @cached_property
    def lasting(self) -> FloatArray:
        """Duration of each frame in seconds, shape (T,): until the run's next frame; the last one repeats the one before."""
        made = np.zeros(len(self))
        made[:-1] = np.diff(self.t)
        for _, start, end in self.runs():
            made[end - 1] = made[end - 2] if end - start > 1 else 0.0
        return made

    @cached_property
    def frame_time(self) -> float:
        """The median time between two frames in seconds; 1/60 if there is none."""
        steps = np.diff(self.t)
        steps = np.sort(steps[steps > 0])  # NumPy's median first imports its masked arrays
        return float(steps[len(steps) // 2]) if len(steps) else 1 / 60

    @cached_property
    def rate(self) -> float:
        """Frames per second: from the mean step if it equals the median but for rounding, as for times in whole ms."""
        played = sum(float(self.t[end - 1] - self.t[start]) for _, start, end in self.runs())
        mean = (len(self) - len(self.run_starts)) / played if played > 0 else 0.0
        return mean if abs(mean * self.frame_time - 1) < ROUNDED else 1 / self.frame_time

    def is_complete(self, name: str) -> bool:
        """Return whether a column has a value at every frame; cached."""
        known = self._complete.get(name)
        if known is None:
            column = self.find(name)
            known = self._complete[name] = column is not None and not bool(column.is_missing().any())
        return known

    def find(self, name: str) -> Column | None:
        """Return a column by name, or an event's column by its `event_column` name; None if there is neither."""
        if name in self.columns or not self.events:
            return self.columns.get(name)
        return self._event_columns.get(name)

    @cached_property
    def event_kinds(self) -> dict[str, dict[str, ColumnKind]]:
        """The kinds of each event's arguments, by event and argument name."""
        kinds: dict[str, dict[str, ColumnKind]] = {event.name: {} for event in self.events}
        for event in self.events:
            for arg, value in event.args.items():
                if value is not None or arg not in kinds[event.name]:
                    kinds[event.name][arg] = Column.of([value]).kind
        return kinds

    @cached_property
    def event_frames(self) -> NDArray[np.int64]:
        """The frame of each event, shape (events,): the first of its run at or after it; -1 after the run's last."""
        at = np.full(len(self.events), -1)
        by_run = {number: (start, end) for number, start, end in self.runs()}
        for i, event in enumerate(self.events):
            start, end = by_run.get(event.run, (0, 0))
            frame = start + int(np.searchsorted(self.t[start:end], event.t, "left"))
            if frame < end:
                at[i] = frame
        return at

    @cached_property
    def events_by_frame(self) -> tuple[NDArray[np.int64], list[Event]]:
        """Return the ascending frames of visible events, shape (events,), and the events."""
        at = self.event_frames
        shown = np.flatnonzero(at >= 0)
        order = shown[np.argsort(at[shown], kind="stable")]
        return at[order], [self.events[i] for i in order.tolist()]

    @cached_property
    def _event_columns(self) -> dict[str, Column]:
        """For each event a column with its count per frame; for each argument one with its latest value in the frame."""
        found: dict[str, Column] = {}
        frames = self.event_frames
        for name in dict.fromkeys(event.name for event in self.events):
            mine = [(int(frames[i]), e) for i, e in enumerate(self.events) if e.name == name and frames[i] >= 0]
            found[event_column(name)] = Column(
                "number", np.bincount([frame for frame, _ in mine], minlength=len(self)).astype(np.float64)
            )
            for arg in dict.fromkeys(arg for _, event in mine for arg in event.args):
                seen = Column.of([event.args.get(arg) for _, event in mine])
                column = Column.missing(len(self), seen.kind)
                column.data[[frame for frame, _ in mine]] = seen.data  # the frame's latest event is written last
                found[event_column(name, arg)] = Column(seen.kind, column.data, seen.words)
        return found

    @cached_property
    def _complete(self) -> dict[str, bool]:
        return {}

    @property
    def length(self) -> float:
        """Seconds from the first frame to the last."""
        return float(self.axis[-1]) if len(self) else 0.0

    def frame_at(self, seconds: float) -> int:
        """Return the last frame at or before `seconds` on the axis; 0 before the first."""
        return max(0, int(np.searchsorted(self.axis, seconds, "right")) - 1)

    def runs(self) -> Iterator[tuple[int, int, int]]:
        """Yield each run as (number, first frame, end frame)."""
        for start, end in pairwise([*self.run_starts.tolist(), len(self)]):
            yield int(self.run[start]), start, end


def _are_bits_equal(some: Array, others: Array) -> bool:
    """Return whether two arrays have the same type, shape and bits: a missing number equals itself."""
    if some.dtype != others.dtype:
        return False
    bits = np.dtype(f"u{some.dtype.itemsize}")
    return np.array_equal(some.view(bits), others.view(bits))


def numbered(raw: FloatArray) -> NDArray[np.int32]:
    """Number runs from 1 in order, shape (T,): a new run starts wherever the recorded number changes."""
    changes = np.diff(raw) != 0
    return np.concatenate(([1], 1 + np.cumsum(changes))).astype(np.int32) if len(raw) else np.zeros(0, np.int32)


def in_order(events: Iterable[Event]) -> tuple[Event, ...]:
    """Sort events by time, stably. Arguments of mixed types become texts."""
    ordered = tuple(sorted(events, key=lambda e: (e.run, e.t)))
    kinds: dict[tuple[str, str], type] = {}
    mixed: set[tuple[str, str]] = set()
    for event in ordered:
        for arg, value in event.args.items():
            if value is not None and kinds.setdefault((event.name, arg), type(value)) is not type(value):
                mixed.add((event.name, arg))
    return tuple(_as_texts(event, mixed) for event in ordered) if mixed else ordered


def _as_texts(event: Event, mixed: Container[tuple[str, str]]) -> Event:
    args = {arg: _text(value) if (event.name, arg) in mixed else value for arg, value in event.args.items()}
    return replace(event, args=args) if args != event.args else event


def _text(value: Value) -> Value:
    if isinstance(value, bool):
        return "true" if value else "false"
    return f"{value:.15g}" if isinstance(value, float) else value


def check_times(t: FloatArray, run: NDArray[np.int32], name: str = "t", *, lines: bool = True) -> None:
    """Validate times. Raises AvrinError at the first one that is missing, infinite or earlier than its predecessor.

    t: seconds, shape (T,); run: numbers from 1, shape (T,). lines: whether rows are lines of a text file.
    """
    bad = np.flatnonzero(~np.isfinite(t))
    if len(bad):
        raise AvrinError(
            "the time is missing or not a number", place=(row_place(int(bad[0]), lines=lines), f"column '{name}'")
        )
    back = np.flatnonzero((np.diff(t) < 0) & (np.diff(run) == 0))
    if len(back):
        row = int(back[0]) + 1
        raise AvrinError(
            f"time runs backwards, from {t[row - 1]:g} to {t[row]:g} s",
            place=(row_place(row, lines=lines), f"column '{name}'"),
            advice="Sort the rows, or add a column 'run' that changes at each restart",
        )


def row_place(frame: int, *, lines: bool = True) -> str:
    """Return a frame's position in its table: its row from 1, or its line in a text file, where the header is line 1."""
    return f"row {frame + 1} (line {frame + 2})" if lines else f"row {frame + 1}"


def events_of(traces: Iterable[Trace]) -> dict[str, dict[str, ColumnKind]]:
    """Return the events of some recordings by name, with the kinds of all their arguments."""
    found: dict[str, dict[str, ColumnKind]] = {}
    for trace in traces:
        for name, args in trace.event_kinds.items():
            found.setdefault(name, {}).update(args)
    return found


def present(codes: Array) -> list[int]:
    """Return the distinct codes of a text column, ascending; codes may have any shape.

    There are few distinct codes, so counting is faster than sorting or hashing.
    """
    found: list[int] = (np.flatnonzero(np.bincount(codes + 1)) - 1).tolist()
    return found
