"""Which column of a recording tells the time and in what unit, and which one tells runs apart.

Recordings from elsewhere name things their own way. What nobody said is guessed from names and values, and the guess
is told, so that it can be put right.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Literal

import numpy as np
from msgspec import Struct

from avrin.model import AvrinError, Recording, nearest
from avrin.trace.arrays import FloatArray

__all__ = ["ONE_RUN", "RUNS", "UNSAID", "Clock", "Unit", "counts_runs", "in_seconds", "settle_clock"]

Unit = Literal["", "s", "ms", "us", "frames"]
RATE = 60.0  # frames a second where nobody says
SECONDS = ("t", "time", "seconds", "secs", "sec", "timestamp", "elapsed", "clock", "game_time")
UNITS: tuple[tuple[str, Unit], ...] = (
    (r"(time_?)?(ms|millis|milliseconds)|.*_(ms|millis|msec)", "ms"),
    (r"(time_?)?(us|micros|microseconds)|.*_(us|micros|usec)", "us"),
    (r"frame(_?(no|nr|number|index|count))?|tick|ticks", "frames"),
    (r".*time.*_(s|sec|secs|seconds)", "s"),
)
RUNS = ("run", "attempt", "try", "session", "round", "episode", "game", "life", "match")
ONE_RUN = "none"  # said in place of a column: nothing tells runs apart


class Clock(Struct, frozen=True):
    """How a table tells the time. time, run: column names, "" for unsaid or none. rate: of a time in frames; 0 unsaid.

    guessed: whether nobody said so.
    """

    time: str = ""
    unit: Unit = ""
    rate: float = 0.0
    run: str = ""
    guessed: bool = False

    @classmethod
    def of(cls, recording: Recording) -> Clock:
        """What a project says of a recording."""
        return cls(recording.time, recording.unit, recording.rate, recording.run)

    def __str__(self) -> str:
        unit = {"s": "seconds", "ms": "milliseconds", "us": "microseconds", "frames": f"frames, {self.rate:g} a second"}
        runs = f"; runs by '{self.run}'" if self.run and self.run != ONE_RUN else ""
        return f"time is '{self.time}' in {unit.get(self.unit, 'seconds')}{runs}" + (
            " (guessed)" if self.guessed else ""
        )


UNSAID = Clock()


def settle_clock(said: Clock, names: Iterable[str], values: Callable[[str], FloatArray]) -> Clock:
    """The whole clock of a table with columns `names`: what was said, and the rest guessed.

    values: gives a column's numbers, shape (T,), asked for only where the name alone does not tell the unit.
    Raises AvrinError when a column that was said is not there, or none can be the time.
    """
    known = list(names)
    for what, name in (("time", said.time), ("run", said.run)):
        if name and name not in known and not (what == "run" and name == ONE_RUN):
            close = nearest(name, known)
            raise AvrinError(
                f"no column '{name}' to tell the {what}" + (f": did you mean '{close}'?" if close else ""),
                advice="" if close else f"There are {_some(known)}",
            )
    time = said.time or _guessed_time(known)
    unit = said.unit or ("frames" if said.rate else "") or _guessed_unit(time, values)
    run = said.run or _guessed_runs([name for name in known if name != time], values)
    plain = (time, unit, run) in (("t", "s", ""), ("t", "s", "run"))  # the format's own names are no guess
    told = bool(said.time and (said.unit or said.rate))
    return Clock(time, unit, said.rate or (RATE if unit == "frames" else 0.0), run, not plain and not told)


def counts_runs(numbers: FloatArray) -> bool:
    """Whether a column looks as if it told runs apart: whole numbers without gaps that never fall and rise only by one.

    numbers: shape (T,).
    """
    steps = np.diff(numbers)
    return (
        bool(len(numbers))
        and bool(np.all(np.isfinite(numbers) & (numbers == np.rint(numbers))))
        and bool(np.all((steps == 0) | (steps == 1)))
    )


def in_seconds(times: FloatArray, clock: Clock) -> FloatArray:
    """Times in seconds, shape (T,). `times` is given back as it is where it is in seconds already."""
    if clock.unit == "frames":
        return times / clock.rate
    return times / {"ms": 1e3, "us": 1e6}[clock.unit] if clock.unit in ("ms", "us") else times


def _guessed_time(names: list[str]) -> str:
    lower = {name.lower(): name for name in reversed(names)}
    if "t" in names:
        return "t"
    for word in SECONDS:
        if word in lower:
            return lower[word]
    for pattern, _ in UNITS:
        for name in names:
            if re.fullmatch(pattern, name.lower()):
                return name
    raise AvrinError(
        f"no column tells the time among {_some(names)}",
        place=("line 1",),
        advice="Name the one that does with --time COL, or add a first column t in seconds",
    )


def _guessed_runs(names: list[str], values: Callable[[str], FloatArray]) -> str:
    """The column that tells runs apart by its name; `run` itself is the format's own, all others have to look like it."""
    for word in RUNS:
        for name in names:
            if name.lower() == word and (name == "run" or _looks_like_runs(name, values)):
                return name
    return ""


def _looks_like_runs(name: str, values: Callable[[str], FloatArray]) -> bool:
    try:
        return counts_runs(values(name))
    except AvrinError:  # texts
        return False


def _guessed_unit(name: str, values: Callable[[str], FloatArray]) -> Unit:
    if name == "t":
        return "s"
    for pattern, unit in UNITS:
        if re.fullmatch(pattern, name.lower()):
            return unit
    found = values(name)
    steps = np.diff(found[np.isfinite(found)])
    steps = np.sort(steps[steps > 0])
    if not len(steps) or not bool((steps == np.rint(steps)).all()):
        return "s"
    usual = float(steps[len(steps) // 2])
    # Whole numbers only: a step of one is a frame, longer ones are thousandths (or millionths) of a second.
    return "frames" if usual == 1 and len(steps) > 30 else "us" if usual >= 4000 else "ms" if usual >= 4 else "s"


def _some(names: list[str]) -> str:
    return ", ".join(names[:6]) + (" …" if len(names) > 6 else "")
