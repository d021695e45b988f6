"""Declarations guessed for columns that nobody declared: type, range, start and unit, as a first offer."""

from __future__ import annotations

import math
import re

from avrin.model import Variable
from avrin.trace.frames import Trace
from avrin.trace.summary import summarise_column

__all__ = ["guess"]

# What a name ends in, and the unit that suggests.
UNITS = (
    (r"(_|\b)(s|sec|secs|seconds|time_left|timer|countdown|cooldown|duration)$", "s"),
    (r"_(ms|millis)$", "ms"),
    (r"(_|\b)(pct|percent)$", "%"),
    (r"_m$|(^|_)(depth|height|altitude|distance|range)$", "m"),
    (r"_km$", "km"),
    (r"_(deg|degrees)$|(^|_)(angle|heading|bearing|yaw|pitch|roll)$", "°"),
    (r"(^|_)(speed|velocity)$", "m/s"),
)


def guess(trace: Trace, name: str) -> Variable:
    """A declaration for a recorded column; a roster's field gets its short name. Raises KeyError for an unknown column."""
    column = trace.columns[name]
    found = summarise_column(name, column, trace)
    low = high = None
    if found.low is not None and found.high is not None:
        # A little below zero is a game that does not clamp, not a range somebody meant.
        low = 0.0 if -0.05 * abs(found.high) < found.low <= 0.1 * found.high else found.low
        low, high = _outward(low, -1), _outward(found.high, 1)
    start = next((value for value in (column[i] for i in range(min(len(trace), 1000))) if value is not None), None)
    short = name.rsplit("].", 1)[-1]
    unit = next((unit for pattern, unit in UNITS if re.search(pattern, short.lower())), "") if high is not None else ""
    return Variable(name=short, type=found.type, start=start, low=low, high=high, unit=unit)


def _outward(end: float, way: int) -> float:
    """A rounder number at or beyond an end of what was seen: two digits, so that 98.7 becomes 99 and 347 350."""
    if end == 0:
        return 0.0
    step = 10.0 ** (math.floor(math.log10(abs(end))) - 1)
    turns = end / step
    return float(round((math.ceil(turns - 1e-9) if way > 0 else math.floor(turns + 1e-9)) * step, 12))
