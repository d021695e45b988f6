"""A limit and how far a band goes back from it, both at once: what each pair would have told, and how often it came again."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from avrin.trace import FloatArray
from avrin.tuning.curves import Terms, curves
from avrin.tuning.signals import Question, Signal

__all__ = ["BackMap", "back_map", "usual_gaps", "with_gap"]

Counts = NDArray[np.int64]
STEPS = 12
FURTHEST = 0.3  # of what the level spans: the furthest that a `back` is tried from its limit


class BackMap(Struct, frozen=True, eq=False):
    """values: limits, shape (values,). gaps: how far `back` lies beyond them, 0 for not at all, rising, shape (gaps,).

    outcomes: how many there are. warned, false, again: shape (gaps, values).
    """

    values: FloatArray
    gaps: FloatArray
    outcomes: int
    warned: Counts
    false: Counts
    again: Counts


def with_gap(question: Question, gap: float) -> Question:
    """The question of a band that goes back so far beyond its limit, 0 for at once. Its limit must be a number."""
    assert question.limit is not None
    if not gap:
        return replace(question, sticky=False, back=None, limit=question.limit)
    return replace(question, sticky=True, back=question.limit + (gap if question.below else -gap))


def usual_gaps(found: Sequence[Signal], question: Question) -> FloatArray:
    """None, and a dozen up to a third of what the level spans, to two digits, with the present one; rising, shape (gaps,)."""
    levels = np.concatenate([one.level[~np.isnan(one.level)] for one in found]) if found else np.zeros(0)
    span = float(np.ptp(np.percentile(levels, (1, 99)))) if len(levels) else 0.0
    tried = {0.0, *(_rounded(span * FURTHEST * step / STEPS) for step in range(1, STEPS + 1))}
    if question.gap is not None:
        tried.add(abs(round(question.gap, 12)))
    return np.array(sorted(tried))


def back_map(
    found: Sequence[Signal], question: Question, values: FloatArray, gaps: FloatArray, terms: Terms | None = None
) -> BackMap:
    """Every pair, over all recordings. values: shape (values,). gaps: shape (gaps,)."""
    told = [curves(found, with_gap(question, float(gap)), values, terms) for gap in gaps]
    outcomes = int(told[0].outcomes[0]) if len(values) else 0
    warned, false, again = (np.array([getattr(one, name) for one in told]) for name in ("warned", "false", "again"))
    return BackMap(values, gaps, outcomes, warned, false, again)


def _rounded(value: float) -> float:
    """To two significant digits."""
    return float(f"{value:.2g}") if math.isfinite(value) else value
