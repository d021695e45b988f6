"""Which limits are tried: those that somebody asks for, or some over what the level was recorded as."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from decimal import Decimal, InvalidOperation

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.model import AvrinError
from avrin.trace import FloatArray
from avrin.tuning.signals import Question, Signal

__all__ = ["MOST", "Levels", "all_levels", "levels", "stepped", "usual_values"]

MOST = 100_000  # values
USUAL = 50
MARGIN = 0.15  # of what the level spans: how far values go on at least on either side of the present limit
SHARES = (1, 99)  # percentiles of the level between which the usual values lie


def stepped(said: str) -> FloatArray:
    """`LO:HI:STEP`, HI included, in decimal steps; a percent sign makes a share; of shape (values,). Raises AvrinError."""
    parts = said.split(":")
    advice = "Write LO:HI:STEP, as 5%:50%:1% or 10:60:2.5"
    if len(parts) != 3:
        raise AvrinError(f"'{said}' is no range", advice=advice)
    low, high, step = (_decimal(part, said, advice) for part in parts)
    if step <= 0 or low > high:
        why = "its step is not above 0" if step <= 0 else "it ends before it begins"
        raise AvrinError(f"'{said}' has no values: {why}", advice=advice)
    count = int((high - low) / step) + 1
    if count > MOST:
        raise AvrinError(f"'{said}' are {count:,} values", advice=f"Up to {MOST:,} can be tried")
    found = [low + step * number for number in range(count)]
    if found[-1] != high:
        found.append(high)
    return np.array([float(value) for value in found])


def _decimal(word: str, said: str, advice: str) -> Decimal:
    plain = word.strip()
    try:
        number = Decimal(plain.removesuffix("%"))
    except InvalidOperation:
        raise AvrinError(f"'{said}': '{word}' is not a number", advice=advice) from None
    if not number.is_finite() or abs(number) > Decimal("1e15"):
        raise AvrinError(f"'{said}': '{word}' is no limit", advice=advice)
    return number / 100 if plain.endswith("%") else number


class Levels(Struct, frozen=True, eq=False):
    """What a level was recorded as: its values, rising, and on how many frames it was each. Both of shape (levels,)."""

    values: FloatArray
    frames: NDArray[np.int64]


def levels(found: Sequence[Signal]) -> Levels:
    """What the level was in some recordings, missing apart."""
    known = [signal.level[~np.isnan(signal.level)] for signal in found]
    return Levels(*np.unique(np.concatenate(known) if known else np.zeros(0), return_counts=True))


def all_levels(parts: Sequence[Levels]) -> Levels:
    """The same over all of their recordings."""
    if not parts:
        return levels(())
    values, of = np.unique(np.concatenate([one.values for one in parts]), return_inverse=True)
    frames = np.bincount(of, np.concatenate([one.frames for one in parts]), len(values)).astype(np.int64)
    return Levels(values, frames)


def usual_values(recorded: Levels, question: Question, also: Iterable[float] = ()) -> FloatArray:
    """Fifty over what the level was recorded as, to two digits, the present limit and others; shape (values,).

    They go on beyond the present limit, so that one can be asked for on either side of it. also: limits it had before.
    Raises AvrinError where the level was missing all the time.
    """
    if not len(recorded.values):
        raise AvrinError(
            f"the level of {question.widget.widget.id} is missing in all recordings",
            advice="Choose a widget whose level was recorded",
            command="Say --values",
        )
    low, high = (_percentile(recorded, share) for share in SHARES)
    tried = set(also)
    if question.limit is not None:
        tried.add(question.limit)
        around = MARGIN * ((high - low) or abs(high) or 1.0)
        least = 0.0 if question.limit > 0 <= low else -math.inf  # what is never below zero has no limit there
        low, high = min(low, max(least, question.limit - around)), max(high, question.limit + around)
    tried |= {_rounded(value) for value in np.linspace(low, high, USUAL).tolist()}
    return np.array(sorted(tried))


def _percentile(recorded: Levels, share: float) -> float:
    """Linear between two frames, as if all of them stood in a row."""
    until = np.cumsum(recorded.frames)
    place = (int(until[-1]) - 1) * share / 100
    low = math.floor(place)
    first, second = (
        recorded.values[np.searchsorted(until, at, "right")] for at in (low, min(low + 1, int(until[-1]) - 1))
    )
    return float(first + (second - first) * (place - low))


def _rounded(value: float) -> float:
    """To two significant digits."""
    return float(f"{value:.2g}") if math.isfinite(value) else value
