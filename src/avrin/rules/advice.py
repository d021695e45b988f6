"""What to do about an error in a rule that uses Avrin's own words. Those of other languages: `avrin.rules.foreign_words`."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from avrin.errors import nearest
from avrin.rules import nodes as n
from avrin.rules.errors import RuleError
from avrin.rules.steps import Step
from avrin.trace.frames import ColumnKind

__all__ = ["WITHOUT_SLOT", "WORDS", "conversion_advice", "kinds_advice", "unknown_name"]

WORDS: dict[str, str] = {"number": "a number", "flag": "a condition", "text": "a text", "any": "missing"}

# A word for a slot, and what to say where it stands for none.
WITHOUT_SLOT = (
    (
        "slot", "`slot` works only in a widget repeated over a roster, or on a split screen",
        "Write the slot's number",
    ),
    (
        "me", "`me` is the player whose HUD it is, but the project names no players",
        "Choose a roster as the project's players (Ctrl+I)",
    ),
)  # fmt: skip


def kinds_advice(first: ColumnKind, second: ColumnKind, *, placeholder: bool) -> str:
    """Return advice if two values must have the same kind. placeholder: the second replaces a missing first."""
    if placeholder and (first, second) == ("number", "text"):
        return 'Write a number, or make the first a text: text(x, "0") otherwise "###". A placeholder is chosen on the card'
    return f"Expected {WORDS[first]} here too"


def unknown_name(what: str, name: str, span: n.Span, names: Mapping[str, Any]) -> RuleError:
    """Return the error of a name that is none of those known. what: what was to be named."""
    close = nearest(name, names)
    return RuleError(
        f'no {what} "{name}"' + (f': did you mean "{close}"?' if close else ""),
        span,
        advice="" if close else f"There are {', '.join(names)}" if names else "None is known",
        sort="name",
        instead=f'"{close}"' if close else "",
    )


def conversion_advice(wanted: ColumnKind, step: Step) -> str:
    """Return how to make a value the kind that is expected."""
    names = step.params if step.op.name == "column" else ("it",)
    if wanted == "flag":
        return f"Compare it: {names[0]} > 0" if step.kind == "number" else f'Compare it: {names[0]} == "…"'
    if wanted == "number":
        return (
            f"Write `if {names[0]} then 1 else 0`"
            if step.kind == "flag"
            else "A text has no numeric value; length(x) has"
        )
    return 'Write text(x, "0")' if step.kind == "number" else 'Write `if c then "yes" else "no"`'
