"""Goals for a warning: which limits meet one, which is nearest, and why none can."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.trace.frames import FloatArray
from avrin.tuning.curves import Curves, Outcome, Terms
from avrin.tuning.signals import Question, Signal

__all__ = ["Hard", "Wish", "best", "fulfils", "hard", "nearest_limit"]

EQUAL = 1e-9
Counts = NDArray[np.int64]


class Wish(Struct, frozen=True):
    """warned: percent of outcomes to warn of in time. false: the most false alarms per ten minutes."""

    warned: float = 90.0
    false: float = 1.0


class Hard(Struct, frozen=True):
    """Why outcomes are missed at a limit. count: how many. level: the lowest level there was (highest for `above`).

    at_once: measured one frame before each outcome; otherwise, the least lead before it.
    """

    count: int
    level: float
    at_once: bool


def fulfils(warned: Counts, false: Counts, outcomes: int | Counts, wish: Wish, minutes: float) -> NDArray[np.bool_]:
    """Return where counts meet a goal. warned, false: same shape, which is returned. minutes: recorded in total."""
    enough = warned >= np.asarray(outcomes) * wish.warned / 100 - EQUAL
    found: NDArray[np.bool_] = enough & (false <= wish.false * minutes / 10 + EQUAL) & (np.asarray(outcomes) > 0)
    return found


def nearest_limit(curves: Curves, wish: Wish, minutes: float) -> int:
    """Return the index of the limit nearest to a goal: least shortfall of outcomes plus excess of false alarms.

    Ties are resolved by the shorter time the warning is on.
    """
    short = np.maximum(0.0, np.ceil(curves.outcomes * wish.warned / 100 - EQUAL) - curves.warned)
    too_many = np.maximum(0.0, curves.false - np.floor(wish.false * minutes / 10 + EQUAL))
    return int(np.lexsort((curves.share_on, short + too_many))[0])


def best(curves: Curves, count: int) -> list[int]:
    """Return the indexes of the best limits: most warned in time, then fewest false alarms, then least time on."""
    return [int(number) for number in np.lexsort((curves.share_on, curves.false, -curves.warned))[:count]]


def hard(
    signals: Sequence[Signal], question: Question, value: float, each: Sequence[Outcome], terms: Terms
) -> Hard | None:
    """Return why a limit misses outcomes, if all have one reason; None if it misses none, or for several reasons.

    each: all outcomes at that limit.
    """
    missed = [one for one in each if one.lead is None or one.lead < terms.lead - EQUAL]
    if not missed:
        return None
    by_slot = {(one.recording, one.slot): one for one in signals}
    mine = [(by_slot[one.recording, one.slot], one.frame) for one in missed]
    for at_once in (True, False):
        levels = np.array([_level(signal, frame, 0.0 if at_once else terms.lead) for signal, frame in mine])
        safe = levels >= value if question.below else levels <= value
        if safe.all():
            return Hard(len(missed), float(levels.min() if question.below else levels.max()), at_once)
    return None


def _level(signal: Signal, frame: int, lead: float) -> float:
    """Return the level one frame before an outcome, or at the last frame `lead` seconds before; NaN before its run began."""
    run = int(np.searchsorted(signal.runs[:, 0], frame, "right")) - 1
    start = int(signal.runs[run, 0])
    at = frame - 1
    if lead > 0:
        times: FloatArray = signal.t[start : frame + 1]
        at = start + int(np.searchsorted(times, signal.t[frame] - lead + EQUAL, "right")) - 1
    return float(signal.level[at]) if at >= start else float("nan")
