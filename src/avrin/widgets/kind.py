"""What a widget kind is: its inputs, options and look as data, how it makes its track, how a state becomes shapes.

A kind is one module with one `KIND`. Everything that lists kinds or their fields reads it from there.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, Protocol

from msgspec import Struct

from avrin.model import Project, Roster, Variable, VariableType, Widget
from avrin.rules import Events, Graph, Step
from avrin.trace import ColumnKind, Value
from avrin.widgets.look import Look
from avrin.widgets.shapes import Measure, Shape

__all__ = [
    "COMMON_INPUTS",
    "Compiler",
    "Drawing",
    "Input",
    "InputKind",
    "Kind",
    "Peer",
    "State",
    "Wired",
    "Wiring",
    "no_offer",
    "plain_id",
    "plain_title",
]

InputKind = Literal["number", "flag", "text", "template"]
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
class Peer:
    """Another widget of the same kind: what kinds look at whose widgets take turns."""

    ident: str
    options: Any
    inputs: Mapping[str, Step]


class Compiler(Protocol):
    """Makes steps of rules that stand in options. where: their place there, such as "columns.0.text".

    A rule with an error gives a step that is missing throughout; the error is kept at its place.
    """

    rosters: Mapping[str, Roster]
    events: Events
    variables: Mapping[str, VariableType]

    def rule(self, where: str, text: str, kind: ColumnKind, *, slot: int | None = None) -> Step:
        """A rule; `slot` means that slot of a roster."""
        ...

    def template(
        self,
        where: str,
        text: str,
        *,
        slot: int | None = None,
        names: Mapping[str, tuple[str, ColumnKind]] | None = None,
    ) -> Step:
        """A text with values. names: further ones it may use, each with the column it stands for and that one's kind."""
        ...

    def wrong(self, where: str, problem: str, advice: str = "") -> None:
        """Tell a mistake in an option that is no rule's."""
        ...

    def peers(self) -> Sequence[Peer]:
        """All widgets of this kind, this one among them, in the project's order."""
        ...


@dataclass(frozen=True, slots=True)
class Wiring:
    """What a kind makes its track from. inputs: a step for each input that has a rule or a default."""

    ident: str
    graph: Graph
    inputs: Mapping[str, Step]
    options: Any
    placeholder: str
    compile: Compiler

    def get(self, name: str) -> Step | None:
        """The input's step, None where it is empty."""
        return self.inputs.get(name)

    def __getitem__(self, name: str) -> Step:
        return self.inputs[name]


@dataclass(frozen=True, slots=True)
class Wired:
    """A kind's track. columns: what the track tells, in order. drawn: further values only the drawing needs.

    level: what bands compare, None for a kind without. shows: a condition of the kind's own to be visible at all.
    after_band: further columns that depend on the band, made from its step.
    """

    columns: Mapping[str, Step]
    level: Step | None = None
    drawn: Mapping[str, Step] = field(default_factory=dict)
    shows: Step | None = None
    after_band: Mapping[str, Callable[[Step], Step]] = field(default_factory=dict)


class Drawing(Struct, frozen=True):
    """What a kind draws from. width, height: of its box in reference pixels; shapes start at its upper left corner.

    clock: seconds of the trace, for what moves by itself. folder: where assets lie. screen: x, y, width and height of
    the whole screen as seen from the widget's corner, None where it is drawn alone. hot: "hover" or "held" under a pointer.
    """

    state: State
    width: float
    height: float
    options: Any
    look: Any
    measure: Measure
    placeholder: str
    clock: float = 0.0
    folder: Path = Path()
    screen: tuple[float, float, float, float] | None = None
    hot: str = ""


def no_rules(_options: Mapping[str, Any]) -> Iterable[tuple[str, bool]]:
    """Options in which no rules stand."""
    return ()


def no_offer(_variable: Variable, _project: Project) -> Widget | None:
    """A kind that no single variable asks for."""
    return None


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of widget.

    offer: a complete widget for a variable, or None where the kind does not suit it; gets the project it is for.
    thumb: the box it is drawn in where it must be small, in reference pixels; None for its own.
    rules: places in raw options at which rules stand, each with whether it is a text with values.
    social: its track depends on other widgets of the kind.
    moves: its shapes follow the clock and not the state alone.
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
    rules: Callable[[Mapping[str, Any]], Iterable[tuple[str, bool]]] = no_rules
    social: bool = False
    moves: bool = False

    def all_inputs(self) -> tuple[Input, ...]:
        """Its own inputs, then those all kinds have."""
        return (*self.inputs, *COMMON_INPUTS)
