"""What a widget kind is: its inputs, options and look as data, how it makes its track, how a state becomes shapes.

A kind is one module with one `KIND`. Everything that lists kinds or their fields reads it from there.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from msgspec import Struct

from avrin.model import Project, Variable, Widget
from avrin.rules import Graph, Step
from avrin.trace import Value
from avrin.widgets.look import Look
from avrin.widgets.shapes import Measure, Shape

__all__ = [
    "COMMON_INPUTS",
    "Drawing",
    "Input",
    "InputKind",
    "Kind",
    "State",
    "Wired",
    "Wiring",
    "plain_id",
    "plain_title",
]

InputKind = Literal["number", "flag", "template"]
State = Mapping[str, Value]  # track column after "ID." -> value at one frame


@dataclass(frozen=True, slots=True)
class Input:
    """What a widget takes in. default: the rule when none is given; None means the input may stay empty.

    needed: the widget says nothing without it.
    """

    name: str
    kind: InputKind
    help: str
    default: str | None = None
    needed: bool = False


COMMON_INPUTS = (
    Input("visible", "flag", "Whether it is drawn; missing counts as no.", "true"),
    Input("opacity", "number", "From 0, not to be seen, to 1.", "1"),
)


def plain_id(name: str) -> str:
    """A variable's name as part of an id: `crew[0].scrap` is crew_0_scrap."""
    return re.sub(r"\W+", "_", name).strip("_")


def plain_title(name: str) -> str:
    """A variable's last name as people say it: `tank.air_left` is "Air left"."""
    return name.rsplit(".", maxsplit=1)[-1].replace("_", " ").capitalize()


@dataclass(frozen=True, slots=True)
class Wiring:
    """What a kind makes its track from. inputs: a step for each input that has a rule or a default."""

    graph: Graph
    inputs: Mapping[str, Step]
    options: Any
    placeholder: str

    def get(self, name: str) -> Step | None:
        """The input's step, None where it is empty."""
        return self.inputs.get(name)

    def __getitem__(self, name: str) -> Step:
        return self.inputs[name]


@dataclass(frozen=True, slots=True)
class Wired:
    """A kind's track. columns: what the track tells, in order. drawn: further values only the drawing needs.

    level: what bands compare, None for a kind without.
    """

    columns: Mapping[str, Step]
    level: Step | None = None
    drawn: Mapping[str, Step] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Drawing:
    """What a kind draws from. width, height: of its box in reference pixels; shapes start at its upper left corner."""

    state: State
    width: float
    height: float
    options: Any
    look: Any
    measure: Measure
    placeholder: str


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of widget.

    offer: a complete widget for a variable, or None where the kind does not suit it; gets the project it is for.
    thumb: the box it is drawn in where it must be small, in reference pixels; None for its own.
    """

    name: str
    help: str
    inputs: tuple[Input, ...]
    options: type[Struct]
    look: type[Look]
    wire: Callable[[Wiring], Wired]
    shapes: Callable[[Drawing], tuple[Shape, ...]]
    offer: Callable[[Variable, Project], Widget | None]
    thumb: tuple[float, float] | None = None

    def all_inputs(self) -> tuple[Input, ...]:
        """Its own inputs, then those all kinds have."""
        return (*self.inputs, *COMMON_INPUTS)
