"""Parse rule text to a tree (first stage: parse -> check -> scan), with errors that say what to write instead.

Parsing a hundred rules takes longer than the window may take to open, so trees are cached in memory and in
the user's cache.
"""

from __future__ import annotations

import functools
import re
from pathlib import Path
from typing import TYPE_CHECKING

from avrin.rules.errors import RuleError
from avrin.rules.nodes import Node, children
from avrin.storage.cache import code_stamp
from avrin.trace.result_cache import ResultCache

if TYPE_CHECKING:
    from lark import Lark
    from lark.exceptions import UnexpectedInput

__all__ = ["MOST_CHARACTERS", "MOST_DEEP", "parse"]

MOST_CHARACTERS = 4000
MOST_DEEP = 100


def parse(text: str) -> Node:
    """Return the tree of a rule. Raises RuleError at the first character that cannot be parsed."""
    if not text.strip():
        raise RuleError("the rule is empty", (0, len(text)), advice="Write a variable's name or a value")
    if len(text) > MOST_CHARACTERS:
        raise RuleError(
            f"a rule may have {MOST_CHARACTERS:,} characters, this one has {len(text):,}",
            (MOST_CHARACTERS, len(text)),
            advice="Move parts of it into derived values",
        )
    trees = _trees()
    return trees.get(text) or trees.put(text, _parsed(text))


@functools.cache
def _trees() -> ResultCache[Node]:
    stamp = code_stamp("rules/parse.py", "rules/build.py", "rules/nodes.py", "rules/grammar.lark")
    return ResultCache("rules", stamp, Node)


def _parsed(text: str) -> Node:
    from lark.exceptions import UnexpectedInput, VisitError  # late: 28 ms

    try:
        node: Node = _lark().parse(text)  # type: ignore[assignment]  # the builder makes nodes, not lark's trees
    except UnexpectedInput as error:
        raise _explained(error, text) from None
    except VisitError as error:
        if isinstance(error.orig_exc, RuleError):
            raise error.orig_exc from None
        raise
    _check_depth(node)
    return node


def _check_depth(node: Node) -> None:
    waiting = [(node, 1)]
    while waiting:
        part, depth = waiting.pop()
        if depth > MOST_DEEP:
            raise RuleError(
                f"the rule is nested more than {MOST_DEEP} deep",
                part.span,
                advice="Move parts of it into derived values",
            )
        waiting.extend((child, depth + 1) for child in children(part))


@functools.cache
def _grammar() -> str:
    return Path(__file__).with_name("grammar.lark").read_text("utf-8")


@functools.cache
def _lark() -> Lark:
    from lark import Lark  # late: 31 ms

    from avrin.rules.build import Builder

    return Lark(_grammar(), parser="lalr", transformer=Builder())


# -- errors ---------------------------------------------------------------------------------------------------------

# Syntax of other languages, and its equivalent here.
HABITS = [
    (r"&&?", "write `and`"),
    (r"\|\|?", "write `or`"),
    (r"!", "write `not`, or `!=` for unequal"),
    (r"=", "write `==` to compare"),
    (r"'", 'put texts between double quotes: "low"'),
    (r"\?", "write `if condition then this else that`"),
    (r"%", "write `mod(a, b)` for the remainder; `25%` is a share"),
    (r"\*\*|\^", "there is no power operator; multiply instead"),
    (r"\{|\}", "braces are for texts such as a label's"),
    (r";", "a rule is one formula"),
    (r'"', "the text is not closed: add a double quote"),
    (r"\.", "write a digit before the point: 0.5"),
]
OPERANDS = {"NUMBER", "NAME", "TEXT"}


def _explained(error: UnexpectedInput, text: str) -> RuleError:
    from lark.exceptions import UnexpectedToken  # late: 37 ms

    position: int | None = error.pos_in_stream
    at = position if position is not None and position >= 0 else len(text)
    expected: set[str] = set(getattr(error, "expected", None) or getattr(error, "allowed", None) or ())
    token = error.token if isinstance(error, UnexpectedToken) else None
    if token is not None and token.type == "$END":
        end = len(text.rstrip())
        if (opened := _open_bracket(text)) is not None:
            return RuleError(
                f"the bracket at column {opened + 1} is not closed", (opened, opened + 1), advice="Add `)`"
            )
        wanted = next((word for word in ("then", "else") if word.upper() in expected), None)
        return RuleError(
            f"`{wanted}` is missing" if wanted and not expected & OPERANDS else "the rule ends too early",
            (end, end + 1),
            advice=f"Continue with `{wanted} …`" if wanted else "Expected a value here",
        )
    found = str(token) if token is not None else text[at]
    span = (at, at + max(1, len(found)))
    for pattern, advice in HABITS:
        if re.match(pattern, text[at:]):
            return RuleError(f"`{found}` is not part of the language", span, advice=advice[0].upper() + advice[1:])
    if token is None:
        return RuleError(f"the character `{found}` is not part of the language", span, advice="Remove it")
    if found == ")" and _open_bracket(text[:at]) is None:
        return RuleError("this bracket has no opening bracket", span, advice="Remove it")
    if expected & OPERANDS:
        return RuleError(f"expected a value before `{found}`", span, advice="Write a name, a number or a text")
    begun = re.findall(r"\b(if|then|else)\b", text[:at])
    word = {"if": "then", "then": "else"}.get(begun[-1]) if begun else None
    return RuleError(
        f"`{found}` cannot follow here",
        span,
        advice=f"Expected an operator or `{word}`" if word else "Expected an operator such as + or <, or the end",
    )


def _open_bracket(text: str) -> int | None:
    """Return the position of the innermost bracket that is never closed."""
    opened: list[int] = []
    for match in re.finditer(r'"(?:\\.|[^"\\])*"|[()]', text):
        if match[0] == "(":
            opened.append(match.start())
        elif match[0] == ")" and opened:
            opened.pop()
    return opened[-1] if opened else None
