"""Find the columns of a recording that hold the time, with its unit, and the run number.

Other programs name columns their own way. What is not given is inferred from names and values, and the result is
reported so that it can be corrected.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Literal

import numpy as np
from msgspec import Struct

from avrin.errors import AvrinError, nearest
from avrin.project.numbers import plain_rate
from avrin.project.project import Recording
from avrin.trace.arrays import FloatArray

__all__ = [
    "AT_RESTARTS", "EACH_ROW", "ONE_RUN", "RUNS", "UNSAID", "Clock", "NoTimeError", "Unit", "counts_runs", "in_seconds",
    "settle_clock", "unit_named",
]  # fmt: skip

Unit = Literal["", "s", "ms", "us", "frames"]
RATE = 60.0  # frames per second if unknown
SECONDS = ("t", "time", "seconds", "secs", "sec", "timestamp", "elapsed", "clock", "game_time")
# The last word of a name and the unit it stands for, in any spelling: `_ms`, `(ms)`, `[Ms]`, `Millis`.
UNIT_WORDS: dict[str, Unit] = {
    **dict.fromkeys(("s", "sec", "secs", "second", "seconds"), "s"),
    **dict.fromkeys(("sek", "sekunden", "secondes", "segundos", "secondi", "seconden", "секунды"), "s"),
    **dict.fromkeys(("ms", "msec", "msecs", "milli", "millis", "millisecond", "milliseconds"), "ms"),
    **dict.fromkeys(("us", "µs", "usec", "usecs", "micro", "micros", "microsecond", "microseconds"), "us"),
    **dict.fromkeys(("frame", "frames", "tick", "ticks"), "frames"),
}
TIME_WORDS = {"t", "time", "timestamp", "elapsed", "clock", "seconds", "secs", "sec"} | {
    "zeit", "temps", "tiempo", "tempo", "tijd", "tid", "czas", "время", "時間", "时间", "시간",
}  # fmt: skip
COUNTED = {"no", "nr", "number", "index", "count"}  # after `frame` or `tick`: the unit is frames
MAX_CHOICES = 4  # columns offered if none is recognised as the time
MAX_RESTARTS = (
    2,
    0.05,
)  # resets a clock may have at the start of runs: at least this number, or this share of its steps
# A clock that starts over falls to within so many usual steps of its first value, or this share of its range
RESTART_STEPS = 2
RESTART_SHARE = 0.02
RUNS = ("run", "attempt", "try", "session", "round", "episode", "game", "life", "match")
ONE_RUN = "none"  # given instead of a column: the recording has one run
AT_RESTARTS = "restarts"  # given instead of a column: a run begins wherever the time starts over
EACH_ROW = "none"  # given instead of a column: no time column, each row is a frame


class Clock(Struct, frozen=True):
    """How a table stores time. time, run: column names, "" for unknown or none. rate: frames per second; 0 for unknown.

    guessed: whether it was inferred.
    """

    time: str = ""
    unit: Unit = ""
    rate: float = 0.0
    run: str = ""
    guessed: bool = False

    @classmethod
    def of(cls, recording: Recording) -> Clock:
        """Return the clock that a project specifies for a recording."""
        return cls(recording.time, recording.unit, recording.rate, recording.run)

    def __str__(self) -> str:
        unit = {
            "s": "seconds",
            "ms": "milliseconds",
            "us": "microseconds",
            "frames": f"frames, {plain_rate(self.rate)} a second",
        }
        runs = f"; runs by '{self.run}'" if self.run and self.run != ONE_RUN else ""
        runs = "; a run begins wherever it starts over" if self.run == AT_RESTARTS else runs
        time = f"time is '{self.time}' in {unit.get(self.unit, 'seconds')}"
        if self.time == EACH_ROW:
            time = f"each row is a frame, {plain_rate(self.rate)} a second"
        return time + runs + (" (guessed)" if self.guessed else "")


UNSAID = Clock()


class NoTimeError(AvrinError):
    """No column is recognised as the time. choices: possible clocks, most likely first; never empty."""

    def __init__(self, names: list[str], choices: tuple[Clock, ...], *, place: Iterable[str] = ("line 1",)) -> None:
        super().__init__(
            f"no time column found among {_some(names)}", place=place,
            advice="Choose the time column, or add a first column t in seconds",
            command="Name the one that does with --time COL, or say --time none --rate N for a frame a row",
        )  # fmt: skip
        self.names = names
        self.choices = choices

    def within(self, *outer: str) -> NoTimeError:
        """Return the same error with outer places in front."""
        return NoTimeError(self.names, self.choices, place=(*outer, *self.place))


def settle_clock(given: Clock, names: Iterable[str], values: Callable[[str], FloatArray]) -> Clock:
    """Return the complete clock of a table with columns `names`: the given parts, and the rest inferred.

    values: returns a column's numbers, shape (T,); called only if the name alone does not give the unit.
    Raises AvrinError if a given column is missing, or no column can be the time.
    """
    known = list(names)
    for what, name in (("time", given.time), ("run", given.run)):
        if name and name not in known and name not in (EACH_ROW, ONE_RUN, AT_RESTARTS):
            close = nearest(name, known)
            raise AvrinError(
                f"no column '{name}' for the {what}" + (f": did you mean '{close}'?" if close else ""),
                advice="" if close else f"There are {_some(known)}",
            )
    time = given.time or _guessed_time(known, values)
    counted = given.rate or (time == EACH_ROW and time not in known)
    unit = "frames" if time == EACH_ROW and time not in known else given.unit or ("frames" if counted else "")
    unit = unit or _guessed_unit(time, values)
    others = [name for name in known if name != time]
    run = given.run or _runs_at_restarts(time, others, values) or _guessed_runs(others, values)
    plain = (time, unit, run) in (("t", "s", ""), ("t", "s", "run"))  # Avrin's own names are not a guess
    told = bool(given.time and (given.unit or given.rate)) and run == given.run
    return Clock(time, unit, given.rate or (RATE if unit == "frames" else 0.0), run, not plain and not told)


def counts_runs(numbers: FloatArray) -> bool:
    """Return whether a column looks like run numbers: gapless whole numbers that never fall and rise by one.

    numbers: shape (T,).
    """
    steps = np.diff(numbers)
    return (
        bool(len(numbers))
        and bool(np.all(np.isfinite(numbers) & (numbers == np.rint(numbers))))
        and bool(np.all((steps == 0) | (steps == 1)))
    )


def in_seconds(times: FloatArray, clock: Clock) -> FloatArray:
    """Return times in seconds, shape (T,). Times already in seconds are returned as the same array."""
    if clock.unit == "frames":
        return times / clock.rate
    return times / {"ms": 1e3, "us": 1e6}[clock.unit] if clock.unit in ("ms", "us") else times


def unit_named(name: str) -> Unit:
    """Return the time unit in a column's name, or "" if there is none."""
    *before, last = _words(name) or [""]
    if last in COUNTED and before:
        last = before[-1]
        return "frames" if UNIT_WORDS.get(last) == "frames" else ""
    return UNIT_WORDS.get(last, "")


_WORD = re.compile(r"[A-ZÀ-ÞА-Я]+(?![a-zß-ÿа-я])|[A-ZÀ-ÞА-Я]?[a-zµß-ÿа-я]+|[^\W\d_A-Za-zµÀ-ÿА-я]+")


def _words(name: str) -> list[str]:
    """Split a name into lower-case words: `matchTimeMs` and `Match Time (ms)` give match, time, ms."""
    return [word.lower() for word in _WORD.findall(name)]


def _guessed_time(names: list[str], values: Callable[[str], FloatArray]) -> str:
    lower = {name.lower(): name for name in reversed(names)}
    if "t" in names:
        return "t"
    for word in SECONDS:
        if word in lower:
            return lower[word]
    # A stable sort: among equally likely names the first column wins.
    for name in sorted((name for name in names if _likeness(name)), key=_likeness, reverse=True):
        if _goes_on(name, values):
            return name
    raise NoTimeError(names, _choices(names, values))


def _likeness(name: str) -> int:
    """Return a score for how likely a name is that of the recording's time; 0 for unlikely."""
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
    """Return whether a column's numbers advance like a clock: no gaps, and resets only where a run may begin."""
    try:
        found = values(name)
    except AvrinError:  # a text column
        return False
    steps = np.diff(found)
    if not np.isfinite(found).all():
        return False
    falls, allowed = int((steps < 0).sum()), max(MAX_RESTARTS[0], MAX_RESTARTS[1] * len(steps))
    return len(steps) < 2 or (falls <= allowed and bool((steps > 0).sum() > falls))


def _choices(names: list[str], values: Callable[[str], FloatArray]) -> tuple[Clock, ...]:
    """Return possible time columns if no name matches: those that rise at the most frames, or half as many.

    A column that advances by the same step most of the time comes first.
    """
    going = [name for name in names if _goes_on(name, values) and len(values(name)) > 1 and _starts_over(values(name))]
    rising = [(*_regularity(values(name)), name) for name in going]
    most = max((share for share, *_ in rising), default=0.0)
    best = sorted((one for one in rising if one[0] >= most / 2), key=lambda item: (-item[1], -item[0]))[:MAX_CHOICES]
    units = [(name, _guessed_unit(name, values)) for *_, name in best]
    found = [Clock(name, unit, RATE if unit == "frames" else 0.0) for name, unit in units]
    return (*found, Clock(EACH_ROW, "frames", RATE))


def _regularity(numbers: FloatArray) -> tuple[float, float]:
    """Return the share of steps that rise, and the share that are the usual rise. numbers: shape (T,), at least two."""
    steps = np.diff(numbers)
    rising = steps[steps > 0]
    usual = np.isclose(steps, np.median(rising), rtol=1e-3, atol=0.0) if len(rising) else steps > 0
    return float((steps > 0).mean()), round(float(usual.mean()), 2)


def _starts_over(numbers: FloatArray) -> bool:
    """Return whether numbers fall only to where they began, as a clock does that is reset. numbers: shape (T,)."""
    steps = np.diff(numbers)
    before, after = numbers[:-1][steps < 0], numbers[1:][steps < 0]
    if not len(after):
        return True
    rising = steps[steps > 0]
    slack = max(
        RESTART_STEPS * float(np.median(rising)) if len(rising) else 0.0, RESTART_SHARE * float(np.ptp(numbers))
    )
    most_of_the_way = before - after > (before - numbers[0]) / 2  # rows out of order fall by a little
    return bool((most_of_the_way & (after <= numbers[0] + slack)).all())


def _runs_at_restarts(time: str, others: list[str], values: Callable[[str], FloatArray]) -> str:
    """Return what tells runs apart if the time starts over: a column that counts on exactly there, or `AT_RESTARTS`.

    "" if the time never falls, or falls elsewhere than to its beginning, and with a column `run`, which is Avrin's own.
    """
    if "run" in others:
        return ""
    try:
        times = values(time)
    except (AvrinError, KeyError):  # each row is a frame, or a text column, which is reported later
        return ""
    falls = np.diff(times) < 0
    if not falls.any() or not np.isfinite(times).all() or not _starts_over(times):
        return ""
    if 2 * int(falls.sum()) > int((np.diff(times) > 0).sum()):  # that is no clock
        return ""
    counting = [name for name in others if _looks_like_runs(name, values)]
    exact = [name for name in counting if bool(((np.diff(values(name)) > 0) == falls).all())]
    named = _guessed_runs(counting, values)
    if named and bool((np.diff(values(named))[falls] > 0).all()):
        return named
    return exact[0] if exact else AT_RESTARTS


def _guessed_runs(names: list[str], values: Callable[[str], FloatArray]) -> str:
    """Return the run column by name; `run` is Avrin's own name, any other must also look like run numbers."""
    for word in RUNS:
        for name in names:
            if name.lower() == word and (name == "run" or _looks_like_runs(name, values)):
                return name
    return ""


def _looks_like_runs(name: str, values: Callable[[str], FloatArray]) -> bool:
    try:
        return counts_runs(values(name))
    except AvrinError:  # a text column
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
    # Whole numbers only: a step of one is a frame, longer ones are milliseconds (or microseconds).
    return "frames" if usual == 1 and len(steps) > 30 else "us" if usual >= 4000 else "ms" if usual >= 4 else "s"


def _some(names: list[str]) -> str:
    return ", ".join(names[:6]) + (" …" if len(names) > 6 else "")
