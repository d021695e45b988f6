"""What the checks think is wrong: where, when, why, and what to do."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

from avrin.widgets import Tracks

__all__ = ["Check", "Finding", "Severity"]

Severity = Literal["error", "warning", "hint"]


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found.

    code: a stable word. widget: its id. short: a few words for the lane. why: one sentence. advice: what to do.
    start, end: frames it is about, end not included; None where it is about the whole trace.
    variable: the variable it is about, or "".
    """

    code: str
    severity: Severity
    widget: str
    short: str
    why: str
    advice: str
    start: int | None = None
    end: int | None = None
    variable: str = ""


Check = Callable[[Tracks], Iterable[Finding]]
