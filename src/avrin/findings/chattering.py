"""Chattering: bands and widgets that toggle rapidly because a level oscillates around a limit."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial
from itertools import pairwise

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.case import Case, below, stretches
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_widget
from avrin.project.project import Widget
from avrin.trace.frames import Array
from avrin.tuning.alarms import alarms
from avrin.tuning.signals import RESTART, Question, Signal, asked, signals

__all__ = ["CHECKS"]

AT_ONCE = 1.0  # seconds within which a new start counts as a repetition
OFTEN = 3  # tolerated repetitions per minute
MINUTE = 60.0
GAPS = (
    0.01,
    0.02,
    0.03,
    0.05,
    0.08,
    0.12,
    0.2,
    0.35,
    0.6,
    1.2,
)  # of the level's span: distances of `back` from a limit to try
MAX_STRETCHES = 200  # reported stretches


class _Chatter(Struct, frozen=True):
    """Chatter in a recording. times: repetitions. shortest: seconds of absence. worst: the minute with the most."""

    tracks: Tracks
    stretches: list[tuple[int, int]]
    times: int
    shortest: float
    worst: tuple[int, int]


def _chatters(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield chatter of a widget's bands and visibility; intended blinking is exempt."""
    blinks = {
        name for name in ("visible", "band") if any(step.op.name == "blink" for step in below(widget.columns[name]))
    }
    names = [band.name for band in widget.widget.bands] if "band" not in blinks else []
    for name in [*names, *([""] if "visible" not in blinks else [])]:
        found = [one for tracks in case.tracks if (one := _of(case, tracks, widget, name)) is not None]
        if found:
            yield _chatter_finding(case, widget, name, max(found, key=lambda chatter: chatter.times))


def _of(case: Case, tracks: Tracks, widget: BoundWidget, name: str) -> _Chatter | None:
    """Return the chatter of a band, or with "" of the widget itself, in a recording, or None."""
    seen = case.visible(tracks, widget)
    if name:
        column = case.column(tracks, widget.columns["band"])
        seen = seen & (column.data == column.words.index(name)) if name in column.words else np.zeros_like(seen)
    worst, trace = None, tracks.trace
    every: list[tuple[int, int]] = []
    times, shortest = 0, math.inf
    for _, first, end in trace.runs():
        found = [(a + first, b + first) for a, b in stretches(seen[first:end])]
        every += found
        again = [
            (before, after) for before, after in pairwise(found)
            if trace.t[after[0]] - trace.t[before[1]] < AT_ONCE
        ]  # fmt: skip
        times += len(again)
        shortest = min([shortest, *(float(trace.t[after[0]] - trace.t[before[1]]) for before, after in again)])
        for one, other in zip(again, again[OFTEN:], strict=False):
            if trace.t[other[1][0]] - trace.t[one[1][0]] <= MINUTE and worst is None:
                worst = (one[0][0], other[1][1])
    return _Chatter(tracks, every, times, shortest, worst) if worst is not None else None


def _chatter_finding(case: Case, widget: BoundWidget, name: str, worst: _Chatter) -> Finding:
    title, trace = widget.widget.title, worst.tracks.trace.name
    what = f"{title} turns {name} and back" if name else f"{title} comes and goes"
    away = f"{worst.shortest * 1000:.0f} ms" if worst.shortest < 1 else f"{worst.shortest:.1f} s"
    start, end = worst.worst
    return Finding(
        widget.widget.id, f"{name or 'it'} repeats {worst.times} times",
        f"{what} {len(worst.stretches)} times in {trace}, {worst.times} of them within a second, at shortest after {away}",
        "Set a `back` limit further away, so that it holds for longer" if name else "Hold what it depends on for a while",
        about=name or "visible", trace=trace, start=start, end=end, moments=tuple(worst.stretches[:MAX_STRETCHES]),
        weight=float(worst.times), fix=_sticky(case, widget, name) if name else None,
    )  # fmt: skip


# -- the fix -----------------------------------------------------------------------------------------------------------


def _sticky(case: Case, widget: BoundWidget, name: str) -> Fix | None:
    """Return a fix with the nearest `back` that stops the chatter; None if the limit is a rule or nothing helps."""
    band = next(one for one in widget.widget.bands if one.name == name)
    if band.when or widget.level is None or widget.widget.repeat:
        return None
    try:
        question = asked(case.bound, widget.widget.id, name, RESTART)
    except AvrinError:  # for example if `held` is a rule: no constant can be suggested
        return None
    if question.limit is None:
        return None
    found = signals(case.tracks, question)
    levels = np.concatenate([one.level[~np.isnan(one.level)] for one in found])
    span = float(np.ptp(np.percentile(levels, (1, 99)))) if len(levels) else 0.0
    for share in GAPS:
        gap = share * span if question.below else -share * span
        back, text = _written(question, question.limit + gap, share=(band.below or band.above).strip().endswith("%"))
        if back != question.limit and not any(_wavers(one, question, back - question.limit) for one in found):
            return fix_widget(f"set back to {text}", widget.widget.id, partial(_with_back, band=name, back=text))
    return None


def _written(question: Question, value: float, *, share: bool) -> tuple[float, str]:
    """Round a value to two digits, away from the limit, and format it like the limit."""
    assert question.limit is not None
    plain = value * 100 if share else value
    grain = 10.0 ** (math.floor(math.log10(abs(plain))) - 1) if plain else 1.0
    rounded = (math.ceil if question.below else math.floor)(round(plain / grain, 6)) * grain
    text = f"{rounded:.6g}"
    return float(text) / (100 if share else 1), text + ("%" if share else "")


def _wavers(signal: Signal, question: Question, gap: float) -> bool:
    """Return whether the band would chatter in a recording with such a gap."""
    assert question.limit is not None
    told = alarms(signal, np.array([question.limit]), below=question.below, sticky=True, gap=gap, held=question.held)
    ends = signal.t[np.minimum(told.last + 1, signal.runs[told.run, 1] - 1)] if len(told.first) else np.zeros(0)
    again = np.zeros(len(told.first), bool)
    if len(again) > 1:
        again[1:] = (told.run[1:] == told.run[:-1]) & (signal.t[told.first[1:]] - ends[:-1] < AT_ONCE)
    times: Array = signal.t[told.first[again]]
    runs = told.run[again]
    return bool(((times[OFTEN:] - times[:-OFTEN] <= MINUTE) & (runs[OFTEN:] == runs[:-OFTEN])).any())


def _with_back(widget: Widget, band: str, back: str) -> Widget:
    return replace(widget, bands=tuple(replace(one, back=back) if one.name == band else one for one in widget.bands))


CHECKS = (
    Check("chatters", "warning", "A band or a widget reappears within a second, more than three times a minute.",
          widget=_chatters, follows=(("chatters", "widget"),)),
)  # fmt: skip
