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

from avrin.model import AvrinError, Recording, nearest, plain_rate
from avrin.trace.arrays import FloatArray

__all__ = [
    "EACH_ROW", "ONE_RUN", "RUNS", "UNSAID", "Clock", "NoTimeError", "Unit", "counts_runs", "in_seconds", "settle_clock",
    "unit_named",
]  # fmt: skip

Unit = Literal["", "s", "ms", "us", "frames"]
RATE = 60.0  # frames a second where nobody says
SECONDS = ("t", "time", "seconds", "secs", "sec", "timestamp", "elapsed", "clock", "game_time")
# The last word of a name, and the unit it says, however it is spelled: `_ms`, `(ms)`, `[Ms]`, `Millis`.
UNIT_WORDS: dict[str, Unit] = {
    **dict.fromkeys(("s", "sec", "secs", "second", "seconds"), "s"),
    **dict.fromkeys(("ms", "msec", "msecs", "milli", "millis", "millisecond", "milliseconds"), "ms"),
    **dict.fromkeys(("us", "µs", "usec", "usecs", "micro", "micros", "microsecond", "microseconds"), "us"),
    **dict.fromkeys(("frame", "frames", "tick", "ticks"), "frames"),
}
TIME_WORDS = {"t", "time", "timestamp", "elapsed", "clock", "seconds", "secs", "sec"}
COUNTED = {"no", "nr", "number", "index", "count"}  # after `frame` or `tick`: still a number of frames
MAX_CHOICES = 4  # columns that are offered where none is known to be the time
MAX_RESTARTS = (2, 0.05)  # how often a clock may fall back, at the beginning of a run: at least, and of its steps
RUNS = ("run", "attempt", "try", "session", "round", "episode", "game", "life", "match")
ONE_RUN = "none"  # said in place of a column: nothing tells runs apart
EACH_ROW = "none"  # said in place of a column: nothing tells the time, each row is a frame


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
        unit = {
            "s": "seconds",
            "ms": "milliseconds",
            "us": "microseconds",
            "frames": f"frames, {plain_rate(self.rate)} a second",
        }
        runs = f"; runs by '{self.run}'" if self.run and self.run != ONE_RUN else ""
        time = f"time is '{self.time}' in {unit.get(self.unit, 'seconds')}"
        if self.time == EACH_ROW:
            time = f"each row is a frame, {plain_rate(self.rate)} a second"
        return time + runs + (" (guessed)" if self.guessed else "")


UNSAID = Clock()


class NoTimeError(AvrinError):
    """No column is known to be the time. choices: clocks that can be taken instead, the likeliest first; never none."""

    def __init__(self, names: list[str], choices: tuple[Clock, ...], *, place: Iterable[str] = ("line 1",)) -> None:
        super().__init__(
            f"no column tells the time among {_some(names)}", place=place,
            advice="Say which one does, or add a first column t in seconds",
            command="Name the one that does with --time COL, or say --time none --rate N for a frame a row",
        )  # fmt: skip
        self.names = names
        self.choices = choices

    def within(self, *outer: str) -> NoTimeError:
        """The same error, told from further out."""
        return NoTimeError(self.names, self.choices, place=(*outer, *self.place))


def settle_clock(said: Clock, names: Iterable[str], values: Callable[[str], FloatArray]) -> Clock:
    """The whole clock of a table with columns `names`: what was said, and the rest guessed.

    values: gives a column's numbers, shape (T,), asked for only where the name alone does not tell the unit.
    Raises AvrinError when a column that was said is not there, or none can be the time.
    """
    known = list(names)
    for what, name in (("time", said.time), ("run", said.run)):
        if name and name not in known and name not in (EACH_ROW, ONE_RUN):
            close = nearest(name, known)
            raise AvrinError(
                f"no column '{name}' to tell the {what}" + (f": did you mean '{close}'?" if close else ""),
                advice="" if close else f"There are {_some(known)}",
            )
    time = said.time or _guessed_time(known, values)
    counted = said.rate or (time == EACH_ROW and time not in known)
    unit = "frames" if time == EACH_ROW and time not in known else said.unit or ("frames" if counted else "")
    unit = unit or _guessed_unit(time, values)
    run = said.run or _guessed_runs([name for name in known if name != time], values)
    plain = (time, unit, run) in (("t", "s", ""), ("t", "s", "run"))  # the format's own names are no guess
    told = bool(said.time and (said.unit or said.rate)) and run == said.run
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


def unit_named(name: str) -> Unit:
    """The unit of a time that a column's name says, "" where it says none."""
    *before, last = _words(name) or [""]
    if last in COUNTED and before:
        last = before[-1]
        return "frames" if UNIT_WORDS.get(last) == "frames" else ""
    return UNIT_WORDS.get(last, "")


def _words(name: str) -> list[str]:
    """`matchTimeMs` and `Match Time (ms)`: match, time, ms."""
    return [word.lower() for word in re.findall(r"[A-Z]+(?![a-z])|[A-Z]?[a-zµ]+", name)]


def _guessed_time(names: list[str], values: Callable[[str], FloatArray]) -> str:
    lower = {name.lower(): name for name in reversed(names)}
    if "t" in names:
        return "t"
    for word in SECONDS:
        if word in lower:
            return lower[word]
    # A stable sort: of columns that are called equally like a time, the first.
    for name in sorted((name for name in names if _likeness(name)), key=_likeness, reverse=True):
        if _goes_on(name, values):
            return name
    raise NoTimeError(names, _choices(names, values))


def _likeness(name: str) -> int:
    """How much a name is that of the recording's time, 0 for not at all."""
    words = _words(name)
    unit = unit_named(name)
    rest = {word for word in words if word not in UNIT_WORDS and word not in COUNTED}
    if unit and not rest:
        return 4  # `ms`, `frame_no`
    if rest and rest <= TIME_WORDS:
        return 4 if unit else 3  # `time_ms`
    if rest & TIME_WORDS and (unit or words[-1] in TIME_WORDS):
        return 2  # `match_time_ms`, `Match Clock`
    return 1 if unit in ("ms", "us") else 0


def _goes_on(name: str, values: Callable[[str], FloatArray]) -> bool:
    """Whether a column's numbers go on like a clock's: without gaps, and falling back only where a run may begin."""
    try:
        found = values(name)
    except AvrinError:  # texts
        return False
    steps = np.diff(found)
    if not np.isfinite(found).all():
        return False
    falls, allowed = int((steps < 0).sum()), max(MAX_RESTARTS[0], MAX_RESTARTS[1] * len(steps))
    return len(steps) < 2 or (falls <= allowed and bool((steps > 0).sum() > falls))


def _choices(names: list[str], values: Callable[[str], FloatArray]) -> tuple[Clock, ...]:
    """What may be the time where no name says so: the columns that rise at the most frames, or half as many."""
    rising = [(float((np.diff(values(name)) > 0).mean()), name) for name in names if _goes_on(name, values)
              and len(values(name)) > 1]  # fmt: skip
    most = max((share for share, _ in rising), default=0.0)
    best = sorted((one for one in rising if one[0] >= most / 2), key=lambda one: -one[0])[:MAX_CHOICES]
    units = [(name, _guessed_unit(name, values)) for _, name in best]
    found = [Clock(name, unit, RATE if unit == "frames" else 0.0) for name, unit in units]
    return (*found, Clock(EACH_ROW, "frames", RATE))


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
    if unit := unit_named(name):
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
