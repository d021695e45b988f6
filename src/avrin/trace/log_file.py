"""Traces as change logs: JSON Lines, one line per change with its time.

    {"avrin_log": 1, "rate": 60}                             optional first line
    {"t": 0, "set": {"hull": 100, "crew[0].scrap": 0}}       changed values only; null is missing
    {"t": 3.2, "event": "lost", "args": {"who": "Ona"}}      an event
    {"t": 60, "run": 2}                                      a restart; values persist until they change

Values hold until they change and are sampled at `rate` frames per second. With `"frames": "each"` in the
first line, every line with a `set` is a frame of its own, which preserves irregular times exactly. `"types"` there
gives the kinds of columns whose cells are ambiguous. The events of a table are in a log of events only.
"""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from itertools import pairwise
from pathlib import Path
from typing import Any, BinaryIO, Literal

import msgspec
import numpy as np

from avrin.errors import AvrinError
from avrin.project.validation import first_fault
from avrin.storage.atomic import atomic_write
from avrin.storage.reading import plain_file
from avrin.trace.arrow import LARGEST
from avrin.trace.assemble import MOST_COLUMNS, assemble, canonical, check_size
from avrin.trace.clock import RATE, UNSAID, Clock
from avrin.trace.copying import beside
from avrin.trace.frames import Array, Column, ColumnKind, Event, FloatArray, Trace, Value
from avrin.trace.line_blocks import line_blocks

__all__ = ["Beside", "read", "read_beside", "write", "write_beside"]

BLOCK = 4 << 20  # bytes decoded at once
EXACT, ROUGH = 1e-9, 0.25  # of a frame: how late a change may be written and still belong to the frame
LEAST_STEPS = 20  # steps between lines needed to infer a rate
MOST_STEPS = 2_000  # steps used to infer it
MOST_PARTS = 4  # frames the shortest step may span
FASTEST = 1_000.0  # frames per second
ODD = 0.02  # share of steps that may not be a whole number of frames
NEARLY = 0.0005  # how far a rate may miss the whole number it means: 29.97 does not mean 30
Cell = int | float | bool | str | None


class _Line(msgspec.Struct, frozen=True):
    t: float | None = None
    set: dict[str, Cell] | None = None
    event: str | None = None
    args: dict[str, Cell] | None = None
    run: float | None = None
    avrin_log: int | None = None
    rate: float | None = None
    frames: Literal["clock", "each"] = "clock"
    types: dict[str, ColumnKind] = {}


_DECODER = msgspec.json.Decoder(_Line)


class Beside(msgspec.Struct, frozen=True):
    """What a table cannot hold: events, and the kinds of columns whose cells are ambiguous."""

    events: tuple[Event, ...] = ()
    kinds: dict[str, ColumnKind] = {}


# -- reading --------------------------------------------------------------------------------------------------------


def read(path: Path, kinds: Mapping[str, ColumnKind] | None = None, clock: Clock = UNSAID) -> Trace:
    """Read a change log, like that of CSV. clock: its rate and run column override the file's.

    If the log gives no rate, it is inferred from the times; if it marks no runs, a column may number them, as in a
    table. Raises AvrinError.
    """
    log = _Log(dict(kinds or {}), clock.rate)
    log.take(path)
    if log.is_empty:
        raise AvrinError("has no frames", advice='Add a line such as {"t": 0, "set": {…}}')
    t, runs = log.frames()
    columns = log.columns(t, runs)
    times = {"t": Column("number", t)}
    said = Clock(time="t", unit="s", run=clock.run)
    if log.has_runs:
        times["run"] = Column("number", runs.astype(np.float64))
        said = Clock(time="t", unit="s", run="run")
    return assemble(path.stem, {**times, **columns}, said, lines=False, events=log.events)


def read_beside(table: Path) -> Beside:
    """Read `NAME.events.jsonl` next to a table; empty without such a file. Raises AvrinError."""
    path = beside(table)
    if not path.exists():
        return Beside()
    log = _Log({}, 0.0)
    try:
        log.take(path)
    except AvrinError as error:
        raise error.within(path.name) from None
    return Beside(tuple(log.events), log.kinds)


def _unusable(text: bytes, number: int) -> AvrinError:
    """Return the error for a line that is not valid in a change log."""
    try:
        raw = msgspec.json.decode(text)
    # The decoder stops at the first error, so the rest need be neither JSON nor text.
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return AvrinError("is not a change log entry", place=(f"line {number}",), advice='Such as {"t": 1, "set": {…}}')
    fault = first_fault(raw, msgspec.inspect.type_info(_Line))
    where = ".".join(map(str, fault.path)) if fault is not None else ""
    inner = where.startswith(("set", "args"))
    problem = "values are numbers, flags, texts or null" if inner or fault is None else fault.problem
    return AvrinError(f"'{where}' cannot be used: {problem}", place=(f"line {number}",))


def _why_no_json(text: bytes) -> str:
    try:
        json.loads(text)
    except json.JSONDecodeError as error:
        return f"{error.msg[0].lower()}{error.msg[1:]} at column {error.colno}"
    except UnicodeDecodeError:
        return "no UTF-8 text"
    return "it contains NaN or Infinity"


class _Log:
    """A log being read: each column's changes, as times and values of consecutive runs."""

    def __init__(self, kinds: dict[str, ColumnKind], rate: float) -> None:
        self.kinds = kinds
        self.rate = rate
        self.each = False
        self._early = EXACT
        self.events: list[Event] = []
        self._changes: dict[str, tuple[list[int], list[Cell]]] = {}  # by name: line numbers of the log, values
        self._times: list[float] = []  # of each line with a time
        self._framed: list[int] = []  # of them, those that are frames, if every line is one
        self._runs: list[int] = []  # of them, those at which runs begin
        self._line = 0

    def take(self, path: Path) -> None:
        """Read all lines. Raises AvrinError naming the line."""
        plain_file(path)
        for block in line_blocks(path, BLOCK):
            if block.isspace():
                self._line += block.count(b"\n")
                continue
            try:
                lines = _DECODER.decode_lines(block)
            except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError):
                raise self._explained(block) from None
            for number, line in enumerate(lines, self._line + 1):
                self._take_line(line, number)
            self._line += block.count(b"\n")
        if not self._times and not self.kinds:
            raise AvrinError("is empty", advice='A change log has lines such as {"t": 0, "set": {"hull": 100}}')

    def _take_line(self, line: _Line, number: int) -> None:
        t = line.t
        if t is None:
            self._first(line, number)
            return
        times = self._times
        at = len(times)
        if line.run is not None:
            if at:
                self._runs.append(at)
        elif at and t < times[-1]:
            raise AvrinError(
                f"time runs backwards, from {times[-1]:g} to {t:g} s",
                place=(f"line {number}",),
                advice='Sort the lines, or begin a run with {"t": …, "run": 2}',
            )
        times.append(t)
        if line.set is not None:
            self._framed.append(at)
            changes = self._changes
            for name, value in line.set.items():
                try:
                    where, values = changes[name]
                except KeyError:
                    where, values = self._new_column(name, number)
                where.append(at)
                values.append(value)
        if line.event is not None:
            if not line.event:
                raise AvrinError("the event has no name", place=(f"line {number}",), advice="Name it")
            self.events.append(Event(t, line.event, _plain_args(line.args or {}), len(self._runs) + 1))

    def _first(self, line: _Line, number: int) -> None:
        if line.avrin_log is None:
            raise AvrinError("has no time", place=(f"line {number}",), advice='Every line but the first has a "t"')
        if line.avrin_log > 1:
            raise AvrinError(f"is a change log of a newer kind ({line.avrin_log})", place=(f"line {number}",))
        if line.rate is not None and not 0 < line.rate <= 100_000:
            raise AvrinError("a rate is above 0 and at most 100,000 frames a second", place=(f"line {number}",))
        self.rate = self.rate or line.rate or 0.0
        self.each = line.frames == "each"
        self.kinds = {**{canonical(name): kind for name, kind in line.types.items()}, **self.kinds}
        for name in line.types:
            self._new_column(name, number)

    def _new_column(self, name: str, number: int) -> tuple[list[int], list[Cell]]:
        if not name:
            raise AvrinError("sets a value without a name", place=(f"line {number}",), advice="Name it")
        if len(self._changes) >= MOST_COLUMNS:
            raise AvrinError(f"names more than {MOST_COLUMNS:,} values", place=(f"line {number}",))
        return self._changes.setdefault(name, ([], []))

    def _explained(self, block: bytes) -> AvrinError:
        """Return the error for the first invalid line of a block."""
        for number, text in enumerate(block.split(b"\n"), self._line + 1):
            if not text.strip():
                continue
            try:
                _DECODER.decode(text)
            except msgspec.ValidationError:
                return _unusable(text, number)
            except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError) as error:
                reason = _why_no_json(text) if not isinstance(error, RecursionError) else "nested too deeply"
                return AvrinError(f"is not JSON: {reason}", place=(f"line {number}",))
        return AvrinError("is not JSON", place=(f"line {self._line + 1}",))

    @property
    def has_runs(self) -> bool:
        """Whether lines of the log mark runs."""
        return bool(self._runs)

    # -- changes to frames --------------------------------------------------------------------------------------

    @property
    def is_empty(self) -> bool:
        """Whether the log has no frames."""
        return not (self._framed if self.each else self._times)

    def frames(self) -> tuple[FloatArray, Array]:
        """Return each frame's time and its run, from 1."""
        times = np.array(self._times)
        edges = [0, *self._runs, len(times)]
        self._settle_rate(times, edges)
        rate = self.rate
        found: list[FloatArray] = []
        total = 0
        for number, (start, end) in enumerate(pairwise(edges)):
            if self.each:
                framed = np.array([i for i in self._framed if start <= i < end], np.int64)
                found.append(times[framed])
            else:
                after = times[end] if end < len(times) else None
                count = _count(times[start], times[end - 1], after, rate, self._early)
                total += count
                check_size(total, len(self._changes) + 1)
                found.append(times[start] + np.arange(count) / rate)
            if not np.isfinite(found[number]).all():
                raise AvrinError("a time is not a number of seconds")
        runs = np.repeat(np.arange(1, len(found) + 1), [len(part) for part in found])
        return np.concatenate(found), runs

    def _settle_rate(self, times: FloatArray, edges: list[int]) -> None:
        """Set the rate if the log gives none: inferred from its times, or the default."""
        self._early = EXACT
        if not self.rate and not self.each:
            found = _kept_rate([times[start:end] for start, end in pairwise(edges)])
            self.rate, self._early = (found, ROUGH) if found else (RATE, EXACT)

    def columns(self, t: FloatArray, runs: Array) -> dict[str, Column]:
        """Return each column per frame: the latest change up to its time, in any run."""
        times = np.array(self._times)
        run_of = np.zeros(len(times), np.int64)
        run_of[self._runs] = 1
        run_of = np.cumsum(run_of) + 1
        # The line in effect at each frame: the last of its run up to the frame's time, or the frame's own.
        if self.each:
            holds = np.array(self._framed, np.int64)
        else:
            holds = np.empty(len(t), np.int64)
            for number, (start, end) in enumerate(pairwise([0, *self._runs, len(times)]), 1):
                mine = slice(*np.searchsorted(runs, [number, number + 1]))
                slack = self._early / self.rate  # a change written at a frame's time belongs to that frame
                holds[mine] = start + np.searchsorted(times[start:end], t[mine] + slack, "right") - 1
        made = {}
        for name, (where, values) in self._changes.items():
            column = self._column(name, where, values)
            # The last change on a line counts; lines without one keep the previous value.
            latest = np.searchsorted(np.array(where, np.int64), holds, "right") - 1
            nothing = Column.missing(1, column.kind).data
            made[name] = Column(column.kind, np.append(column.data, nothing)[latest], column.words)
        return made

    def _column(self, name: str, where: list[int], values: list[Cell]) -> Column:
        kind = self.kinds.get(canonical(name))
        kinds = {type(value) for value in values} - {type(None)}
        if kind is None:
            kind = "flag" if kinds == {bool} else "text" if kinds == {str} else "number"
        allowed: set[type] = {"number": {int, float}, "flag": {bool}, "text": {str}}[kind]  # type: ignore[assignment]
        if kind == "flag" and kinds <= {bool, int, float} and all(v in (0, 1) for v in values if v is not None):
            values = [None if v is None else bool(v) for v in values]
        elif not kinds <= allowed:
            at = next(i for i, value in enumerate(values) if value is not None and type(value) not in allowed)
            words = {"number": "numbers", "flag": "true or false", "text": "texts"}[kind]
            raise AvrinError(
                f"{json.dumps(values[at], ensure_ascii=False)[:60]} is among its {words}", place=(self._place(name, where[at]),),
                advice="Write one type for one name",
            )  # fmt: skip
        if not kinds:
            return Column.missing(len(values), kind)
        if kind != "number":
            return Column.of(values)
        try:
            data = np.array(values, np.float64)  # None becomes NaN
            suspects = np.flatnonzero(np.abs(data) >= LARGEST).tolist()
        except OverflowError:  # a whole number too large for a float
            suspects = list(range(len(values)))
        for at in suspects:
            if (value := values[at]) is not None and value == value // 1 and abs(value) > LARGEST:  # type: ignore[operator]
                raise AvrinError(
                    "a whole number beyond 2^53 cannot be stored exactly", place=(self._place(name, where[at]),),
                    advice="Record identifiers as text",
                )  # fmt: skip
        return Column("number", data)

    def _place(self, name: str, at: int) -> str:
        return f"'{name}' at {self._times[at]:g} s"


def _kept_rate(runs: list[FloatArray]) -> float:
    """Return the frame rate that explains the times despite rounding; 0 without one.

    runs: the ascending times of each run's lines.
    """
    steps = np.concatenate([np.diff(np.unique(times)) for times in runs]) if runs else np.zeros(0)
    if len(steps) < LEAST_STEPS:
        return 0.0
    rising = np.sort(steps)
    thinned = rising[:: -(-len(rising) // MOST_STEPS)]
    for parts in range(1, MOST_PARTS + 1):
        frame = _frame_time(thinned, float(rising[0]) / parts)
        off = np.abs(steps / frame - np.rint(steps / frame))
        if 1 / frame <= FASTEST and float((off > ROUGH).mean()) <= ODD:
            rate = 1 / frame
            whole = float(np.rint(rate))
            return whole if whole and abs(rate - whole) <= NEARLY * whole else rate
    return 0.0


def _frame_time(steps: FloatArray, about: float) -> float:
    """Return the frame time of which some ascending steps are whole multiples; longer steps refine it.

    about: the initial estimate, for the shortest step.
    """
    frame, spent, frames = about, 0.0, 0
    for step in steps.tolist():
        spent, frames = spent + step, frames + max(1, round(step / frame))
        frame = spent / frames
    return frame


def _count(start: float, last: float, after: float | None, rate: float, early: float = EXACT) -> int:
    """Return the number of frames of a run that begins at `start`, last changes at `last` and ends at `after`.

    early: fraction of a frame a time may be written late and still belong to it.
    """
    if not math.isfinite(start) or not math.isfinite(last) or (last - start) * rate > 1e12:
        raise AvrinError("a time is too large to be one of a recording", advice="Write seconds")
    if after is not None and after >= last:
        return max(1, math.ceil((after - start) * rate - early))
    return max(1, math.ceil((last - start) * rate - early) + 1)


def _plain_args(args: Mapping[str, Cell]) -> dict[str, Value]:
    """Convert event arguments to values. Raises AvrinError for an integer too large for a float."""
    for name, value in args.items():
        if isinstance(value, int) and abs(value) > LARGEST:
            raise AvrinError(
                "a whole number beyond 2^53 cannot be stored exactly",
                place=(f"args.{name}",),
                advice="Record identifiers as text",
            )
    return {name: float(v) if isinstance(v, int) and not isinstance(v, bool) else v for name, v in args.items()}


# -- writing --------------------------------------------------------------------------------------------------------


def write(trace: Trace, file: BinaryIO, *, runs: bool = True) -> None:
    """Write a trace so that `read` returns it unchanged. runs: as for CSV. Raises OSError."""
    rate = _rate(trace)
    kinds = {name: column.kind for name, column in trace.columns.items()}
    head = {"avrin_log": 1, **({"rate": rate} if rate else {"frames": "each"}), "types": kinds}
    file.write(_json(head))
    waiting = list(trace.events)
    last: dict[str, Any] = {}
    for number, start, end in trace.runs():
        mine = [event for event in waiting if event.run == number]
        if number > 1 and runs:
            file.write(_json({"t": _begins(trace, start, mine), "run": number}))
        changed = _changes(trace, start, end, last)
        for frame in range(start, end):
            t = float(trace.t[frame])
            while mine and mine[0].t <= t:
                file.write(_event_line(mine.pop(0)))
            if changed[frame - start] or not rate or frame == end - 1:
                file.write(_json({"t": t, "set": changed[frame - start]}))
        for event in mine:
            file.write(_event_line(event))


def is_told_beside(trace: Trace, table: Path, kinds: Mapping[str, ColumnKind]) -> bool:
    """Return whether no events file needs writing next to a table: there is nothing to write, or it exists already.

    Raises AvrinError if another file has that name: it would be overwritten, or taken for this table's events.
    """
    path = beside(table)
    if not path.exists():
        return not trace.events and not kinds
    if _tells(table, trace, kinds):
        return True
    if not trace.events and _tells_kinds_alone(table, trace):
        return kinds.items() <= read_beside(table).kinds.items()
    if not (table.exists() and (trace.events or kinds)):
        raise AvrinError(
            f"{path.name} is next to it and would be read as its events", place=(str(table),),
            advice="Choose another name, or move that file away",
        )  # fmt: skip
    return False


def _tells(table: Path, trace: Trace, kinds: Mapping[str, ColumnKind]) -> bool:
    """Return whether an events file matches a trace, as when a recording is converted in its own folder."""
    try:
        there = read_beside(table)
    except (AvrinError, OSError):
        return False
    return bool(there.events) and there.events == trace.events and kinds.items() <= there.kinds.items()


def _tells_kinds_alone(table: Path, trace: Trace) -> bool:
    """Return whether an events file has no events and changes no column's kind.

    Such a file is left by an earlier table of the same name.
    """
    try:
        there = read_beside(table)
    except (AvrinError, OSError):
        return False
    known = {name: column.kind for name, column in trace.columns.items()}
    return not there.events and all(known.get(name, kind) == kind for name, kind in there.kinds.items())


def write_beside(trace: Trace, table: Path, kinds: Mapping[str, ColumnKind] | None = None) -> None:
    """Write the events file of a table. kinds: of columns whose cells are ambiguous. Raises OSError."""
    path = beside(table)
    lines = [_json({"avrin_log": 1, **({"types": dict(kinds)} if kinds else {})})]
    for number, start, _ in trace.runs():
        mine = [event for event in trace.events if event.run == number]
        lines.append(_json({"t": _begins(trace, start, mine), "run": number}))
        lines += map(_event_line, mine)
    atomic_write(path, b"".join(lines))


def _changes(trace: Trace, start: int, end: int, last: dict[str, Any]) -> list[dict[str, Any]]:
    """Return for each frame of a run the values that changed; `last` holds the current values and is updated."""
    found: list[dict[str, Any]] = [{} for _ in range(end - start)]
    for name, column in trace.columns.items():
        data = column.data[start:end]
        differs = data[1:] != data[:-1]
        if column.kind == "number":
            differs &= ~(np.isnan(data[1:]) & np.isnan(data[:-1]))
            differs |= (data[1:] == 0) & (np.signbit(data[1:]) != np.signbit(data[:-1]))
        for frame in [0, *(np.flatnonzero(differs) + 1).tolist()]:
            value = column[start + frame]
            known = last.get(name)
            if frame or name not in last or known != value or _is_negative_zero(known) != _is_negative_zero(value):
                found[frame][name] = _plain_number(value)
            last[name] = value
    return found


def _begins(trace: Trace, start: int, events: list[Event]) -> float:
    """Return the time of a run's first line: its first frame, or an earlier event."""
    return min([float(trace.t[start]), *(event.t for event in events[:1])])


def _plain_number(value: Value) -> Value | int:
    """A whole number without its decimal point; but -0.0 has to stay one, as no whole number is it."""
    if not isinstance(value, float) or not value.is_integer() or abs(value) > LARGEST or _is_negative_zero(value):
        return value
    return int(value)


def _is_negative_zero(value: Value) -> bool:
    return isinstance(value, float) and value == 0 and math.copysign(1, value) < 0


def _rate(trace: Trace) -> float:
    """Return the rate whose frame clock reproduces the trace's times exactly; 0 without one."""
    if len(trace) < 2:
        return 0.0
    rate = round(1 / trace.frame_time, 6)
    if not 0 < rate <= 100_000:
        return 0.0
    starts = [start for _, start, _ in trace.runs()]
    for (number, start, end), after in zip(trace.runs(), [*starts[1:], None], strict=True):
        t = trace.t[start:end]
        ends = float(trace.t[after]) if after is not None else None
        early_or_late = any(e.run == number and not t[0] <= e.t <= t[-1] for e in trace.events)
        if (
            early_or_late
            or not np.array_equal(t, t[0] + np.arange(len(t)) / rate)
            or _count(t[0], t[-1], ends, rate) != len(t)
        ):
            return 0.0
    return float(rate)


def _event_line(event: Event) -> bytes:
    args = {name: _plain_number(value) for name, value in event.args.items()}
    return _json({"t": event.t, "event": event.name, **({"args": args} if args else {})})


def _json(line: Mapping[str, Any]) -> bytes:
    return msgspec.json.encode(line) + b"\n"
