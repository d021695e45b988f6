"""Infer declarations for undeclared columns: type, range, start and unit from the recording."""

from __future__ import annotations

import math
import re
import sys
from decimal import Decimal

import numpy as np

from avrin.project.project import Variable
from avrin.trace.frames import Column, Trace
from avrin.trace.summary import summarise_column

__all__ = ["guess", "outwards", "unit_of"]

# The ending of a name, and its unit.
UNITS = (
    (r"_(s|sec|secs|seconds)", "s"),
    (r"_(ms|msec|millis)", "ms"),
    (r"_(pct|percent)", "%"),
    (r"_m", "m"),
    (r"_km", "km"),
    (r"_(deg|degrees)", "°"),
    (r"_(kmh|kph)", "km/h"),
    (r"_mph", "mph"),
)


def guess(trace: Trace, name: str) -> Variable:
    """Return a declaration for a recorded column, marked as guessed; a roster's field gets its short name.

    The range covers the extremes and 0, rounded outwards to 1, 2 or 5 times a power of ten; 0 to 1 if it is always 0. It
    scales lanes and ladders. A value that only rises, across restarts too, is declared as `keeps`. Raises KeyError
    for an unknown column.
    """
    column = trace.columns[name]
    found = summarise_column(name, column, trace)
    low = high = None
    if found.low is not None and found.high is not None:
        low, high = outwards(min(0.0, found.low)), outwards(max(0.0, found.high))
        if low == high:
            high = 1.0
    missing = column.is_missing()
    start = column[int(missing.argmin())] if len(trace) and not missing.all() else None
    short = name.rsplit("].", 1)[-1]
    return Variable(
        name=short, type=found.type, start=start, low=low, high=high, unit=unit_of(short) if high is not None else "",
        keeps=_only_rises(column, trace), guessed=True,
    )  # fmt: skip


def _only_rises(column: Column, trace: Trace) -> bool:
    """Return whether a number never falls, across restarts too, and some later run begins above the first."""
    starts = trace.run_starts
    if column.kind != "number" or len(starts) < 2:
        return False
    values = column.data[~column.is_missing()]
    begun = column.data[starts]
    known = begun[~np.isnan(begun)]
    return bool(len(known) > 1 and known[-1] > known[0] and (np.diff(values) >= 0).all())


def unit_of(name: str) -> str:
    """Return the unit in a name's ending, or "" if there is none."""
    return next((unit for pattern, unit in UNITS if re.search(f"{pattern}$", name.lower())), "")


def outwards(end: float) -> float:
    """Return the next of 0 and 1, 2 or 5 times a power of ten that is at least as far from 0."""
    if end == 0:
        return 0.0
    exact = Decimal(abs(end))
    steps = (float(Decimal(digit).scaleb(exact.adjusted())) for digit in (1, 2, 5, 10))
    step = next((one for one in steps if abs(end) <= one * (1 + 1e-12)), math.inf)
    return math.copysign(min(step, sys.float_info.max), end)
