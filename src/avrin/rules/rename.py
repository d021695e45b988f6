"""Rename names in rules and templates without touching anything else in them.

Works on words rather than the tree, so rules with errors are renamed too. A roster's field is written without
its slot, `crew[].scrap`, and matches any slot.
"""

from __future__ import annotations

import re
from collections.abc import Callable

__all__ = ["names_it", "renamed", "renamed_in_template"]

NAME = r"[^\W\d]\w*(?:\.[^\W\d]\w*)*"
# A quoted text, or a name with an optional slot and field that is not a function's.
WORD = re.compile(rf'"(?:\\.|[^"\\])*"|(?P<name>{NAME})(?P<slot>\s*\[[^\]]*\]\s*\.\s*(?P<field>{NAME}))?(?!\w|\s*\()')
SLOT_PATTERN = re.compile(r"(?P<roster>.+)\[(?P<slot>\d+)\]\.(?P<field>.+)")
VALUE = re.compile(r"\{\{|\}\}|\{(?P<rule>(?:\"(?:\\.|[^\"\\])*\"|[^{}|\"])*)")


def names_it(name: str, text: str) -> bool:
    """Return whether a rule or template names a variable or a roster."""
    return re.search(rf"(?<![\w.]){re.escape(name)}(?!\w)", text) is not None


def renamed(rule: str, old: str, new: str) -> str:
    """Return a rule with the name `old` replaced by `new`.

    old, new: a variable or derived value; a roster, `crew[]`; a roster's field, `crew[].scrap`, or one slot's,
    `crew[2].scrap`. A variable can become a slot's field and vice versa.
    """
    if exact := SLOT_PATTERN.fullmatch(old):
        return WORD.sub(lambda match: new if _is_slot(match, exact) else match[0], rule)
    roster, bracket, field = old.partition("[]")
    field = field.removeprefix(".")
    other, _, other_field = new.partition("[]")
    other_field = other_field.removeprefix(".")

    def word(match: re.Match[str]) -> str:
        if match["name"] is None or match["name"] != roster or bool(match["slot"]) is not bool(bracket):
            return match[0]
        if not bracket:
            return new
        if field and match["field"] != field:
            return match[0]
        slot = match["slot"]
        return other + (slot[: len(slot) - len(match["field"])] + (other_field if field else match["field"]))

    return WORD.sub(word, rule)


def _is_slot(match: re.Match[str], exact: re.Match[str]) -> bool:
    """Return whether a word is the field of that one slot."""
    if match["name"] != exact["roster"] or match["field"] != exact["field"]:
        return False
    written = match["slot"].partition("]")[0].strip(" [")
    return written.isdigit() and int(written) == int(exact["slot"])


def renamed_in_template(text: str, old: str, new: str) -> str:
    """Do the same in a template: only inside braces, before the pattern."""
    return _in_values(text, lambda rule: renamed(rule, old, new))


def _in_values(text: str, change: Callable[[str], str]) -> str:
    def value(match: re.Match[str]) -> str:
        return match[0] if match["rule"] is None else "{" + change(match["rule"])

    return VALUE.sub(value, text)
