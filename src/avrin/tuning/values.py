"""Limits to try: given ones, or some over the recorded range of the level."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from decimal import Decimal, InvalidOperation

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.errors import AvrinError
from avrin.trace.frames import FloatArray
from avrin.tuning.signals import Question, Signal

__all__ = ["MAX_VALUES", "Levels", "all_levels", "levels", "stepped", "usual_values"]

MAX_VALUES = 100_000  # values
USUAL = 50
MARGIN = 0.15  # of the level's span: how far values extend at least on either side of the current limit
SHARES = (1, 99)  # percentiles of the level that bound the usual values


def stepped(text: str) -> FloatArray:
    """Parse `LO:HI:STEP`, HI inclusive, in decimal; a percent sign marks shares; shape (values,). Raises AvrinError."""
    parts = text.split(":")
    advice = "Write LO:HI:STEP, as 5%:50%:1% or 10:60:2.5"
    if len(parts) != 3:
        raise AvrinError(f"'{text}' is not a range", advice=advice)
    low, high, step = (_decimal(part, text, advice) for part in parts)
    if step <= 0 or low > high:
        why = "its step is not above 0" if step <= 0 else "its end is before its start"
        raise AvrinError(f"'{text}' has no values: {why}", advice=advice)
    count = int((high - low) / step) + 1
    if count > MAX_VALUES:
        raise AvrinError(f"'{text}' are {count:,} values", advice=f"Try up to {MAX_VALUES:,}")
    found = [low + step * number for number in range(count)]
    if found[-1] != high:
        found.append(high)
    return np.array([float(value) for value in found])


def _decimal(word: str, text: str, advice: str) -> Decimal:
    plain = word.strip()
    try:
        number = Decimal(plain.removesuffix("%"))
    except InvalidOperation:
        raise AvrinError(f"'{text}': '{word}' is not a number", advice=advice) from None
    if not number.is_finite() or abs(number) > Decimal("1e15"):
        raise AvrinError(f"'{text}': '{word}' is not a limit", advice=advice)
    return number / 100 if plain.endswith("%") else number


class Levels(Struct, frozen=True, eq=False):
    """A level's recorded values, ascending, and the number of frames of each. Both of shape (levels,)."""

    values: FloatArray
    frames: NDArray[np.int64]


def levels(signals: Sequence[Signal]) -> Levels:
    """Return a level's values in some recordings, without missing ones."""
    known = [signal.level[~np.isnan(signal.level)] for signal in signals]
    return Levels(*np.unique(np.concatenate(known) if known else np.zeros(0), return_counts=True))


def all_levels(parts: Sequence[Levels]) -> Levels:
    """Merge the levels of several recordings."""
    if not parts:
        return levels(())
    values, of = np.unique(np.concatenate([one.values for one in parts]), return_inverse=True)
    frames = np.bincount(of, np.concatenate([one.frames for one in parts]), len(values)).astype(np.int64)
    return Levels(values, frames)


def usual_values(recorded: Levels, question: Question, also: Iterable[float] = ()) -> FloatArray:
    """Return fifty values over the recorded level, two digits, with the current limit and others; shape (values,).

    They extend beyond the current limit, so that one can be chosen on either side of it. also: earlier limits.
    Raises AvrinError if the level is missing throughout.
    """
    if not len(recorded.values):
        raise AvrinError(
            f"the level of {question.widget.widget.id} is missing in all recordings",
            advice="Choose a widget whose level was recorded",
            command="Use --values",
        )
    low, high = (_percentile(recorded, share) for share in SHARES)
    tried = set(also)
    if question.limit is not None:
        tried.add(question.limit)
        around = MARGIN * ((high - low) or abs(high) or 1.0)
        least = (
            0.0 if question.limit > 0 <= low else -math.inf
        )  # a level that is never negative needs no negative limit
        low, high = min(low, max(least, question.limit - around)), max(high, question.limit + around)
    tried |= {_rounded(value) for value in np.linspace(low, high, USUAL).tolist()}
    return np.array(sorted(tried))


def _percentile(recorded: Levels, share: float) -> float:
    """Return a percentile, linear between two frames of the sorted level."""
    until = np.cumsum(recorded.frames)
    place = (int(until[-1]) - 1) * share / 100
    low = math.floor(place)
    first, second = (
        recorded.values[np.searchsorted(until, at, "right")] for at in (low, min(low + 1, int(until[-1]) - 1))
    )
    return float(first + (second - first) * (place - low))


def _rounded(value: float) -> float:
    """Round to two significant digits."""
    return float(f"{value:.2g}") if math.isfinite(value) else value
