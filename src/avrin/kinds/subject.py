"""Subjects of offers: a variable with everything known about it, a roster, events, a moving thing."""

from __future__ import annotations

import functools
import math
from collections.abc import Mapping
from decimal import ROUND_CEILING, Decimal

from msgspec import Struct, field
from msgspec.structs import replace

from avrin.kinds.hints import MAXIMUM, Danger, danger, is_reading, is_score, is_vital, likely, plain_title, tokens
from avrin.kinds.look import CRITICAL, LOW
from avrin.project.numbers import plain_number, rule_number
from avrin.project.project import Band, EventKind, Project, Roster, Variable, Widget
from avrin.trace.behaviour import Behaviour, RunsFound, behaviour, runs_by_behaviour
from avrin.trace.frames import ColumnKind, Trace

__all__ = [
    "MIN_READABLE_S", "Offer", "Seen", "Subject", "about_events", "about_roster", "about_variable", "band_looks",
    "is_maximum", "pattern_for", "share_figures", "share_weight", "why",
]  # fmt: skip


class Offer(Struct, frozen=True):
    """A complete widget. weight: from 0 to 1, how well its kind suits. why: the recorded behaviour in a few words.

    events: derived events that it shows and that the project lacks.
    """

    widget: Widget
    weight: float
    why: str = ""
    events: tuple[EventKind, ...] = ()

    def declared_in(self, project: Project) -> Project:
        """Return the project with the events that the widget shows."""
        known = {event.name for event in project.events}
        return replace(project, events=(*project.events, *(event for event in self.events if event.name not in known)))


class Subject(Struct, frozen=True):
    """What a widget shows.

    name: a variable as in rules, `crew[0].scrap`; a roster; "" for all events together.
    variable: its declaration with that full name, or None. behaviour: its behaviour; None if it is in no recording.
    full, empty: the ends of its share as rules, or "". full_value: full as a number, if known.
    danger: the dangerous end. likely: how likely players are to see its name, -1 to 1.
    of: the roster and its fields' behaviour by name. events: arguments by name, by event. lines: what a feed says of
    some of them.
    along: the variables with the x and y position of something that moves over the screen.
    """

    name: str
    title: str
    variable: Variable | None = None
    behaviour: Behaviour | None = None
    full: str = ""
    full_value: float | None = None
    empty: str = ""
    danger: Danger = ""
    likely: float = 0.0
    roster: Roster | None = None
    fields: Mapping[str, Behaviour] = field(default_factory=dict)
    events: Mapping[str, Mapping[str, ColumnKind]] = field(default_factory=dict)
    lines: Mapping[str, str] = field(default_factory=dict)
    along: tuple[str, str] | None = None

    @property
    def is_number(self) -> bool:
        """Whether it is a variable with a quantity rather than a yes or no."""
        return self.variable is not None and self.variable.type in ("int", "float") and not self.is_flag

    @property
    def is_flag(self) -> bool:
        """Whether it is a flag, or a whole number recorded as 0 and 1 that behaves like one.

        Counts such as lives and kills may be only 0 and 1 for a while: a flag must change in both directions.
        """
        if self.variable is None:
            return False
        in_figures = self.sort == "flag" and self.variable.type == "int"
        counted = is_vital(self.name) or is_score(self.name)
        both_ways = self.behaviour is not None and bool(self.behaviour.rises and self.behaviour.falls)
        return self.variable.type == "bool" or (in_figures and (both_ways or not counted))

    @property
    def is_struck(self) -> bool:
        """Whether it falls by blows, and not steadily: a trail behind a steady fall would never catch up."""
        return self.behaviour is None or not 0 < self.behaviour.between_falls < BLOWS_S

    @property
    def condition(self) -> str:
        """A flag as a condition."""
        return self.name if self.variable is not None and self.variable.type == "bool" else f"{self.name} == 1"

    @property
    def sort(self) -> str:
        """Its class of behaviour; "" if unknown."""
        return self.behaviour.sort if self.behaviour is not None else ""

    @property
    def is_share(self) -> bool:
        """Whether it ranges from 0 to 1 and reads as a percentage."""
        return self.full == "1" and self.variable is not None and self.variable.type == "float"

    @property
    def is_few(self) -> bool:
        """Whether it is a small whole number whose last unit matters: lives, cells."""
        return (
            self.variable is not None and self.variable.type == "int" and not self.empty
            and self.full_value is not None and 2 <= self.full_value <= FEW_UNITS
        )  # fmt: skip

    def bands(self, full: float | None = None) -> tuple[Band, ...]:
        """Return bands at the dangerous end: as shares, or as numbers if `whole`, the value of full, is given.

        None without danger, and none for what only grows. For small whole numbers: the last unit; limits of whole numbers
        are whole.
        """
        if not self.danger or self.sort in ("grows", "counts up"):
            return ()
        if self.danger == "low" and self.is_few and self.full_value is not None:
            last = "2" if full is not None else f"{1.5 / self.full_value:.0%}"
            return (Band(name="critical", below=last),)
        integer = self.variable is not None and self.variable.type == "int"

        def at(share: float) -> str:
            if full is None:
                return f"{share:.0%}"
            limit = share * full
            return (
                rule_number(math.ceil(limit) if self.danger == "low" else math.floor(limit))
                if integer
                else (rule_number(float(f"{limit:.6g}")))
            )

        if self.danger == "low":
            return (Band(name="critical", below=at(0.1)), Band(name="low", below=at(0.25), back=at(0.3)))
        return (Band(name="critical", above=at(0.9)), Band(name="high", above=at(0.75), back=at(0.7)))


class Seen:
    """The behaviour of a recording's variables, computed once each. unjudged: variables whose behaviour failed to compute."""

    def __init__(self, trace: Trace | None) -> None:
        self.trace = trace
        self.unjudged: list[str] = []
        self._known: dict[str, Behaviour] = {}

    @functools.cached_property
    def runs(self) -> RunsFound | None:
        """An undeclared column that probably numbers runs."""
        return runs_by_behaviour(self.trace) if self.trace is not None else None

    def of(self, name: str) -> Behaviour | None:
        """Return a column's behaviour; None if it does not exist or is missing throughout."""
        column = self.trace.columns.get(name) if self.trace is not None else None
        if column is None or self.trace is None or not len(self.trace):
            return None
        if name not in self._known:
            self._known[name] = behaviour(column, self.trace)
        found = self._known[name]
        return found if found.missing < 1 else None


def about_variable(name: str, variable: Variable, project: Project, behaviours: Seen) -> Subject:
    """Return everything known about a variable. name: its full name."""
    found = behaviours.of(name)
    number = variable.type in ("int", "float")
    if number and found is not None and found.sort == "flag":
        return Subject(name, plain_title(name), _with_full_name(name, variable), found, likely=likely(name))
    full, value = _full(name, variable, found, project, behaviours) if number else ("", None)
    empty = rule_number(variable.low) if number and variable.low and not variable.guessed else ""
    if found is not None and found.bottom is not None and not empty:
        empty = rule_number(found.bottom)
    begins_full = found is not None and (
        found.sort == "vital" or (value is not None and isinstance(found.start, float) and found.start >= 0.6 * value)
    )
    where = danger(name, begins_full=begins_full) if number else ""
    if (
        not where
        and found is not None
        and found.sort == "vital"
        and found.ends_low >= 0.3
        and not is_reading(name)
        and (is_vital(name) or not is_score(name))
    ):
        where = "low"
    chance = -1.0 if is_maximum(name, project) else likely(name)
    if not where and found is not None and number and _like_a_need(name, found, project, behaviours):
        where, chance = "low", max(chance, 1.0)
    return Subject(name, plain_title(name), _with_full_name(name, variable), found, full, value, empty, where, chance)


def _with_full_name(name: str, variable: Variable) -> Variable:
    """Return a variable under its full name."""
    return Variable(
        name=name, type=variable.type, start=variable.start, low=variable.low, high=variable.high, unit=variable.unit,
        guessed=variable.guessed,
    )  # fmt: skip


def _like_a_need(name: str, behaviour_: Behaviour, project: Project, behaviours: Seen) -> bool:
    """Return whether a number behaves like a known vital: `drink` like `food`."""
    if behaviour_.sort not in NEEDS or is_reading(name) or likely(name) < 0:
        return False
    for other in _beside(name, project):
        if (
            is_vital(other)
            and danger(other, begins_full=True) == "low"
            and (theirs := behaviours.of(other)) is not None
        ):
            alike = (behaviour_.sort, behaviour_.high, behaviour_.start) == (theirs.sort, theirs.high, theirs.start)
            if alike and not is_maximum(other, project):
                return True
    return False


def about_roster(roster: Roster, behaviours: Seen) -> Subject:
    """Return a roster as a subject, by the behaviour of its first recorded slot."""
    fields: dict[str, Behaviour] = {}
    for one in roster.fields:
        slots = (behaviours.of(f"{roster.name}[{slot}].{one.name}") for slot in range(roster.slots))
        found = next((b for b in slots if b is not None), None)
        if found is not None:
            fields[one.name] = found
    return Subject(roster.name, plain_title(roster.name), roster=roster, fields=fields)


def about_events(events: Mapping[str, Mapping[str, ColumnKind]], lines: Mapping[str, str] | None = None) -> Subject:
    """Return all events as one subject. lines: what a feed says of some of them."""
    return Subject("", "What happens", events=events, lines=lines or {})


def is_maximum(name: str, project: Project) -> bool:
    """Return whether a variable is the maximum of another one: `hull_max` of `hull`."""
    words = set(tokens(name))
    if not words & MAXIMUM:
        return False
    rest = words - MAXIMUM
    return bool(rest) and any(set(tokens(other)) == rest for other in _beside(name, project))


def band_looks(
    bands: tuple[Band, ...], part: str, *, flash: str = "", more: Mapping[str, str] | None = None
) -> dict[str, dict[str, str]]:
    """Return looks for bands at a dangerous end. part: the coloured field. flash: of the critical one; more: also for it."""
    looks: dict[str, dict[str, str]] = {}
    for band in bands:
        looks[band.name] = {part: CRITICAL if band.name == "critical" else LOW}
    if flash and "critical" in looks:
        looks["critical"]["flash"] = flash
    if more and "critical" in looks:
        looks["critical"] |= more
    return {"bands": looks} if looks else {}  # type: ignore[dict-item]


def pattern_for(subject: Subject) -> str:
    """Return the number pattern of a variable: whole numbers without, large ones grouped, small ones with a decimal.

    A share of one is in per cent.
    """
    if subject.is_share:
        return "0%"
    variable = subject.variable
    high = subject.behaviour.high if subject.behaviour is not None else variable.high if variable is not None else None
    if high is not None and abs(high) >= 1000:
        return "#,##0"
    whole = variable is not None and variable.type == "int"
    return "0" if whole or (high is not None and abs(high) >= 50) else "0.0"


def share_figures(subject: Subject, *, of: bool = False) -> str:
    """Return a share's figures as a template: the true number, also beyond the ends. of: append the maximum.

    A remainder below one reads as one: 0 appears only when nothing is left. A constant full is omitted,
    because a text that repeats it would not follow it.
    """
    if subject.is_share:
        return f"{{{subject.name} | 0%}}"
    pattern = "#,##0" if (subject.full_value or 0) >= 1000 else "0"
    up = "" if subject.variable is None or subject.variable.type == "int" else ", up"
    if up and 0 < (subject.full_value or 0) < 10:  # whole numbers would hide most of what happens
        pattern = "0.0" if (subject.full_value or 0) >= 1 else "0.00"
    told = f"{{{subject.name} | {pattern}{up}}}"
    return f"{told} / {{{subject.full} | {pattern}}}" if of and not subject.full[:1].isdigit() else told


# -- full -------------------------------------------------------------------------------------------------------------


def _full(
    name: str, variable: Variable, behaviour_: Behaviour | None, project: Project, behaviours: Seen
) -> tuple[str, float | None]:
    """Return full as a rule and a number: the companion maximum, else the usual start value, else the highest value."""
    typed = variable.high if not variable.guessed else None
    for other in _beside(name, project):
        words = set(tokens(other))
        if words & MAXIMUM and words - MAXIMUM == set(tokens(name)) - MAXIMUM:
            most = behaviours.of(other)
            if (
                behaviour_ is None
                or most is None
                or behaviour_.high is None
                or (most.high or 0) >= 0.75 * behaviour_.high
            ):
                return other, most.high if most is not None else typed
    if typed is not None and typed > (variable.low or 0):
        return rule_number(typed), typed
    if behaviour_ is None or behaviour_.high is None or behaviour_.high <= 0 or behaviour_.sort == "still":
        return "", None
    high = behaviour_.high
    if variable.unit == "%" and high <= 100:
        return "100", 100.0
    if behaviour_.type == "float" and HALF <= high <= 1 and (behaviour_.low or 0.0) >= 0:
        return "1", 1.0  # a share of one that was never full in the recording
    start = behaviour_.start
    if isinstance(start, float) and behaviour_.same_start and start >= 0.75 * high:
        high = start
    if behaviour_.type == "float":
        high = _round(high)
    return rule_number(high), high


def _round(high: float) -> float:
    """Return the roundest number slightly above: 99.97 gives 100 that lost something before the first frame."""
    exact = Decimal(repr(high * (1 - 1e-12)))
    for figures in range(4):
        power = Decimal(1).scaleb(exact.adjusted() - figures)
        found = float(exact.quantize(power, ROUND_CEILING))
        if high <= found <= high * (1 + A_LITTLE):
            return found
    return high


def _beside(name: str, project: Project) -> list[str]:
    """Return possible maxima of a variable: those of the game or of the same slot."""
    if "[" in name:
        slot, roster = name.rsplit(".", 1)[0], name.split("[", 1)[0]
        fields = next((r.fields for r in project.rosters if r.name == roster), ())
        return [f"{slot}.{f.name}" for f in fields if f"{slot}.{f.name}" != name]
    return [v.name for v in project.variables if v.name != name]


# -- how well a share suits, and why ----------------------------------------------------------------------------------

SHARES = {"vital": 0.7, "gauge": 0.5, "": 0.5, "counts down": 0.25, "still": 0.2, "wanders": 0.15, "grows": 0.12}


def share_weight(subject: Subject) -> float:
    """Return how well a number suits as a share of full."""
    weight = SHARES.get(subject.sort, 0.05)
    if subject.sort in ("gauge", "wanders", "counts down") and (is_vital(subject.name) or subject.danger):
        weight = max(weight, 0.55)
    if subject.sort == "grows" and subject.danger == "high":
        weight = 0.55
    if subject.sort == "vital" and subject.danger:
        weight += 0.1
    if subject.sort == "vital" and is_reading(subject.name):
        weight -= 0.35
    if _moves_little(subject):
        weight *= 0.1
    return 0.3 * weight if is_score(subject.name) and not is_vital(subject.name) else weight


def _moves_little(subject: Subject) -> bool:
    """Return whether a share moves over less than a quarter of its length in the recording."""
    seen, full = subject.behaviour, subject.full_value
    if seen is None or seen.low is None or seen.high is None or full is None:
        return False
    empty = float(subject.empty or 0)
    top, bottom = min(seen.high, full), max(seen.low, empty)
    return full > empty and (top - bottom) / (full - empty) < LITTLE


def why(subject: Subject) -> str:
    """Describe what a variable does in the recording, in a few words."""
    found = subject.behaviour
    if found is None:
        return "not recorded"
    if found.sort in ("flag", "words", "still"):
        told = {
            "flag": "on for long stretches" if found.stretch >= MIN_READABLE_S else "on for moments",
            "words": f"{'over 12' if len(found.words) > 12 else len(found.words)} words",
        }
        return told.get(found.sort, "never changes")
    low, high = plain_number(found.low or 0.0), plain_number(found.high or 0.0)
    most = plain_number(subject.full_value) if subject.full_value is not None else high
    if found.bottom is not None:
        return f"falls from {most} to {plain_number(found.bottom)}, its lowest in every life: empty there"
    return {
        "vital": f"{'falls and recovers' if found.rises else 'falls'}, 0–{most}",
        "gauge": f"fills and empties, 0–{most}",
        "grows": f"only grows, to {high}",
        "counts down": "falls by 1 a second",
        "counts up": "grows by 1 a second",
    }.get(found.sort, f"from {low} to {high}")


HALF = 0.5  # fractions up to 1 that reach this are shares of 1
FEW_UNITS = 12  # whole numbers up to this: the last unit matters
NEEDS = ("vital", "gauge")
BLOWS_S = 1.0  # seconds between two falls from which each is a blow of its own
LITTLE = 0.25  # of its length: a bar that moves less shows nothing
A_LITTLE = 0.015  # how far full may be above the highest value
MIN_READABLE_S = 1.5  # seconds a flag must stay true to be read
