"""What the results of tuning mean, in sentences for people."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from avrin.project.numbers import counted
from avrin.tuning.apply_limit import duration_text, limit_text
from avrin.tuning.curves import Curves, Terms, curves, outcomes_at
from avrin.tuning.goals import hard
from avrin.tuning.signals import Question, Signal

__all__ = ["band_label", "band_sentence", "minutes_of", "nearest_sentence"]


def minutes_of(signals: Sequence[Signal], recording: int | None = None) -> float:
    """Return the duration of all recordings, or of the one with this index."""
    seconds = {
        signal.recording: float(signal.t[-1] - signal.t[0])
        for signal in signals
        if len(signal.t) and recording in (None, signal.recording)
    }
    return sum(seconds.values()) / 60


def band_label(value: float, question: Question, written: Question, *, share: bool) -> str:
    """Return a limit, and how the band would differ from the one in the project: "20 %, back at 30 %, held for 1s".

    question: as tried. written: as in the project.
    """
    label = limit_text(value, share=share)
    if (question.gap, question.sticky) != (written.gap, written.sticky):
        back = value + question.gap if question.gap is not None else value
        label += f", back at {limit_text(back, share=share)}" if question.sticky else ", back at once"
    if question.held != written.held:
        label += f", held for {duration_text(question.held)}" if question.held else ", at once"
    return label


def band_sentence(label: str, signals: Sequence[Signal], question: Question, value: float, terms: Terms) -> str:
    """Return what a band would warn of at a limit. label: of that band."""
    at = curves(signals, question, np.array([value]), terms)
    outcomes, warned, late, missed = (int(getattr(at, name)[0]) for name in ("outcomes", "warned", "late", "missed"))
    more = "".join(f", {count} {what}" for count, what in ((late, "late"), (missed, "not at all")) if count)
    again = int(at.again[0])
    return (
        f"At {label} {warned} of {outcomes} are warned {terms.lead:g} s ahead{more}; "
        f"{counted(int(at.false[0]), 'false alarm')} in {minutes_of(signals):.0f} minutes; "
        f"it is on for {float(at.share_on[0]):.0%} of all play"
        + (f"; {counted(again, 'time')} it repeats at once." if again else ".")
    )


def nearest_sentence(
    found: Curves, at: int, signals: Sequence[Signal], question: Question, terms: Terms, *, share: bool
) -> str:
    """Return that no limit meets the goal, the nearest one, and why none can. at: the nearest limit's index."""
    value = float(found.value[at])
    return (
        f"No limit meets the goal; the nearest is {limit_text(value, share=share)}: {int(found.warned[at])} of "
        f"{int(found.outcomes[at])}, {int(found.false[at])} false."
        + _reason(signals, question, value, terms, share=share)
    )


def _reason(signals: Sequence[Signal], question: Question, value: float, terms: Terms, *, share: bool) -> str:
    """Return why a limit misses outcomes; "" for several reasons."""
    why = hard(signals, question, value, outcomes_at(signals, question, value), terms)
    if why is None:
        return ""
    each = "the one it misses" if why.count == 1 else f"each of the {why.count} it misses"
    side, level = "above" if question.below else "below", limit_text(why.level, share=share)
    if why.at_once:
        return f"  {each.capitalize()} comes in a single step from {side} {level}."
    return f"  {terms.lead:g} s ahead of {each} it was still {side} {level}."
