"""Give a name in rules and texts another one, without touching anything else that is written there.

Works on words, not on the tree, so that a rule with a mistake in it follows as well. A roster's field is named without
its slot, `crew[].scrap`, and found in any slot.
"""

from __future__ import annotations

import re
from collections.abc import Callable

__all__ = ["renamed", "renamed_in_template"]

NAME = r"[^\W\d]\w*(?:\.[^\W\d]\w*)*"
# A text; or a name with the slot and field it may have, unless it is a function's.
WORD = re.compile(rf'"(?:\\.|[^"\\])*"|(?P<name>{NAME})(?P<slot>\s*\[[^\]]*\]\s*\.\s*(?P<field>{NAME}))?(?!\w|\s*\()')
SLOT = re.compile(r"(?P<roster>.+)\[(?P<slot>\d+)\]\.(?P<field>.+)")
VALUE = re.compile(r"\{\{|\}\}|\{(?P<rule>(?:\"(?:\\.|[^\"\\])*\"|[^{}|\"])*)")


def renamed(rule: str, old: str, new: str) -> str:
    """A rule in which the name `old` is `new`.

    old, new: variables or derived values; rosters, written `crew[]`; a roster's fields, written `crew[].scrap`, or those of one
    slot, `crew[2].scrap`. A variable may become a slot's field, and the other way round.
    """
    if exact := SLOT.fullmatch(old):
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
    """Whether a word is the field of the one slot."""
    if match["name"] != exact["roster"] or match["field"] != exact["field"]:
        return False
    written = match["slot"].partition("]")[0].strip(" [")
    return written.isdigit() and int(written) == int(exact["slot"])


def renamed_in_template(text: str, old: str, new: str) -> str:
    """The same in a text with values in it: only what stands in braces, before the pattern."""
    return _in_values(text, lambda rule: renamed(rule, old, new))


def _in_values(text: str, change: Callable[[str], str]) -> str:
    def value(match: re.Match[str]) -> str:
        return match[0] if match["rule"] is None else "{" + change(match["rule"])

    return VALUE.sub(value, text)
