"""Parts of a field's text: the sub-expression under a character, the word before the caret."""

from __future__ import annotations

import re

from msgspec import Struct

from avrin.project.reserved_words import JOINING_WORDS
from avrin.rules import nodes as n
from avrin.rules.errors import RuleError
from avrin.rules.parse import parse
from avrin.rules.template import split_template

__all__ = ["Written", "part_at", "word_before"]

BRACKETS = re.compile(r'"(?:\\.|[^"\\])*"|[()]')
JOINED = re.compile(rf"\b({'|'.join(JOINING_WORDS)})\s+$")
WORD = re.compile(r"(?<![\w.])[^\W\d][\w.]*(?:\[\w*\]?\.?[\w.]*)?$")


class Written(Struct, frozen=True):
    """A range of a field's text that is a rule of its own. start, end: characters, counted from 0."""

    start: int
    end: int
    rule: str


def part_at(text: str, at: int, *, template: bool = False) -> Written | None:
    """Return the smallest sub-expression around a character; None if there is none or the rule does not parse.

    template: whether the text holds rules only in braces.
    """
    try:
        if template:
            for piece in split_template(text):
                if piece.rule is not None and piece.at <= at < piece.at + len(piece.rule):
                    return _moved(_innermost(piece.rule, at - piece.at), piece.at)
            return None
        return _innermost(text, at)
    except RuleError:
        return None


def _innermost(rule: str, at: int) -> Written | None:
    node: n.Node | None = parse(rule)
    found: n.Node | None = None
    while node is not None and node.span[0] <= at < node.span[1]:
        found = node
        node = next((c for c in n.children(node) if c.span[0] <= at < c.span[1]), None)
    if found is None:
        return None
    start, end = _bracketed(rule, *found.span)
    return Written(start, end, rule[start:end])


def _bracketed(rule: str, start: int, end: int) -> tuple[int, int]:
    """Extend a range to the brackets around its parts, which spans exclude."""
    opened = closed = 0
    for match in BRACKETS.finditer(rule, start, end):
        if match[0] == "(":
            opened += 1
        elif match[0] == ")":
            opened, closed = (opened - 1, closed) if opened else (0, closed + 1)
    for match in BRACKETS.finditer(rule, end):
        if not opened:
            break
        if match[0] == ")":
            opened, end = opened - 1, match.end()
    for at in range(start - 1, -1, -1):
        if not closed:
            break
        if rule[at] == "(":
            closed, start = closed - 1, at
    return start, end


def _moved(part: Written | None, by: int) -> Written | None:
    return Written(part.start + by, part.end + by, part.rule) if part is not None else None


def word_before(text: str, at: int, *, template: bool = False) -> str | None:
    """Return the start of the name before a caret, "" if a name could begin there; None if it cannot.

    Names cannot be in a text, after a pattern's `|` or, in a template, outside braces. An icon's name begins with @.
    """
    before = text[:at]
    if template:
        opened = before.rfind("{")
        if opened < 0 or "}" in before[opened:] or before[: opened + 1].endswith("{{") or "|" in before[opened:]:
            return None
        before = before[opened + 1 :]
        if before.startswith("@"):
            return None if re.search(r"\s", before) else before
    if re.sub(r'"(?:\\.|[^"\\])*"', "", before).count('"'):
        return None
    found = WORD.search(before)
    if found is not None:
        return found[0]
    return None if re.search(r"[\w)\]]\s*$", before) and not JOINED.search(before) else ""
