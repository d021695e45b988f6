"""Edges: every value of a variable at which a widget's look changes, exact to the last digit.

Two searches are combined. Everything that rules compare, clamp, round or divide by is a guide that crosses zero, or
a whole number, at the operator's breakpoint (`Op.breakpoints`). If a guide changes sign between two values, or approaches
zero and recedes, a breakpoint is between them, located by interpolation. Between breakpoints results are smooth, so values on
either side of each reveal every change, however narrow. In addition a sweep, refined wherever the look
differs, finds changes that no operator declares.
"""

from __future__ import annotations

from collections.abc import Generator

import numpy as np
from msgspec import Struct

from avrin.ladder.probe import HIDDEN, RANKS, Looks, Probe
from avrin.trace.frames import Array, FloatArray

__all__ = ["BEYOND", "Turning", "turning"]

SWEEP = 129  # values tried across the range
BEYOND = 0.06  # of the range, examined beyond each end
# Of the range: how far beyond its ends comparisons are searched; uneven, because periodic looks would
# be equal at evenly spaced values.
OUTWARDS = np.outer(4.0 ** np.arange(31), (1.0, 1.9021130325903071)).ravel()
BENDS, ROOMS = 4, 10  # rounds for each search: a bend is found at once or not at all
CALM = 4.0**8  # of the range: a look that still changes further out is endless
ROUNDS = 40  # of refinement; straight lines are located in the first
PARTS = 16  # into which a stretch is split if nothing indicates where the look changes
TINY = 1e-300  # magnitudes below this may underflow in products and quotients
MOST_WHOLE = 512  # whole numbers between two values tried at once
MOST_TRIED = 8192  # values; a look with more breakpoints is endless
NEIGHBOURS = 3  # floats tried on either side of an expected breakpoint
SHRINK = (2.0**-10, 2.0**-20, 2.0**-32)  # of a stretch, tried around an inexact breakpoint


class Turning(Struct, frozen=True):
    """An edge. value: the least one with the new look. rank: its significance, 0 the highest (`RANKS`)."""

    value: float
    rank: int


def turning(
    bench: Probe, low: float, high: float, *, integers: bool
) -> Generator[None, None, tuple[list[Turning], bool]]:
    """Return all ascending edges in a range, and whether there are endlessly many; yields in between."""
    reach = (high - low) * BEYOND
    with np.errstate(over="ignore"):  # values beyond the largest float are not tried
        outwards = (high - low) * OUTWARDS
        tried = np.concatenate(
            [low - outwards, np.linspace(low - reach, high + reach, SWEEP), high + outwards, [-TINY, 0.0, TINY]]
        )
    search = _Search(bench, integers, (low - reach, high + reach))
    search.add(tried)
    yield
    for number in range(ROUNDS):
        more = search.refinements(bends=number < BENDS, rooms=number < ROOMS)
        if not len(more):
            break
        search.add(more)
        yield
    return search.edges(), len(search.values) >= MOST_TRIED


class _Search:
    """The values tried so far, in order."""

    def __init__(self, bench: Probe, whole: bool, range_: tuple[float, float]) -> None:
        self.values: FloatArray = np.zeros(0)
        self._looks = Looks(np.zeros((len(RANKS), 0), np.int64), np.zeros((0, 0)))
        self._bench, self._whole = bench, whole
        self._low, self._high = range_
        self._by_whole = bench.at_integers()
        self._stepped = bench.stepped()

    def add(self, tried: FloatArray) -> None:
        """Try more values."""
        tried = tried[np.isfinite(tried)] + 0.0
        new = np.setdiff1d(np.rint(tried) if self._whole else tried, self.values)
        looks = self._bench.looks(new)
        values = np.concatenate([self.values, new])
        order = np.argsort(values)
        known = len(self.values)
        guides = looks.guides if known == 0 else np.concatenate([self._looks.guides, looks.guides], axis=1)
        self._looks = Looks(np.concatenate([self._looks.marks, looks.marks], axis=1)[:, order], guides[:, order])
        self.values = values[order]

    def edges(self) -> list[Turning]:
        """Return where the look differs from the previous value, with the most significant change."""
        changed = self._changed()
        at = np.flatnonzero(changed.any(axis=0))
        return [Turning(self._edge_value(i), int(np.argmax(changed[:, i]))) for i in at.tolist()]

    def _edge_value(self, i: int) -> float:
        """Return the value of the edge after the i-th: exact, or the shortest number in between if it could not be located."""
        below, above = float(self.values[i]), float(self.values[i + 1])
        return above if self._closed()[i] else _plainest(below, above)

    def _changed(self) -> Array:
        """Return for each rank whether the look changes after each value but the last, in the range and up to the last change."""
        changed = self._differing()
        for rank in range(len(RANKS) - 1):
            changed[rank] &= self._inside(changed[rank], stepped=self._stepped[rank])
        changed[-1] &= (self.values[1:] >= self._low) & (
            self.values[:-1] <= self._high
        )  # texts count only inside the range
        return changed

    def _differing(self) -> Array:
        """Return for each rank whether the look differs after each value but the last; a hidden widget has only its state."""
        marks = self._looks.marks
        differing: Array = marks[:, 1:] != marks[:, :-1]
        differing[1:] &= (marks[0, 1:] != HIDDEN) & (marks[0, :-1] != HIDDEN)
        return differing

    def _inside(self, changed: Array, *, stepped: bool) -> Array:
        """Return the stretches in the range, and those outside it up to the last change.

        stepped: except if that is so far outside that steps at whole numbers must be endless.
        """
        low, high = self._low, self._high
        wide = CALM * (high - low)
        at = np.flatnonzero(changed)
        if len(at):
            first, last = float(self.values[at[0]]), float(self.values[at[-1] + 1])
            low = low if stepped and first < low - wide else min(low, first)
            high = high if stepped and last > high + wide else max(high, last)
        return np.asarray((self.values[1:] >= low) & (self.values[:-1] <= high))

    def _closed(self) -> Array:
        """Return whether adjacent values are adjacent floats."""
        after = self.values[:-1] + 1 if self._whole else np.nextafter(self.values[:-1], np.inf)
        none = np.maximum(np.abs(self.values[:-1]), np.abs(self.values[1:])) <= TINY
        return np.asarray((after >= self.values[1:]) | none)

    def refinements(self, *, bends: bool, rooms: bool) -> FloatArray:
        """Return values to try next: between values with a breakpoint or an unexplained change in between.

        bends: also where a guide may touch zero. rooms: also where texts outgrow their room, which need not be exact.
        """
        open_ = ~self._closed()
        passed = self._passed() & open_
        found = [self._towards(*np.nonzero(passed))]
        if bends:
            found.append(self._bends(open_))
        unexplained = self._changed()[: None if rooms else -1].any(axis=0) & open_ & ~passed.any(axis=0)
        at = np.flatnonzero(unexplained)
        below, above = self.values[at], self.values[at + 1]
        found.append((below[:, None] + (above - below)[:, None] * (np.arange(1, PARTS) / PARTS)).ravel())
        more = np.concatenate(found)
        new = np.setdiff1d(np.rint(more) if self._whole else more + 0.0, self.values)
        room = MOST_TRIED - len(self.values)
        if len(new) > room:  # values in and near the range come first
            new = new[np.argsort(np.abs(new - (self._low + self._high) / 2), kind="stable")][:room]
        return new

    def _sides(self) -> Array:
        """Return for each guide and value on which side of a breakpoint it is: integers, shape (guides, values)."""
        guides = self._looks.guides
        with np.errstate(over="ignore", invalid="ignore"):
            sign = np.sign(guides)
            # A whole number is a side of its own: an operator may break there or just beyond.
            steps = 2 * np.floor(guides) + (guides != np.floor(guides))
        sides = np.where(self._by_whole[:, None], steps, sign)
        return np.asarray(np.nan_to_num(sides, nan=1e300, posinf=1e299, neginf=-1e299))

    def _passed(self) -> Array:
        """Return for each guide whether it has a breakpoint after each value but the last."""
        sides = self._sides()
        passed: Array = sides[:, 1:] != sides[:, :-1]
        differing = self._differing()
        passed[self._by_whole] &= self._inside(np.any(differing[:-1], axis=0), stepped=True)
        if self._stepped[0]:  # outside, comparisons with whole numbers may be endless
            passed &= self._inside(differing[0], stepped=True)
        return passed

    def _towards(self, guide: Array, at: Array) -> FloatArray:
        """Return the expected breakpoint of each guide between a value and the next, and some values around it."""
        one, other = self._looks.guides[guide, at], self._looks.guides[guide, at + 1]
        below, above = self.values[at], self.values[at + 1]
        halves = _between(below, above)
        with np.errstate(all="ignore"):
            straight = np.isfinite(other - one) & (one != other)
            least = np.where(self._by_whole[guide], np.ceil(np.minimum(one, other)), 0.0)
            most = np.where(self._by_whole[guide], np.floor(np.maximum(one, other)), 0.0)
            count = np.where(straight, np.clip(most - least + 1, 0, MOST_WHOLE), 0).astype(np.int64)
            each = np.repeat(np.arange(len(at)), count)
            goals = least[each] + (np.arange(len(each)) - np.repeat(np.cumsum(count) - count, count))
            low, high, wide = below[each], above[each], (above - below)[each]
            expected = low + wide * ((goals - one[each]) / (other - one)[each])
            if self._whole:
                near = [np.floor(expected) + step for step in (-1, 0, 1, 2)]
            else:
                near = [expected, *_neighbours(expected, -np.inf), *_neighbours(expected, np.inf)]
            lone = np.where(count[each] == 1, wide, np.nan)  # only a single breakpoint can be slightly off
            near += [expected + side * lone * share for share in SHRINK for side in (-1, 1)]
            kept = [values[(values > low) & (values < high)] for values in near]
        return np.concatenate([*kept, halves, _between(below, halves), _between(halves, above)])

    def _bends(self, open_: Array) -> FloatArray:
        """Return where a guide comes closest to zero without crossing it: the vertex of the parabola through three values."""
        guides, values = self._looks.guides[~self._by_whole], self.values
        if not len(guides) or len(values) < 3:
            return np.zeros(0)
        with np.errstate(all="ignore"):
            size = np.abs(guides)
            lower = (size[:, 1:-1] <= size[:, :-2]) & (size[:, 1:-1] <= size[:, 2:]) & (size[:, 1:-1] > 0)
            lower &= (size[:, 1:-1] < size[:, :-2]) | (size[:, 1:-1] < size[:, 2:])
            lower &= (np.sign(guides[:, :-2]) == np.sign(guides[:, 1:-1])) & (
                np.sign(guides[:, 2:]) == np.sign(guides[:, 1:-1])
            )
            lower &= (open_[:-1] | open_[1:])[None, :]
            which, at = np.nonzero(lower)
            left, mid, right = values[at], values[at + 1], values[at + 2]
            a, b, c = guides[which, at], guides[which, at + 1], guides[which, at + 2]
            p, q = (mid - left) * (b - c), (mid - right) * (b - a)
            vertex = mid - 0.5 * ((mid - left) * p - (mid - right) * q) / (p - q)
        found = vertex[np.isfinite(vertex) & (vertex > left) & (vertex < right)]
        return np.asarray(found)


def _neighbours(at: FloatArray, towards: float) -> list[FloatArray]:
    found = [at]
    for _ in range(NEIGHBOURS):
        found.append(np.nextafter(found[-1], towards))
    return found[1:]


def _between(below: FloatArray, above: FloatArray) -> FloatArray:
    """Return the floats halfway between pairs in floating-point order, element by element."""
    first = below.view(np.int64)
    last = np.where((above == 0) & (below < 0), -0.0, above).view(np.int64)
    middle = (first // 2 + last // 2 + (first & last & 1)).view(np.float64)
    return np.where((below < 0) & (above > 0), 0.0, middle)


def _plainest(below: float, above: float) -> float:
    """Return the shortest number between two neighbours, the upper one included."""
    return next((value for digits in range(13) if below < (value := round(above, digits) + 0.0) <= above), above)
