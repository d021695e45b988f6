"""Warnings that come too late for a project's outcomes, or so often without one that players ignore them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from functools import partial

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.errors import AvrinError
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding, Fix
from avrin.project.project import Outcome as Named
from avrin.trace.frames import Array
from avrin.tuning.apply_limit import is_share, limit_text, with_limit
from avrin.tuning.curves import Curves, Outcome, Terms, curves, false_at, outcomes_at
from avrin.tuning.signals import Question, Signal, asked, signals
from avrin.tuning.values import levels, usual_values

__all__ = ["CHECKS"]

TERMS = Terms()
MIN_OUTCOMES = 2  # outcomes needed for a judgement
HALF = 0.5  # of all outcomes: a band that precedes fewer was not meant to warn of them; more must be in time
WISHED = 0.9  # of them to be warned of after a fix, if any limit achieves it
OFTEN = 3  # false alarms from which a band is reported
MAX_OUTCOMES = 200  # reported outcomes


class _Told(Struct, frozen=True, eq=False):
    """A band's result for an outcome at each limit. now: the index of its current limit."""

    outcome: Named
    question: Question
    signals: list[Signal]
    curves: Curves
    now: int

    def count(self, name: str) -> int:
        """Return one of the sums at the current limit."""
        return int(getattr(self.curves, name)[self.now])


def _warns_late(case: Case) -> Iterator[Finding]:
    """Yield, for each outcome that no band warns of in time at least half the time, the best band."""
    for outcome in case.project.outcomes:
        found = [
            one
            for one in _bands(case, outcome)
            if one.count("warned") + one.count("late") >= HALF * one.count("outcomes")
        ]
        best = max(found, key=lambda result: (result.count("warned"), result.count("late")), default=None)
        if best is not None and best.count("warned") < HALF * best.count("outcomes"):
            yield _late(case, best)


def _late(case: Case, result: _Told) -> Finding:
    question, name = result.question, result.outcome.name
    widget, band = question.widget.widget, question.band.name
    assert question.limit is not None
    worst = outcomes_at(result.signals, question, question.limit)
    count, warned = result.count("outcomes"), result.count("warned")
    found = result.curves
    most = min(WISHED * count, int(found.warned.max()))
    wished = (found.warned >= most) & (found.warned > warned)
    calm = wished & (found.false <= found.warned)  # prefer one with few false alarms
    fix = _moved(result, calm if calm.any() else wished, "warn sooner")
    trace, moments = _moments(case, worst)
    return Finding(
        widget.id, f"{band} {count - warned} times too late for {name}",
        f"{widget.title} is {band} {TERMS.lead:g} s ahead of “{name}” only {warned} times of {count}; where it tells of it at"
        f" all, it is {float(found.lead_median[result.now]):.1f} s or less half the time",
        "Make it begin sooner", about=f"{band} {name}", trace=trace, start=moments[0][0], end=moments[0][1],
        moments=tuple(sorted(moments)), weight=float(count - warned), fix=fix,
    )  # fmt: skip


def _cries_wolf(case: Case) -> Iterator[Finding]:
    """Yield each band that warns of an outcome in time, but has even more false alarms."""
    for outcome in case.project.outcomes:
        for told in _bands(case, outcome):
            false, warned = told.count("false"), told.count("warned")
            if 0 < warned < false and false >= OFTEN:
                yield _wolf(case, told, false, warned)


def _wolf(case: Case, result: _Told, false: int, warned: int) -> Finding:
    widget, band, name = result.question.widget.widget, result.question.band.name, result.outcome.name
    assert result.question.limit is not None
    alarms = false_at(result.signals, result.question, result.question.limit, TERMS)
    trace, _ = Counter(recording for recording, _, _ in alarms).most_common(1)[0]
    moments = [(first, end) for recording, first, end in alarms if recording == trace]
    found = result.curves
    wished = (found.false <= found.warned) & (found.warned >= warned)
    fits = wished if wished.any() else (found.false <= found.warned) & (found.warned > HALF * warned)
    return Finding(
        widget.id, f"{band} {false} times for nothing",
        f"{widget.title} is {band} {false} times without “{name}” within {TERMS.within:g} s after, and {warned} times in time"
        " before it: people learn to ignore it",
        "Make it begin later or end sooner", about=f"{band} {name}", trace=case.tracks[trace].trace.name,
        start=moments[0][0], end=moments[0][1], moments=tuple(moments[:MAX_OUTCOMES]), weight=float(false - warned),
        fix=_moved(result, fits, "fewer false alarms"),
    )  # fmt: skip


def _moved(result: _Told, fits: Array, what: str) -> Fix | None:
    """Return a fix with the nearest fitting limit; None if there is none, or the limit is a rule."""
    question, places = result.question, np.flatnonzero(fits)
    if question.limit is None or not len(places):
        return None
    values = result.curves.value[places]
    value = float(values[np.argmin(np.abs(values - question.limit))])
    if value == question.limit:
        return None
    said = limit_text(value, share=is_share(question))
    return Fix(f"{what}: {question.band.name} at {said}", partial(with_limit, question=question, value=value))


def _moments(case: Case, worst: list[Outcome]) -> tuple[str, list[tuple[int, int]]]:
    """Return the recording of the worst outcome, with its outcomes from their warnings on; the worst first."""
    here = [one for one in worst if one.recording == worst[0].recording][:MAX_OUTCOMES]
    found = [(one.frame if one.begins is None else one.begins, one.frame + 1) for one in here]
    return case.tracks[worst[0].recording].trace.name, found


def _bands(case: Case, outcome: Named) -> Iterator[_Told]:
    """Yield each band's result for an outcome, if its level depends on a variable of the outcome."""
    for ident, widget in case.bound.widgets.items():
        for band in widget.widget.bands if widget.level is not None and ident not in case.faulty else ():
            told = _of_band(case, widget, band.name, outcome)
            if told is not None and told.count("outcomes") >= MIN_OUTCOMES:
                yield told


def _of_band(case: Case, widget: BoundWidget, band: str, outcome: Named) -> _Told | None:
    try:
        question = asked(case.bound, widget.widget.id, band, outcome.name)
    except AvrinError:
        return None
    sources = {name for step in question.before if step is not None for name in step.sources()}
    if question.limit is None or widget.level is None or sources.isdisjoint(widget.level.sources()):
        return None

    def look() -> _Told | None:
        found = signals(case.tracks, question)
        try:
            values = usual_values(levels(found), question)
        except AvrinError:
            return None  # it never occurred
        now = int(np.flatnonzero(values == question.limit)[0])
        return _Told(outcome, question, found, curves(found, question, values, TERMS), now)

    return case.memory.get(widget, ("warns", band, outcome.name, question.before), look)


CHECKS = (
    Check("warns-late", "warning", "No band warns of most outcomes three seconds ahead.", project=_warns_late),
    Check("cries-wolf", "warning", "A band has more false alarms than timely warnings.",
          project=_cries_wolf),
)  # fmt: skip
