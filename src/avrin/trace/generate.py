"""Generate traces from declarations alone, before any recording exists.

Each part is a run of its own, so a generated trace contains restarts: variables that do not `keep` are reset.
While one variable moves, the others stay at their start values.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

import numpy as np
from msgspec import Struct

from avrin.errors import AvrinError
from avrin.project.project import Variable
from avrin.trace.assemble import check_size
from avrin.trace.frames import FALSE, MISSING, NO_TEXT, TRUE, Array, Column, FloatArray, Trace

__all__ = ["PARTS", "Plan", "generate_trace"]

SMALL = 500  # steps for a range of fractions


class Plan(Struct, frozen=True):
    """What to generate. parts: names from `PARTS`, in that order. thresholds: critical values by variable name.

    words: possible values of text variables. seconds: duration of a ramp, and of a walk per variable. seed: for randomness.
    """

    parts: tuple[str, ...] = ("ramps", "steps", "jumps", "restart", "walks")
    thresholds: Mapping[str, Sequence[float]] | None = None
    words: Mapping[str, Sequence[str]] | None = None
    seconds: float = 4.0
    rate: float = 60.0
    seed: int = 1


def generate_trace(name: str, variables: Mapping[str, Variable], plan: Plan) -> Trace:
    """Return a trace of all variables. Equal arguments give equal traces.

    Raises AvrinError for an unknown part, without variables, and if the trace would be too long.
    """
    if not variables:
        raise AvrinError("there are no variables", advice="Declare one first")
    for part in plan.parts:
        if part not in PARTS:
            raise AvrinError(f"no part '{part}'", advice=f"There are {', '.join(PARTS)}")
    if not (0 < plan.rate <= 100_000 and 0 < plan.seconds <= 3600):
        raise AvrinError("the rate is above 0 and a ramp above 0 and at most 3,600 seconds")
    maker = _Maker(variables, plan)
    runs = [run for part in plan.parts for run in PARTS[part](maker)]
    count = sum(len(run) for run in runs)
    check_size(count, len(variables))
    columns = {title: np.concatenate([run.columns[title] for run in runs]) for title in variables}
    starts = np.cumsum([0, *(len(run) for run in runs[:-1])])
    t = np.arange(count) / plan.rate
    number = np.zeros(count, np.int64)
    number[starts] = 1
    return Trace.make(
        name, t, {title: maker.column(title, data) for title, data in columns.items()}, np.cumsum(number).tolist()
    )


class _Run:
    """The values of each variable in one run: numbers, or codes of flags and texts."""

    def __init__(self, columns: Mapping[str, Array]) -> None:
        self.columns = columns

    def __len__(self) -> int:
        return len(next(iter(self.columns.values())))


class _Maker:
    """Knows each variable's start and range. `kept` carries values that survive a restart."""

    def __init__(self, variables: Mapping[str, Variable], plan: Plan) -> None:
        self.variables = variables
        self.plan = plan
        self.words = {
            name: tuple(dict.fromkeys([*([str(v.start)] if v.start is not None else []), *(plan.words or {}).get(name, ())]))
            for name, v in variables.items()
            if v.type == "text"
        }  # fmt: skip
        self.kept: dict[str, float] = {}

    def frames(self, seconds: float) -> int:
        frames = max(2, round(seconds * self.plan.rate))
        check_size(frames, 3 * len(self.variables))  # each moves in turn, up and down; checked before allocating
        return frames

    def start(self, name: str) -> float:
        """Return a variable's start value as a number or a code."""
        variable = self.variables[name]
        if variable.keeps and name in self.kept:
            return self.kept[name]
        if variable.type == "text":
            return 0 if variable.start is not None else NO_TEXT
        if variable.type == "bool":
            return MISSING if variable.start is None else TRUE if variable.start else FALSE
        if isinstance(variable.start, int | float):
            return float(variable.start)
        return self.ends(name)[0]

    def ends(self, name: str) -> tuple[float, float]:
        variable = self.variables[name]
        marks = list((self.plan.thresholds or {}).get(name, ()))
        low = variable.low if variable.low is not None else min([0.0, *marks])
        high = variable.high if variable.high is not None else max([low + 1.0, 100.0, *(2 * m for m in marks)])
        return (low, high) if high > low else (low, low + 1.0)

    def step(self, name: str) -> float:
        low, high = self.ends(name)
        return 1.0 if self.variables[name].type == "int" else (high - low) / SMALL

    def rounded(self, name: str, values: FloatArray) -> FloatArray:
        return np.rint(values) if self.variables[name].type == "int" else values

    def numbers(self) -> list[str]:
        return [name for name, v in self.variables.items() if v.type in ("int", "float")]

    def run(self, moved: Sequence[tuple[str, Array]]) -> _Run:
        """Return one run in which variables move one after another and hold their last value."""
        length = sum(len(values) for _, values in moved)
        columns = {name: np.full(length, self.start(name)) for name in self.variables}
        at = 0
        for name, values in moved:
            columns[name][at : at + len(values)] = values
            columns[name][at + len(values) :] = values[-1]
            at += len(values)
        self.kept = {name: float(column[-1]) for name, column in columns.items()}
        return _Run(columns)

    def column(self, name: str, data: FloatArray) -> Column:
        kind = self.variables[name].type
        if kind == "text":
            return Column("text", data.astype(np.int32), self.words[name])
        return Column("flag", data.astype(np.int8)) if kind == "bool" else Column("number", data)

    def others(self) -> Iterator[tuple[str, Array]]:
        """Yield flags switched on and off, and texts stepped through their words."""
        for name, variable in self.variables.items():
            hold = self.frames(self.plan.seconds / 2)
            if variable.type == "bool":
                yield name, np.repeat([FALSE, TRUE, FALSE], hold).astype(float)
            elif variable.type == "text" and len(self.words[name]) > 1:
                codes = [*range(len(self.words[name])), 0]
                yield name, np.repeat(codes, hold).astype(float)


def _ramps(maker: _Maker) -> Iterator[_Run]:
    """Yield a ramp of each number from end to end and back; then flags and texts."""
    moved: list[tuple[str, Array]] = []
    for name in maker.numbers():
        low, high = maker.ends(name)
        start = maker.start(name)
        long = maker.frames(maker.plan.seconds)
        legs = [np.linspace(a, b, long) for a, b in ((start, low), (low, high), (high, start)) if a != b]
        moved.append((name, maker.rounded(name, np.concatenate(legs))))
    moved += maker.others()
    if moved:
        yield maker.run(moved)


def _steps(maker: _Maker) -> Iterator[_Run]:
    """Yield steps around each threshold and end: just below, at, just above, half a second each."""
    moved: list[tuple[str, Array]] = []
    hold = maker.frames(0.5)
    for name in maker.numbers():
        low, high = maker.ends(name)
        step = maker.step(name)
        marks = sorted({low, high, *(maker.plan.thresholds or {}).get(name, ())})
        values = [mark + way * step for mark in marks for way in (-1, 0, 1)]
        back = [mark + way * step for mark in reversed(marks) for way in (1, 0, -1)]
        moved.append((name, np.repeat([*values, *back, maker.start(name)], hold)))
    if moved:
        yield maker.run(moved)


def _jumps(maker: _Maker) -> Iterator[_Run]:
    """Yield jumps over several steps between two frames, which skip values that rules compare with `==`."""
    moved: list[tuple[str, Array]] = []
    hold = maker.frames(0.4)
    for name in maker.numbers():
        low, high = maker.ends(name)
        size = max(maker.step(name) * 7, (high - low) * 0.137)
        way = np.concatenate((np.arange(high, low - size, -size), np.arange(low - size, high, size)))
        moved.append((name, np.repeat(maker.rounded(name, way), hold)))
    if moved:
        yield maker.run(moved)


def _restart(maker: _Maker) -> Iterator[_Run]:
    """Yield a run that ends away from the start values, and a short one after it."""
    away = []
    for name in maker.numbers():
        low, high = maker.ends(name)
        middle = maker.rounded(name, np.array([low + (high - low) * 0.37]))
        away.append((name, np.repeat(middle, maker.frames(0.2))))
    if away:
        yield maker.run(away)
    yield _Run({name: np.full(maker.frames(2.0), maker.start(name)) for name in maker.variables})


def _walks(maker: _Maker) -> Iterator[_Run]:
    """Yield a random walk of all numbers within their ranges and slightly beyond; flags flip occasionally."""
    dice = np.random.default_rng(maker.plan.seed)
    long = maker.frames(max(20.0, 2 * maker.plan.seconds))
    columns: dict[str, Array] = {}
    for name, variable in maker.variables.items():
        if variable.type == "bool":
            flips = np.cumsum(dice.random(long) < 0.5 / maker.plan.rate)
            columns[name] = np.where((flips + (maker.start(name) == TRUE)) % 2, TRUE, FALSE).astype(float)
        elif variable.type == "text":
            words = len(maker.words[name])
            turns = np.cumsum(dice.random(long) < 0.2 / maker.plan.rate)
            columns[name] = (turns % words if words else np.full(long, NO_TEXT)).astype(float)
        else:
            low, high = maker.ends(name)
            strides = dice.normal(0, (high - low) * 0.25 / np.sqrt(maker.plan.rate), long)
            strides *= dice.random(long) < 0.2  # game values jump more often than they glide
            path = maker.start(name) + np.cumsum(strides)
            span = (high - low) * 1.04
            folded = np.abs(np.mod(path - low + span * 0.02, 2 * span) - span)  # reflected at both ends
            columns[name] = maker.rounded(name, np.round(low - (high - low) * 0.02 + span - folded, 3))
    yield _Run(columns)


PARTS: dict[str, Callable[[_Maker], Iterator[_Run]]] = {
    "ramps": _ramps, "steps": _steps, "jumps": _jumps, "restart": _restart, "walks": _walks,
}  # fmt: skip
