"""Read an action from one line: `Hit H hull -20` is an action Hit with the key H that takes 20 from hull."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping

from avrin.errors import AvrinError, nearest
from avrin.project.project import Action, Assignment, Variable
from avrin.trace.frames import KIND_OF

__all__ = ["action_line", "parse_action"]

KEY = re.compile(r"[A-Za-z0-9]|F\d{1,2}|(?:(?:Ctrl|Alt|Shift)\+)+\S+")
CHANGE = re.compile(r"(?P<sign>[-+−])\s*(?P<by>\d+(?:[.,]\d+)?)")
FLAGS = {"on": "true", "yes": "true", "true": "true", "off": "false", "no": "false", "false": "false"}
MAX_LETTERS = 60  # letters of a label
EXAMPLE = "Write for example: Hit H hull -20"


def parse_action(text: str, variables: Mapping[str, Variable], labels: Collection[str] = ()) -> Action:
    """Parse a line: a label, a key, a variable and what happens to it; label, key and change may be left out.

    The change is `-20` or `+5`, `= 50` or any rule, `on` or `off` for a condition; without one a number falls by 1 and a
    condition turns round. labels: those in use. Raises AvrinError if no variable is named, or the label is used already.
    """
    words = text.split()
    at = _variable_at(words, variables)
    if at is None:
        close = next((found for word in words if len(word) > 2 and (found := nearest(word, variables))), "")
        raise AvrinError("no variable is named" + (f": did you mean '{close}'?" if close else ""), advice=EXAMPLE)
    variable, before, change = words[at], words[:at], " ".join(words[at + 1 :])
    # One word alone is a label, such as A, but for a figure, which nobody means as one.
    last = before[-1] if before else ""
    key = before.pop() if (len(before) > 1 or last.isdigit()) and KEY.fullmatch(last) else ""
    label = " ".join(before) or f"{variable} {change}".strip()
    if label in labels:
        raise AvrinError(f"there is an action '{label}' already", advice="Give it another label")
    if len(label) > MAX_LETTERS:
        raise AvrinError(f"a label has 1 to {MAX_LETTERS} letters", advice=EXAMPLE)
    return Action(
        label=label,
        key=key.upper() if len(key) == 1 else key,
        does=(_assignment(variables[variable], variable, change),),
    )


def _variable_at(words: list[str], variables: Collection[str]) -> int | None:
    """Return the index of the variable that is set: the one before `=`, else the last one with a plain change, else the first."""
    named = [i for i, word in enumerate(words) if word in variables]
    if "=" in words and (equal := words.index("=") - 1) in named:
        return equal
    for i in reversed(named):
        rest = " ".join(words[i + 1 :])
        if not rest or CHANGE.fullmatch(rest) or rest.lower() in FLAGS:
            return i
    return named[0] if named else None


def action_line(label: str, key: str, variable: str, kind: str) -> str:
    """Return a line to begin with. kind: of the variable, as rules know it."""
    change = {"number": "-1", "flag": "", "text": '= "…"'}.get(kind, "")
    return " ".join(part for part in (label, key, variable, change) if part)


def _assignment(variable: Variable, name: str, change: str) -> Assignment:
    kind = KIND_OF[variable.type]
    step = CHANGE.fullmatch(change)
    if step is not None and kind == "number":
        sign = "+" if step["sign"] == "+" else "-"
        return Assignment(set=name, to=f"{name} {sign} {step['by'].replace(',', '.')}")
    if change.startswith("=") and not change.startswith("=="):
        change = change[1:].strip()
    if kind == "flag" and change.lower() in FLAGS:
        return Assignment(set=name, to=FLAGS[change.lower()])
    usual = {"number": f"{name} - 1", "flag": f"not {name}", "text": '""'}[kind]
    return Assignment(set=name, to=change or usual)
