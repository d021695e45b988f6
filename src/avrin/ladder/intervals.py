"""Divide a driver's values into intervals between edges, and count how often recordings were in each."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence

from msgspec import Struct

from avrin.ladder.distribution import Distribution, Found, found_value, found_within
from avrin.trace.frames import Value

__all__ = ["Interval", "Intervals"]


class Interval(Struct, frozen=True, eq=False):
    """The values from one edge up to the next, or one text, flag or missing: its cells share their counts.

    low, high: the least number in it, and the least beyond it; infinite at the ends, None if not numeric.
    occurrences: occurrences in the recordings. share: of all their frames, 0–1.
    first, last: its ends as text. past: whether it begins right after `first`. closed: whether it contains `last`.
    """

    occurrences: Found
    share: float
    low: float | None = None
    high: float | None = None
    first: float | None = None
    last: float | None = None
    past: bool = False
    closed: bool = False


class Intervals:
    """The intervals of one driver over recordings.

    edges: ascending numbers at which the look changes. low, high: the range; values beyond it are intervals of their own.
    """

    def __init__(
        self, recorded: Sequence[Distribution], edges: Sequence[float] = (), low: float = -math.inf, high: float = math.inf,
        *, integers: bool = False,
    ) -> None:  # fmt: skip
        self._seen = recorded
        self._whole = integers
        self.edges = frozenset(edges)
        self._frames = sum(len(one.trace) for one in recorded)
        self._top = high
        self._beyond = high + 1 if integers else math.nextafter(high, math.inf)
        self.cuts = sorted({cut for cut in (*edges, low, self._beyond) if math.isfinite(cut)})
        self._numbers: dict[int, Interval] = {}
        self._others: dict[Value, Interval] = {}

    def of(self, value: Value) -> Interval:
        """Return the interval that contains a value."""
        if not isinstance(value, float):
            if value not in self._others:
                found = found_value(self._seen, value)
                self._others[value] = Interval(found, self._share(found))
            return self._others[value]
        number = bisect_right(self.cuts, value)
        if number not in self._numbers:
            self._numbers[number] = self._between(number)
        return self._numbers[number]

    def bounds(self, number: int) -> tuple[float, float]:
        """Return the bounds of the interval with an index, from 0 to the number of cuts."""
        low = self.cuts[number - 1] if number else -math.inf
        return low, self.cuts[number] if number < len(self.cuts) else math.inf

    def _between(self, number: int) -> Interval:
        low, high = self.bounds(number)
        found = found_within(self._seen, low, high)
        top = self._top
        past = low == self._beyond and math.isinf(high)
        last, closed = high, False
        if self._whole and math.isfinite(high):
            last, closed = high - 1, True
        elif high == self._beyond:
            last, closed = top, True
        return Interval(found, self._share(found), low, high, top if past else low, last, past, closed)

    def _share(self, occurrences: Found) -> float:
        return occurrences.frames / max(1, self._frames)
