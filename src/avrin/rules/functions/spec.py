"""Descriptions of functions: one entry gives the name, types, help, an example and the operator."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from msgspec import Struct

from avrin.rules.steps import Graph, Op, Step
from avrin.trace.frames import ColumnKind

__all__ = ["Build", "Function", "Param", "flag", "number", "text"]

ParamKind = ColumnKind | Literal["any"]
Build = Callable[[Graph, Sequence[Step]], Step]


class Param(Struct, frozen=True):
    """A parameter.

    default: used if the argument is omitted, a rule's text or an earlier parameter's name; None if it is required.
    integer: it must be a literal whole number. pattern: a literal text pattern.
    event: a literal event name; the function gets the event's count per frame. argument: the name of one of that
    event's arguments; the function gets the argument's values. many: one or more arguments.
    """

    name: str
    kind: ParamKind
    default: str | None = None
    integer: bool = False
    pattern: bool = False
    event: bool = False
    argument: bool = False
    many: bool = False


class Function(Struct, frozen=True):
    """A function. build: makes its step from checked arguments. example: a rule that uses it.

    result: its kind; "any" for the kind of its arguments.
    """

    name: str
    params: tuple[Param, ...]
    result: ParamKind
    help: str
    example: str
    build: Build

    @property
    def signature(self) -> str:
        """The signature for people: `clamp(x, lo, hi)`."""
        names = []
        for param in self.params:
            names.append(param.name if param.default is None else f"{param.name} = {param.default}")
            if param.many:
                names.append("…")
        return f"{self.name}({', '.join(names)})"

    @property
    def typed(self) -> str:
        """The kinds of arguments and result in words: `condition, number → condition`."""
        return f"{', '.join(TYPES[param.kind] for param in self.params)} → {TYPES[self.result]}"


TYPES: dict[ParamKind, str] = {"number": "number", "flag": "condition", "text": "text", "any": "any"}


def number(name: str, default: str | None = None, **more: bool) -> Param:
    """Return a number parameter."""
    return Param(name, "number", default, **more)


def flag(name: str) -> Param:
    """Return a condition parameter."""
    return Param(name, "flag")


def text(name: str, *, pattern: bool = False, event: bool = False, argument: bool = False) -> Param:
    """Return a text parameter."""
    return Param(name, "text", pattern=pattern, event=event, argument=argument)


def applies(op: Op, result: ColumnKind) -> Build:
    """Return a builder that applies `op` to all arguments."""
    return lambda graph, args: graph.add(op, args, result)


def repeats(op: Op) -> Build:
    """Return a builder that chains `op` over any number of arguments, from left to right."""

    def build(graph: Graph, args: Sequence[Step]) -> Step:
        step = args[0]
        for arg in args[1:]:
            step = graph.add(op, (step, arg), "number")
        return step

    return build
