"""The syntax tree of a rule. Every node has a `span`: its first character and the one after its last.

Chains of equal precedence (`a + b - c`, `0 < x <= 5`) are one node with a list, so tree depth is real nesting.
"""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

__all__ = [
    "And", "Arithmetic", "Call", "Choice", "Comparison", "Flag", "Missing", "Name", "Negative", "Node", "Not", "Number",
    "Or", "Otherwise", "Span", "Text", "Within", "children",
]  # fmt: skip

Span = tuple[int, int]


class Number(Struct, frozen=True, tag=True):
    """A number; `source` is its spelling, including the unit."""

    span: Span
    value: float
    source: str


class Text(Struct, frozen=True, tag=True):
    """A text between quotes."""

    span: Span
    value: str


class Flag(Struct, frozen=True, tag=True):
    """`true` or `false`."""

    span: Span
    value: bool


class Missing(Struct, frozen=True, tag=True):
    """The word `missing`."""

    span: Span


class Name(Struct, frozen=True, tag=True):
    """A variable or derived value; a roster's field as `crew[1].scrap` or `crew[slot].scrap`."""

    span: Span
    name: str


class Negative(Struct, frozen=True, tag=True):
    """`-x`."""

    span: Span
    operand: Node


class Not(Struct, frozen=True, tag=True):
    """`not c`."""

    span: Span
    operand: Node


class And(Struct, frozen=True, tag=True):
    """`a and b and …`."""

    span: Span
    operands: tuple[Node, ...]


class Or(Struct, frozen=True, tag=True):
    """`a or b or …`."""

    span: Span
    operands: tuple[Node, ...]


class Arithmetic(Struct, frozen=True, tag=True):
    """`first op operand op operand …` with operators of equal precedence."""

    span: Span
    first: Node
    rest: tuple[tuple[str, Node], ...]


class Comparison(Struct, frozen=True, tag=True):
    """`first op operand op operand …`: every adjacent pair must hold."""

    span: Span
    first: Node
    rest: tuple[tuple[str, Node], ...]


class Within(Struct, frozen=True, tag=True):
    """`x in low..high`, both ends inclusive."""

    span: Span
    operand: Node
    low: Node
    high: Node


class Otherwise(Struct, frozen=True, tag=True):
    """`a otherwise b`: b if a is missing."""

    span: Span
    first: Node
    second: Node


class Choice(Struct, frozen=True, tag=True):
    """`if c then a else b`."""

    span: Span
    condition: Node
    then: Node
    other: Node


class Call(Struct, frozen=True, tag=True):
    """`function(arguments)`."""

    span: Span
    function: str
    arguments: tuple[Node, ...]


Node = (
    Number | Text | Flag | Missing | Name | Negative | Not | And | Or | Arithmetic | Comparison | Within | Otherwise
    | Choice | Call
)  # fmt: skip


def children(node: Node) -> Iterator[Node]:
    """Yield the direct children, from left to right."""
    match node:
        case Negative(operand=operand) | Not(operand=operand):
            yield operand
        case And(operands=operands) | Or(operands=operands) | Call(arguments=operands):
            yield from operands
        case Arithmetic(first=first, rest=rest) | Comparison(first=first, rest=rest):
            yield first
            yield from (operand for _, operand in rest)
        case Within(operand=operand, low=low, high=high):
            yield from (operand, low, high)
        case Otherwise(first=first, second=second):
            yield from (first, second)
        case Choice(condition=condition, then=then, other=other):
            yield from (condition, then, other)
        case _:
            pass
