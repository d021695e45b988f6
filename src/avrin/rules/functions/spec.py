"""How a function of the language is described: one entry says its name, types, help, an example and its operator."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from msgspec import Struct

from avrin.rules.steps import Graph, Op, Step
from avrin.trace import ColumnKind

__all__ = ["Function", "Param", "flag", "number", "text"]

ParamKind = ColumnKind | Literal["any"]
Build = Callable[[Graph, Sequence[Step]], Step]


class Param(Struct, frozen=True):
    """One argument.

    default: what stands in when it is left out, a rule's text or an earlier argument's name; None if it may not be.
    whole: it must be written as a whole number that never changes. pattern: a text pattern, written out likewise.
    event: an event's name, written out. argument: the name of one of that event's arguments; the function gets its
    values. many: one or more of it.
    """

    name: str
    kind: ParamKind
    default: str | None = None
    whole: bool = False
    pattern: bool = False
    event: bool = False
    argument: bool = False
    many: bool = False


class Function(Struct, frozen=True):
    """A function. build: makes its step from checked arguments. example: a rule that shows it.

    result: "any" where it has the kind of one of the arguments.
    """

    name: str
    params: tuple[Param, ...]
    result: ParamKind
    help: str
    example: str
    build: Build

    @property
    def signature(self) -> str:
        """As people read it: `clamp(x, lo, hi)`."""
        names = []
        for param in self.params:
            names.append(param.name if param.default is None else f"{param.name} = {param.default}")
            if param.many:
                names.append("…")
        return f"{self.name}({', '.join(names)})"

    @property
    def typed(self) -> str:
        """What goes in and what comes out, in words: `condition, number → condition`."""
        return f"{', '.join(TYPES[param.kind] for param in self.params)} → {TYPES[self.result]}"


TYPES: dict[ParamKind, str] = {"number": "number", "flag": "condition", "text": "text", "any": "any"}


def number(name: str, default: str | None = None, **more: bool) -> Param:
    """A number argument."""
    return Param(name, "number", default, **more)


def flag(name: str) -> Param:
    """A condition."""
    return Param(name, "flag")


def text(name: str, *, pattern: bool = False, event: bool = False, argument: bool = False) -> Param:
    """A text argument."""
    return Param(name, "text", pattern=pattern, event=event, argument=argument)


def applies(op: Op, result: ColumnKind) -> Build:
    """Build the step that applies `op` to all arguments as they are."""
    return lambda graph, args: graph.add(op, args, result)


def repeats(op: Op) -> Build:
    """Build a chain of `op` over any number of arguments, from left to right."""

    def build(graph: Graph, args: Sequence[Step]) -> Step:
        step = args[0]
        for arg in args[1:]:
            step = graph.add(op, (step, arg), "number")
        return step

    return build
