"""What the checks look at: a checked project over its recordings, and what several of them ask for, worked out once."""

from __future__ import annotations

import functools
from collections.abc import Callable, Hashable, Iterable, Iterator
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from msgspec import Struct

from avrin.audit.views import View
from avrin.model import Plate, Project, Screen, ScreenPart, inside
from avrin.render import (
    Appearances,
    Extent,
    Placed,
    Rect,
    appearances,
    bodies,
    drawn_widget,
    extent,
    is_drawn,
    widget_shapes,
)
from avrin.rules import TEMPLATE, Scope, Step
from avrin.rules.patterns import Pattern
from avrin.trace import TRUE, Array, Column
from avrin.widgets import Bound, BoundWidget, TextRun, Tracks

__all__ = ["Case", "Memory", "Shown", "below", "direct_source", "stretches"]


T = TypeVar("T")


class Shown(Struct, frozen=True):
    """A number that a widget writes: its step, how it is written, and the track column whose text it stands in."""

    step: Step
    pattern: Pattern
    column: str


class Memory:
    """What was worked out of single widgets over recordings and still holds after an edit that left them as they were.

    breathe: called before anything is worked out anew, so that who waits for the processor gets it; it may raise to stop.
    """

    def __init__(self) -> None:
        self.breathe: Callable[[], None] = lambda: None
        self._known: dict[tuple[tuple[int, ...], tuple[Hashable, ...]], tuple[tuple[BoundWidget, ...], Any]] = {}

    def get(self, widget: BoundWidget, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """What `make` gave when this widget was first asked for under this key."""
        return self.of((widget,), key, make)

    def pair(self, first: BoundWidget, second: BoundWidget, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """The same of two widgets."""
        return self.of((first, second), key, make)

    def of(self, widgets: tuple[BoundWidget, ...], key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """The same of several widgets."""
        whole = (tuple(map(id, widgets)), key)
        if whole not in self._known:
            self.breathe()
            self._known[whole] = (
                widgets,
                make(),
            )  # with the widgets themselves: none of them is another one's successor
        found: T = self._known[whole][1]
        return found

    def keep(self, widgets: Iterable[BoundWidget]) -> None:
        """Forget all widgets but these and their copies."""
        those = {id(copy) for widget in widgets for copy in widget.each()}
        self._known = {key: known for key, known in self._known.items() if those.issuperset(key[0])}

    def clear(self) -> None:
        """Forget everything."""
        self._known.clear()


class Case:
    """A checked project over recordings. tracks: one for each recording, of the same bound project.

    memory: of earlier looks at the same recordings, screens and declarations. further: it is bound as a further player of a
    split screen sees it, and all else was looked at before. thorough: a film that nobody looked through yet is decoded for it.
    view: the one way to look at it that is judged; None for every screen over every plate.
    """

    def __init__(
        self,
        bound: Bound,
        tracks: tuple[Tracks, ...],
        memory: Memory | None = None,
        *,
        further: bool = False,
        thorough: bool = True,
        view: View | None = None,
    ) -> None:
        self.bound = bound
        self.view = view
        self.further = further
        self.thorough = thorough
        self.tracks = tracks
        self.memory = memory or Memory()
        self._values: dict[tuple[int, Step], Column] = {}
        self._files: dict[str, Path] = {}
        self._numbers = {id(one): number for number, one in enumerate(tracks)}

    @property
    def project(self) -> Project:
        """The project that is looked at."""
        return self.bound.project

    @functools.cached_property
    def scope(self) -> Scope:
        """The project's names in a scope of its own: the slot set in one must not be seen by another thread."""
        return self.bound.scope.knowing({})

    @functools.cached_property
    def faulty(self) -> frozenset[str]:
        """Widgets of which some rule cannot be used: what else would be said of them follows from that."""
        return frozenset(place.widget for place in self.bound.errors if place.widget)

    @functools.cached_property
    def screens(self) -> tuple[Screen, ...]:
        """What its HUD fills: screens that are one, unless it is bound as a further player sees it, and that player's parts.

        The reference size where the project has no screens.
        """
        if self.view is not None:
            return (self.view.screen,)
        found = [
            one for one in self.project.whole_screens
            if (one.slot == self.bound.slot if isinstance(one, ScreenPart) else not self.further)
        ]  # fmt: skip
        return tuple(found) or (Screen(name="reference", size=self.project.reference),)

    @property
    def plates(self) -> tuple[Plate, ...]:
        """What lies behind the HUD."""
        if self.view is not None:
            return () if self.view.plate is None else (self.view.plate,)
        return self.project.plates

    @property
    def eyes(self) -> str:
        """The eyes that colours are judged by, "" for full colour."""
        return self.view.eyes if self.view is not None else ""

    @functools.cached_property
    def users(self) -> dict[str, list[str]]:
        """The ids of the widgets that each variable feeds."""
        found: dict[str, list[str]] = {}
        for ident, widget in self.bound.widgets.items():
            for name in dict.fromkeys(name for step in widget.steps() for name in step.sources()):
                found.setdefault(name, []).append(ident)
        return found

    @functools.cached_property
    def set_by_hand(self) -> frozenset[str]:
        """The variables that a button or an action sets: nobody expects the game to record them."""
        presses = (name for widget in self.bound.widgets.values() for copy in widget.each() for name, _ in copy.presses)
        return frozenset([*presses, *(name for does in self.bound.actions.values() for name, _ in does)])

    def column(self, tracks: Tracks, step: Step) -> Column:
        """A step's values over one recording."""
        key = (id(tracks), step)
        if key not in self._values:
            self._values[key] = tracks.column(step)
        return self._values[key]

    def numbers(self, tracks: Tracks, step: Step) -> Array:
        """A number's values over one recording, shape (T,), NaN where missing."""
        return self.column(tracks, step).data

    def visible(self, tracks: Tracks, widget: BoundWidget) -> Array:
        """Where a widget is to be seen over one recording: flags of shape (frames,)."""
        shown: Array = self.column(tracks, widget.columns["visible"]).data > 0
        return shown

    def extent(self, tracks: Tracks, widget: BoundWidget) -> Extent | None:
        """The widget's largest extent over one recording."""
        return self.memory.get(
            widget, ("extent", self.number(tracks)), lambda: extent(tracks, widget, self.appearances(tracks, widget))
        )

    def placed(self, tracks: Tracks, widget: BoundWidget, frame: int, screen: Screen) -> Placed | None:
        """A widget as it is drawn on a screen at a frame, None where it is not to be seen."""

        def draw() -> Placed | None:
            state = tracks.state_apart(widget, frame)
            if not is_drawn(widget, state):
                return None
            return drawn_widget(widget, state, float(tracks.trace.t[frame]), self.bound, screen, still=True)

        return self.memory.get(
            widget, ("placed", self.number(tracks), frame, screen.name, screen.size, screen.scale), draw
        )

    def chosen(self, tracks: Tracks, plate: Plate) -> Array | None:
        """Where a recording chooses a plate: the first one whose rule is true; flags of shape (frames,).

        None for a plate without a rule, which may be behind the HUD at any time.
        """
        if plate.name not in self.bound.plates:
            return None
        rules = [
            (one.name, self.bound.plates[one.name]) for one in self.project.plates if one.name in self.bound.plates
        ]
        left = np.ones(len(tracks.trace), bool)
        for name, rule in rules:
            true: Array = left & (self.column(tracks, rule).data == TRUE)
            if name == plate.name:
                return true
            left &= ~true
        raise AssertionError(plate.name)

    def plate_file(self, plate: Plate) -> Path:
        """Where a plate's film or picture lies. Raises AvrinError where its name leads out of the project's folder."""
        name = plate.film or plate.picture
        if name not in self._files:
            self._files[name] = inside(self.bound.folder, name)
        return self._files[name]

    def plate_key(self, plate: Plate | None) -> tuple[Hashable, ...]:
        """What is remembered of a plate goes by this, while the project's plates are what they are."""
        return plate and (plate.name, plate.picture, plate.film, plate.proportions), *self.bound.plates.items()

    def appearances(self, tracks: Tracks, widget: BoundWidget) -> Appearances:
        """What a widget looks like over one recording."""
        return self.memory.get(widget, ("appearances", self.number(tracks)), lambda: appearances(tracks, widget))

    def lettered(self, tracks: Tracks, widget: BoundWidget, frame: int) -> tuple[Rect, ...]:
        """The room of each of a widget's texts at a frame, in reference pixels from its corner."""
        return tuple(rect for _, rect in self.texts(tracks, widget, frame))

    def texts(self, tracks: Tracks, widget: BoundWidget, frame: int) -> tuple[tuple[TextRun, Rect], ...]:
        """A widget's texts as at a frame, but for which figures they have; each with its room, as `lettered` gives it."""
        known: dict[int, tuple[tuple[TextRun, Rect], ...]] = self.memory.get(
            widget, ("texts", self.number(tracks)), dict
        )
        code = self.appearances(tracks, widget).at(frame)
        if code not in known:
            self.memory.breathe()
            group = widget_shapes(widget, tracks.state_apart(widget, frame), float(tracks.trace.t[frame]), self.bound)
            known[code] = tuple(bodies(group.shapes))
        return known[code]

    def number(self, tracks: Tracks) -> int:
        """Which of the recordings: two may have one name."""
        return self._numbers[id(tracks)]

    def shown_numbers(self, widget: BoundWidget) -> Iterator[Shown]:
        """Every number that stands in a text of the widget."""
        for name, step in (*widget.columns.items(), *widget.drawn.items()):
            for text in below(step):
                if text.op is not TEMPLATE:
                    continue
                shape, kinds, _ = text.params
                patterns = [part for part in shape if isinstance(part, Pattern)]
                for value, kind, pattern in zip(text.args, kinds, patterns, strict=True):
                    if kind == "number" and value.constant is None:
                        yield Shown(value, pattern, name)


def below(step: Step) -> Iterator[Step]:
    """A step and all it is made from, each once."""
    seen: set[Step] = set()
    waiting = [step]
    while waiting:
        one = waiting.pop()
        if one not in seen:
            seen.add(one)
            yield one
            waiting.extend(one.args)


def direct_source(step: Step) -> str:
    """The variable that a step is, "" where it is made from something."""
    name: Any = step.params[0] if step.op.name == "column" else ""
    return str(name)


def stretches(mask: Array) -> list[tuple[int, int]]:
    """Frames (first, after the last) of each unbroken true stretch of flags of shape (T,)."""
    edges = np.flatnonzero(np.diff(mask.astype(np.int8), prepend=0, append=0))
    return list(zip(edges[0::2].tolist(), edges[1::2].tolist(), strict=True))
