"""Numbers as people read them and as rules are written: the same everywhere."""

from __future__ import annotations

import math

__all__ = ["plain_number", "plain_rate", "rule_number"]

WHOLE = 1e15  # from here on not every whole number is a float: written with a power of ten
SMALL = 1e-6  # below it a number is read as 0
SNAP = 0.0008  # share by which a rate may be off a whole number and is that number; 29.97 is none


def plain_number(value: float) -> str:
    """Return a number for reading: "21,300", "−0.5", "0.0042"; at most two decimals, or three figures below 0.1.

    What is smaller than a millionth reads "0".
    """
    size = abs(value)
    if not math.isfinite(value):
        return str(value).replace("inf", "∞").replace("-", "−")
    if size >= WHOLE:
        return f"{value:.3g}".replace("-", "−")
    decimals = 2 if size >= 0.1 or size < SMALL else 2 - math.floor(math.log10(size))
    text = f"{value:,.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return ("0" if text == "-0" else text).replace("-", "−")


def rule_number(value: float) -> str:
    """Return a number as a rule says it: the shortest text that reads back the same."""
    return str(int(value)) if abs(value) < WHOLE and value == int(value) else repr(float(value))


def plain_rate(rate: float) -> str:
    """Return frames a second for reading: a whole number where it is one but for rounded times, 14.99 is "15"."""
    return plain_number(round(rate) if abs(rate - round(rate)) <= SNAP * rate else rate)
