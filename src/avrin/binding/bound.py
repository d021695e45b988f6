"""A project ready for evaluation: the steps of every widget, and the errors of every rule by place."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from avrin.binding.places import RulePlace, place_words
from avrin.errors import AvrinError
from avrin.kinds.bands import Threshold
from avrin.kinds.kind import Kind
from avrin.kinds.look import Look
from avrin.kinds.states import BROKEN, SHOWING
from avrin.project.project import (
    Project,
    Widget,
)
from avrin.rules.check import Events, Scope
from avrin.rules.language import Language
from avrin.rules.steps import Graph, Step
from avrin.trace.frames import Value

__all__ = ["Bound", "BoundWidget"]


class BoundWidget(Struct, frozen=True):
    """A widget ready for evaluation.

    columns: track columns in order, "visible" and "band" first, "presence" and "pop" last if it has transitions
    or pops. drawn: further values needed for drawing.
    thresholds: of each band. state: its state word (`avrin.kinds.states`).
    slot: of the roster it is repeated over.
    has_icons: whether its texts may contain icons.
    copies: those of the other slots; a repeated widget is itself the copy of slot 0.
    """

    widget: Widget
    kind: Kind
    options: Any
    looks: Mapping[str, Look]
    inputs: Mapping[str, Step]
    columns: Mapping[str, Step]
    drawn: Mapping[str, Step]
    level: Step | None
    thresholds: Mapping[str, Threshold]
    state: Step
    slot: int = 0
    has_icons: bool = False
    copies: tuple[BoundWidget, ...] = ()

    def steps(self) -> tuple[Step, ...]:
        """All steps to evaluate over a trace."""
        level = (self.level,) if self.level is not None else ()
        more = tuple(step for copy in self.copies for step in copy.steps())
        return (*self.columns.values(), *self.drawn.values(), *self.inputs.values(), self.state, *level, *more)

    @property
    def moves(self) -> bool:
        """Whether its picture changes with time alone."""
        return self.kind.moves or any(look.flash for look in self.looks.values())

    @property
    def presses(self) -> tuple[tuple[str, Step], ...]:
        """The assignments a press makes: variable names and the steps of the new values."""
        named = ((name.partition("press."), step) for name, step in self.drawn.items())
        return tuple((target, step) for (before, found, target), step in named if found and not before)

    @property
    def track_name(self) -> str:
        """Its id, with the slot if it is repeated: the prefix of its track columns."""
        return f"{self.widget.id}[{self.slot}]" if self.widget.repeat else self.widget.id

    def each(self) -> tuple[BoundWidget, ...]:
        """Return all copies, this one first."""
        return (self, *self.copies)


class Bound(Struct, frozen=True):
    """A checked project. errors and warnings: by place, in the order of the file.

    plates: the condition of each plate that has one, by name. zones: for every plate by name, the position of each of
    its zones, horizontally and vertically, None along an axis on which it does not move.
    event_rules: the rules of derived events by place; of one over a roster, those of its first slot.
    actions: the assignments of each action, by label: variable name and step. folder: where assets are.
    events: the recording's events known when it was checked. language: the language of texts; None for the project's.
    slot: of the player it is bound for; None if there are no players and no screen is split.
    option: the name of the player's option its looks follow, "" for none.
    """

    project: Project
    graph: Graph
    scope: Scope
    widgets: Mapping[str, BoundWidget]
    actions: Mapping[str, tuple[tuple[str, Step], ...]] = field(default_factory=dict)
    plates: Mapping[str, Step] = field(default_factory=dict)
    zones: Mapping[str, tuple[tuple[Step | None, Step | None], ...]] = field(default_factory=dict)
    event_rules: Mapping[RulePlace, Step] = field(default_factory=dict)
    errors: Mapping[RulePlace, AvrinError] = field(default_factory=dict)
    warnings: Mapping[RulePlace, str] = field(default_factory=dict)
    folder: Path = Path()
    events: Events = field(default_factory=dict)
    language: Language | None = None
    slot: int | None = None
    option: str = ""

    def fault(self, ident: str) -> AvrinError | None:
        """Return the error that makes a widget show something wrong, or None. A partly invalid look is no such error."""
        return next((e for place, e in self.errors.items() if place.widget == ident and place.part != "look"), None)

    def state_word(self, widget: BoundWidget, state: Value) -> str:
        """Return the word for a widget's state. state: the value of its `state` step at the frame."""
        return BROKEN if self.fault(widget.widget.id) is not None else str(state or "") or SHOWING

    def raise_first(self) -> None:
        """Raise the first error with its place. Raises AvrinError."""
        for place, error in self.errors.items():
            raise error.within(*place_words(place))
