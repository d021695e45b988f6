"""Numbers as text, for people and for rules: one wording everywhere."""

from __future__ import annotations

import math

__all__ = ["counted", "plain_number", "plain_rate", "rule_number"]

WHOLE = 1e15  # from here on some whole numbers are not floats: written with a power of ten
SMALL = 1e-6  # smaller magnitudes read as 0
SNAP = 0.0008  # relative distance at which a rate counts as a whole number; 29.97 does not


def plain_number(value: float) -> str:
    """Return a number for people: "21,300", "−0.5", "0.0042"; at most two decimals, or three figures below 0.1.

    A magnitude below one millionth reads "0".
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
    """Return a number for a rule: the shortest text that parses back to the same float."""
    return str(int(value)) if abs(value) < WHOLE and value == int(value) else repr(float(value))


def counted(count: int, noun: str, plural: str = "") -> str:
    """Return a count with its noun: "1 recording", "2,000 recordings". plural: by default with an s."""
    return f"{count:,} {noun if count == 1 else plural or f'{noun}s'}"


def plain_rate(rate: float) -> str:
    """Return a frame rate for people: a whole number if only rounded times make it differ, so 14.99 is "15"."""
    return plain_number(round(rate) if abs(rate - round(rate)) <= SNAP * rate else rate)
