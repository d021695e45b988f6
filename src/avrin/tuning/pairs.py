"""Two-dimensional tuning: every pair of a limit and a second value, the distance of `back` or the seconds of `held`."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from avrin.trace.frames import FloatArray
from avrin.tuning.curves import Terms, curves
from avrin.tuning.signals import Question, Signal

__all__ = ["SECOND_VALUES", "PairMap", "SecondValue", "pair_map", "usual_gaps", "usual_waits", "with_gap", "with_wait"]

Counts = NDArray[np.int64]
STEPS = 12
FURTHEST = 0.3  # of the level's span: the largest distance of `back` that is tried
WAITS = (0.0, 0.05, 0.1, 0.2, 0.3, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0, 5.0)  # seconds


class PairMap(Struct, frozen=True, eq=False):
    """values: limits, shape (values,). others: ascending second values, 0 for none, shape (others,).

    outcomes: their number. warned, false, again, share_on: shape (others, values).
    """

    values: FloatArray
    others: FloatArray
    outcomes: int
    warned: Counts
    false: Counts
    again: Counts
    share_on: FloatArray


class SecondValue(Struct, frozen=True):
    """A second value. apply: returns a question with it. usual: values to try. now: the current one."""

    apply: Callable[[Question, float], Question]
    usual: Callable[[Sequence[Signal], Question], FloatArray]
    now: Callable[[Question], float]


def with_gap(question: Question, gap: float) -> Question:
    """Return the question with `back` at a distance from the limit, 0 for none. Its limit must be a number."""
    assert question.limit is not None
    if not gap:
        return replace(question, sticky=False, back=None, limit=question.limit)
    return replace(question, sticky=True, back=question.limit + (gap if question.below else -gap))


def with_wait(question: Question, wait: float) -> Question:
    """Return the question with `held` seconds."""
    return replace(question, held=wait)


def usual_gaps(signals: Sequence[Signal], question: Question) -> FloatArray:
    """Return 0 and a dozen distances up to a third of the level's span, two digits, and the current one; shape (gaps,)."""
    levels = np.concatenate([one.level[~np.isnan(one.level)] for one in signals]) if signals else np.zeros(0)
    span = float(np.ptp(np.percentile(levels, (1, 99)))) if len(levels) else 0.0
    tried = {0.0, *(_rounded(span * FURTHEST * step / STEPS) for step in range(1, STEPS + 1))}
    if question.gap is not None:
        tried.add(abs(round(question.gap, 12)))
    return np.array(sorted(tried))


def usual_waits(_signals: Sequence[Signal], question: Question) -> FloatArray:
    """Return 0 and some durations of up to a few seconds, and the current one; ascending, shape (waits,)."""
    return np.array(sorted({*WAITS, max(0.0, question.held)}))


SECOND_VALUES: Mapping[str, SecondValue] = {
    "back": SecondValue(with_gap, usual_gaps, lambda question: abs(question.gap or 0.0)),
    "held": SecondValue(with_wait, usual_waits, lambda question: max(0.0, question.held)),
}


def pair_map(
    signals: Sequence[Signal],
    question: Question,
    values: FloatArray,
    second: str,
    others: FloatArray,
    terms: Terms | None = None,
) -> PairMap:
    """Return all pairs over all recordings. values: shape (values,). second: of `SECOND_VALUES`. others: shape (others,)."""
    made = SECOND_VALUES[second].apply
    told = [curves(signals, made(question, float(one)), values, terms) for one in others]
    outcomes = int(told[0].outcomes[0]) if len(values) else 0
    names = ("warned", "false", "again", "share_on")
    return PairMap(values, others, outcomes, *(np.array([getattr(one, name) for one in told]) for name in names))


def _rounded(value: float) -> float:
    """Round to two significant digits."""
    return float(f"{value:.2g}") if math.isfinite(value) else value
