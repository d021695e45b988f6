"""Build nodes while parsing, one method per grammar rule. It works bottom-up, so deep nesting cannot exhaust the stack."""

from __future__ import annotations

import json
import re
from typing import Any

from lark import Token, Transformer

from avrin.rules import nodes as n
from avrin.rules.errors import RuleError

__all__ = ["Builder"]

Part = Token | n.Node
UNITS = {"": 1.0, "%": 0.01, "ms": 0.001, "s": 1.0, "min": 60.0}


def _span(first: Part, last: Part) -> n.Span:
    return (_start(first), _end(last))


def _start(part: Part) -> int:
    return int((part.start_pos or 0) if isinstance(part, Token) else part.span[0])


def _end(part: Part) -> int:
    return int((part.end_pos or 0) if isinstance(part, Token) else part.span[1])


class Builder(Transformer[Token, n.Node]):
    """A Lark transformer: gets the children of each grammar rule and returns a node with its span."""

    def start(self, parts: list[Any]) -> n.Node:
        """The whole rule."""
        node: n.Node = parts[0]
        return node

    def choice(self, parts: list[Any]) -> n.Node:
        """`if` condition `then` this `else` that."""
        return n.Choice(_span(parts[0], parts[3]), parts[1], parts[2], parts[3])

    def otherwise(self, parts: list[Any]) -> n.Node:
        """A value and its fallback."""
        return n.Otherwise(_span(parts[0], parts[1]), parts[0], parts[1])

    def disjunction(self, parts: list[Any]) -> n.Node:
        """Conditions joined by `or`."""
        return n.Or(_span(parts[0], parts[-1]), tuple(parts))

    def conjunction(self, parts: list[Any]) -> n.Node:
        """Conditions joined by `and`."""
        return n.And(_span(parts[0], parts[-1]), tuple(parts))

    def inverse(self, parts: list[Any]) -> n.Node:
        """`not` and a condition."""
        return n.Not(_span(parts[0], parts[1]), parts[1])

    def comparison(self, parts: list[Any]) -> n.Node:
        """A chain of comparisons."""
        return n.Comparison(_span(parts[0], parts[-1]), parts[0], _pairs(parts))

    def within(self, parts: list[Any]) -> n.Node:
        """A value in a range."""
        return n.Within(_span(parts[0], parts[2]), *parts)

    def sum(self, parts: list[Any]) -> n.Node:  # the name used in the grammar
        """Terms."""
        return n.Arithmetic(_span(parts[0], parts[-1]), parts[0], _pairs(parts))

    def product(self, parts: list[Any]) -> n.Node:
        """Factors."""
        return self.sum(parts)

    def negative(self, parts: list[Any]) -> n.Node:
        """A sign before a value."""
        return n.Negative(_span(parts[0], parts[1]), parts[1])

    def number(self, parts: list[Token]) -> n.Node:
        """A number with its unit, in seconds or as a share. Raises RuleError if it is too large for a float."""
        span = _span(parts[0], parts[0])
        digits, unit = re.fullmatch(r"([\d.]+(?:[eE][+-]?\d+)?)(.*)", parts[0]).groups()  # type: ignore[union-attr]
        # Percent and milliseconds divide, which rounds once: 35% is the float nearest to 0.35.
        factor = UNITS[unit]
        value = float(digits) * factor if factor >= 1 else float(digits) / round(1 / factor)
        if value == float("inf"):
            raise RuleError("the number is too large", span, advice="Numbers end near 1.8e308")
        return n.Number(span, value, str(parts[0]))

    def text(self, parts: list[Token]) -> n.Node:
        """A text between quotes. Raises RuleError for an unknown escape sequence."""
        try:
            value = json.loads(parts[0], strict=False)
        except ValueError:
            raise RuleError(
                'a backslash in a text must be followed by ", \\, n or t',
                _span(parts[0], parts[0]),
                advice="Write \\\\ for one",
            ) from None
        return n.Text(_span(parts[0], parts[0]), value)

    def true(self, parts: list[Token]) -> n.Node:
        """The constant `true`."""
        return n.Flag(_span(parts[0], parts[0]), True)

    def false(self, parts: list[Token]) -> n.Node:
        """The constant `false`."""
        return n.Flag(_span(parts[0], parts[0]), False)

    def missing(self, parts: list[Token]) -> n.Node:
        """The constant `missing`."""
        return n.Missing(_span(parts[0], parts[0]))

    def name(self, parts: list[Token]) -> n.Node:
        """A variable, a derived value or a built-in name."""
        return n.Name(_span(parts[0], parts[0]), str(parts[0]))

    def field(self, parts: list[Token]) -> n.Node:
        """A roster's slot and field. Raises RuleError if the slot is not a whole number."""
        roster, slot, field = parts
        if not (slot.isdecimal() or slot in ("slot", "me")):
            raise RuleError(
                "a slot is a whole number, or one of the words `slot` and `me`",
                _span(slot, slot),
                advice=f"Write {roster}[0].{field}",
            )
        return n.Name(_span(roster, field), f"{roster}[{slot}].{field}")

    def call(self, parts: list[Any]) -> n.Node:
        """A function and its arguments; the last child is the closing bracket."""
        return n.Call(_span(parts[0], parts[-1]), str(parts[0]), tuple(parts[1:-1]))


def _pairs(parts: list[Any]) -> tuple[tuple[str, n.Node], ...]:
    return tuple((str(op), operand) for op, operand in zip(parts[1::2], parts[2::2], strict=True))
