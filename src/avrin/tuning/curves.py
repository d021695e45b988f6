"""The result of a warning at each limit: outcomes warned of in time, and false alarms.

A run is one attempt; times within a billionth of a second are equal.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.trace.frames import FloatArray
from avrin.tuning.alarms import Alarms, alarms
from avrin.tuning.signals import Question, Signal

__all__ = ["COLUMNS", "Counted", "Curves", "Outcome", "Terms", "counted", "curves", "outcomes_at", "together"]

EQUAL = 1e-9  # seconds
Counts = NDArray[np.int64]


class Terms(Struct, frozen=True):
    """Definitions in seconds. lead: the least lead that is in time. within: an outcome this soon after an alarm belongs to it.

    again: an alarm that begins sooner after the previous one's end is a repetition.
    """

    lead: float = 3.0
    within: float = 10.0
    again: float = 2.0


class Curves(Struct, frozen=True, eq=False):
    """By value, shape (values,) each. Medians and deciles of leads are NaN without warned outcomes."""

    value: FloatArray
    outcomes: Counts
    warned: Counts
    late: Counts
    missed: Counts
    lead_median: FloatArray
    lead_p10: FloatArray
    alarms: Counts
    false: Counts
    again: Counts
    share_on: FloatArray


COLUMNS: tuple[str, ...] = Curves.__struct_fields__


class Outcome(Struct, frozen=True):
    """One outcome at one value. lead: seconds between alarm and outcome, None if missed. begins: its alarm's first frame."""

    recording: int
    slot: int
    frame: int
    lead: float | None
    begins: int | None


class Counted(Struct, frozen=True, eq=False):
    """The contribution of some recordings. sums: by measure, shape (values,) each. frames: their number.

    leads: seconds between alarm and outcome, NaN if missed, shape (values, outcomes).
    """

    sums: dict[str, Counts]
    frames: int
    leads: FloatArray


def curves(signals: Sequence[Signal], question: Question, values: FloatArray, terms: Terms | None = None) -> Curves:
    """Return the curves of all values, shape (values,), over all recordings."""
    return together(values, [counted(signals, question, values, terms)], terms)


def counted(signals: Sequence[Signal], question: Question, values: FloatArray, terms: Terms | None = None) -> Counted:
    """Return the contribution of some recordings for all values, shape (values,)."""
    terms, count = terms or Terms(), len(values)
    sums = {name: np.zeros(count, np.int64) for name in ("alarms", "false", "again", "on")}
    every: list[FloatArray] = []
    frames = 0
    for signal in signals:
        told = _alarms(signal, question, values)
        sums["alarms"] += np.bincount(told.value, minlength=count)
        sums["false"] += np.bincount(told.value[_false(signal, told, terms)], minlength=count)
        sums["again"] += np.bincount(told.value[_again(signal, told, terms)], minlength=count)
        sums["on"] += told.on
        frames += len(signal.level)
        every.append(_leads(signal, told, count)[0])
    return Counted(sums, frames, np.concatenate(every, axis=1) if every else np.zeros((count, 0)))


def together(values: FloatArray, parts: Sequence[Counted], terms: Terms | None = None) -> Curves:
    """Merge contributions into the curves over all recordings. values: shape (values,)."""
    terms, count = terms or Terms(), len(values)
    nothing = np.zeros(count, np.int64)
    sums = {name: sum((one.sums[name] for one in parts), nothing) for name in ("alarms", "false", "again", "on")}
    frames = sum(one.frames for one in parts)
    leads = np.concatenate([one.leads for one in parts], axis=1) if parts else np.zeros((count, 0))
    missed = np.isnan(leads)
    warned = (leads >= terms.lead - EQUAL).sum(axis=1)
    middle, tenth = (_of_those_there(leads, share) for share in (50, 10))
    return Curves(
        values, np.full(count, leads.shape[1]), warned, (~missed).sum(axis=1) - warned, missed.sum(axis=1), middle, tenth,
        sums["alarms"], sums["false"], sums["again"], sums["on"] / frames if frames else np.zeros(count),
    )  # fmt: skip


def outcomes_at(signals: Sequence[Signal], question: Question, value: float) -> list[Outcome]:
    """Return every outcome at one value, worst first: missed ones, then those with the shortest lead."""
    told = []
    for signal in signals:
        leads, begins = _leads(signal, _alarms(signal, question, np.array([value])), 1)
        for frame, lead, first in zip(signal.outcomes.tolist(), leads[0].tolist(), begins[0].tolist(), strict=True):
            missed = np.isnan(lead)
            told.append(
                Outcome(signal.recording, signal.slot, frame, None if missed else lead, None if missed else first)
            )
    return sorted(told, key=lambda outcome: -1.0 if outcome.lead is None else outcome.lead)


def false_at(signals: Sequence[Signal], question: Question, value: float, terms: Terms) -> list[tuple[int, int, int]]:
    """Return every false alarm at one value: its recording's index, its first frame and its end frame."""
    made = []
    for signal in signals:
        told = _alarms(signal, question, np.array([value]))
        false = _false(signal, told, terms)
        each = zip(told.first[false].tolist(), told.last[false].tolist(), strict=True)
        made += [(signal.recording, first, last + 1) for first, last in each]
    return made


def _alarms(signal: Signal, question: Question, values: FloatArray) -> Alarms:
    return alarms(signal, values, below=question.below, sticky=question.sticky, gap=question.gap, held=question.held)


def _ends(signal: Signal, alarms_: Alarms) -> FloatArray:
    """Return the end time of each alarm: that of the next frame, or of its run's last frame."""
    after = np.minimum(alarms_.last + 1, signal.runs[alarms_.run, 1] - 1) if len(alarms_.first) else alarms_.last
    ends: FloatArray = signal.t[after]
    return ends


def _false(signal: Signal, alarms_: Alarms, terms: Terms) -> NDArray[np.bool_]:
    """Return alarms without an outcome between their start and `within` after their end, if the run lasts that long."""
    if not len(alarms_.first):
        return np.zeros(0, bool)
    begins, until = signal.t[alarms_.first], _ends(signal, alarms_) + terms.within
    goes_on = signal.t[signal.runs[alarms_.run, 1] - 1] >= until - EQUAL
    answered = np.zeros(len(alarms_.first), bool)
    runs = np.searchsorted(signal.runs[:, 0], signal.outcomes, "right") - 1
    for run in np.unique(runs).tolist():
        times, mine = signal.t[signal.outcomes[runs == run]], alarms_.run == run
        at = np.searchsorted(times, begins[mine] - EQUAL)
        there = at < len(times)
        answered[mine] = there & (times[np.minimum(at, len(times) - 1)] <= until[mine] + EQUAL)
    found: NDArray[np.bool_] = goes_on & ~answered
    return found


def _again(signal: Signal, alarms_: Alarms, terms: Terms) -> NDArray[np.bool_]:
    """Return alarms that begin sooner than `again` after the previous one's end in the same run."""
    found = np.zeros(len(alarms_.first), bool)
    if len(found) > 1:
        same = (alarms_.value[1:] == alarms_.value[:-1]) & (alarms_.run[1:] == alarms_.run[:-1])
        found[1:] = same & (signal.t[alarms_.first[1:]] - _ends(signal, alarms_)[:-1] < terms.again - EQUAL)
    return found


def _leads(signal: Signal, alarms_: Alarms, count: int) -> tuple[FloatArray, Counts]:
    """Return the lead of each outcome in seconds, NaN if missed, and its alarm's first frame, -1 if missed.

    Returns: both of shape (values, outcomes).
    """
    frames = signal.outcomes
    leads, begins = np.full((count, len(frames)), np.nan), np.full((count, len(frames)), -1)
    if not len(frames) or not len(alarms_.first):
        return leads, begins
    runs = np.searchsorted(signal.runs[:, 0], frames, "right") - 1
    # Alarms are ordered by value, then frame: one search for all values.
    long = len(signal.level) + 1
    keys = alarms_.value * long + alarms_.first
    for column, (frame, run) in enumerate(zip(frames.tolist(), runs.tolist(), strict=True)):
        at = np.searchsorted(keys, np.arange(count) * long + frame, "right") - 1
        there = np.maximum(at, 0)
        mine = (at >= 0) & (alarms_.value[there] == np.arange(count)) & (alarms_.run[there] == run)
        told_of = mine & (alarms_.last[there] >= frame - 1)  # on at the previous frame, or begun on this one
        leads[told_of, column] = signal.t[frame] - signal.t[alarms_.first[there[told_of]]]
        begins[told_of, column] = alarms_.first[there[told_of]]
    return leads, begins


def _of_those_there(leads: FloatArray, share: float) -> FloatArray:
    """Return a percentile of each row, linearly interpolated, NaN for an empty row."""
    ordered = np.sort(leads, axis=1)  # missing last
    counts = (~np.isnan(leads)).sum(axis=1)
    if not leads.shape[1]:
        return np.full(len(leads), np.nan)
    place = np.maximum(counts - 1, 0) * (share / 100)
    low = np.floor(place).astype(np.int64)
    high = np.minimum(low + 1, np.maximum(counts - 1, 0))
    rows = np.arange(len(leads))
    below, above = ordered[rows, low], ordered[rows, high]
    found: FloatArray = below + (above - below) * (place - low)
    return found
