"""The input of checks: a bound project over its recordings, with intermediate results that several checks share."""

from __future__ import annotations

import functools
from collections.abc import Callable, Hashable, Iterable, Iterator
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from msgspec import Struct

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.player_options import option_named, scaled
from avrin.binding.tracks import Tracks
from avrin.findings.views import View
from avrin.kinds.shapes import TextRun
from avrin.project.project import Plate, Project, Screen, ScreenPart
from avrin.render.appearances import Appearances, appearances
from avrin.render.extent import Extent, extent
from avrin.render.layout import Rect
from avrin.render.lettering import bodies
from avrin.render.plates import plate_rect
from avrin.render.scene import Placed, drawn_widget, is_drawn, widget_shapes
from avrin.rules.check import Scope
from avrin.rules.patterns import Pattern
from avrin.rules.steps import Step
from avrin.rules.template import TEMPLATE
from avrin.storage.files import inside
from avrin.trace.frames import TRUE, Array, Column

__all__ = ["Case", "Memory", "Shown", "below", "direct_source", "stretches"]


T = TypeVar("T")


class Shown(Struct, frozen=True):
    """A number a widget writes: its step, its pattern, and the track column of its text."""

    step: Step
    pattern: Pattern
    column: str


class Memory:
    """A cache of results about widgets that stays valid after edits that do not affect them.

    breathe: called before each computation, so that other threads can run; it may raise to cancel.
    """

    def __init__(self) -> None:
        self.breathe: Callable[[], None] = lambda: None
        self._known: dict[tuple[tuple[int, ...], tuple[Hashable, ...]], tuple[tuple[BoundWidget, ...], Any]] = {}

    def get(self, widget: BoundWidget, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """Return the cached result for a widget and key, or compute it with `make`."""
        return self.of((widget,), key, make)

    def pair(self, first: BoundWidget, second: BoundWidget, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """Do the same for two widgets."""
        return self.of((first, second), key, make)

    def of(self, widgets: tuple[BoundWidget, ...], key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """Do the same for several widgets."""
        whole = (tuple(map(id, widgets)), key)
        if whole not in self._known:
            self.breathe()
            self._known[whole] = (
                widgets,
                make(),
            )  # stored with the widgets, so that a reused identity is detected
        found: T = self._known[whole][1]
        return found

    def keep(self, widgets: Iterable[BoundWidget]) -> None:
        """Drop the entries of all widgets but these and their copies."""
        those = {id(copy) for widget in widgets for copy in widget.each()}
        self._known = {key: known for key, known in self._known.items() if those.issuperset(key[0])}

    def copy(self) -> Memory:
        """Return another one with the same entries."""
        other = Memory()
        other._known = dict(self._known)
        return other

    def clear(self) -> None:
        """Drop all entries."""
        self._known.clear()


class Case:
    """A bound project over recordings. tracks: one per recording, of the same bound project.

    memory: cache for the same recordings, screens and declarations. further: it is bound for a further player of a
    split screen, and everything else was checked before. thorough: decode films that are not analysed yet.
    view: judge only this view; None for every screen over every plate.
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
        self._plate_rects: dict[tuple[int, int], tuple[Plate, Screen, Rect]] = {}  # by identities, which stay alive
        self._numbers = {id(one): number for number, one in enumerate(tracks)}

    @property
    def project(self) -> Project:
        """The project being checked."""
        return self.bound.project

    @functools.cached_property
    def scope(self) -> Scope:
        """A copy of the project's scope: a slot set in it must not affect other threads."""
        return self.bound.scope.knowing({})

    @functools.cached_property
    def faulty(self) -> frozenset[str]:
        """Widgets with an invalid rule, whose other findings would only be consequences."""
        return frozenset(place.widget for place in self.bound.errors if place.widget)

    @functools.cached_property
    def screens(self) -> tuple[Screen, ...]:
        """The screens its HUD fills: unsplit ones, unless it is bound for a further player, and that player's parts.

        The reference size if the project has no screens.
        """
        if self.view is not None:
            return (self.view.screen,)
        found = [
            one for one in self.project.whole_screens
            if (one.slot == self.bound.slot if isinstance(one, ScreenPart) else not self.further)
        ]  # fmt: skip
        option = option_named(self.project, self.bound.option)
        return tuple(scaled(one, option) for one in found or [Screen(name="reference", size=self.project.reference)])

    @property
    def plates(self) -> tuple[Plate, ...]:
        """The plates behind the HUD."""
        if self.view is not None:
            return () if self.view.plate is None else (self.view.plate,)
        return self.project.plates

    @property
    def eyes(self) -> str:
        """The colour vision by which colours are judged, "" for normal."""
        return self.view.eyes if self.view is not None else ""

    @functools.cached_property
    def users(self) -> dict[str, list[str]]:
        """The ids of the widgets that use each variable."""
        found: dict[str, list[str]] = {}
        for ident, widget in self.bound.widgets.items():
            for name in dict.fromkeys(name for step in widget.steps() for name in step.sources()):
                found.setdefault(name, []).append(ident)
        return found

    @functools.cached_property
    def set_by_hand(self) -> frozenset[str]:
        """Variables set by a button or an action, which recordings need not contain."""
        presses = (name for widget in self.bound.widgets.values() for copy in widget.each() for name, _ in copy.presses)
        return frozenset([*presses, *(name for does in self.bound.actions.values() for name, _ in does)])

    def column(self, tracks: Tracks, step: Step) -> Column:
        """Return a step's values over one recording."""
        key = (id(tracks), step)
        if key not in self._values:
            self._values[key] = tracks.column(step)
        return self._values[key]

    def numbers(self, tracks: Tracks, step: Step) -> Array:
        """Return a number's values over one recording, shape (T,), NaN where missing."""
        return self.column(tracks, step).data

    def visible(self, tracks: Tracks, widget: BoundWidget) -> Array:
        """Return where a widget is visible in one recording: flags of shape (frames,)."""
        shown: Array = self.column(tracks, widget.columns["visible"]).data > 0
        return shown

    def extent(self, tracks: Tracks, widget: BoundWidget) -> Extent | None:
        """Return the widget's largest extent over one recording."""
        return self.memory.get(
            widget, ("extent", self.number(tracks)), lambda: extent(tracks, widget, self.appearances(tracks, widget))
        )

    def placed(self, tracks: Tracks, widget: BoundWidget, frame: int, screen: Screen) -> Placed | None:
        """Return a widget as drawn on a screen at a frame, or None if it is invisible."""

        def draw() -> Placed | None:
            state = tracks.state_apart(widget, frame)
            if not is_drawn(widget, state):
                return None
            return drawn_widget(widget, state, float(tracks.trace.t[frame]), self.bound, screen, still=True)

        return self.memory.get(
            widget, ("placed", self.number(tracks), frame, screen.name, screen.size, screen.scale), draw
        )

    def chosen(self, tracks: Tracks, plate: Plate) -> Array | None:
        """Return where a recording selects a plate: the first one whose rule is true; flags of shape (frames,).

        None for a plate without a rule, which may be shown at any time.
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
        """Return the path of a plate's film or picture. Raises AvrinError if it is outside the project's folder."""
        name = plate.film or plate.picture
        if name not in self._files:
            self._files[name] = inside(self.bound.folder, name)
        return self._files[name]

    def plate_rect(self, plate: Plate, screen: Screen) -> Rect:
        """Return where a plate is drawn on a screen, in pixels. Its file is looked up once."""
        key = id(plate), id(screen)
        if key not in self._plate_rects:
            rect = plate_rect(self.project, plate, screen, self.bound.folder)
            self._plate_rects[key] = plate, screen, rect
        return self._plate_rects[key][2]

    def plate_key(self, plate: Plate | None) -> tuple[Hashable, ...]:
        """Return the cache key of a plate, valid while the project's plates do not change."""
        return plate and (plate.name, plate.picture, plate.film, plate.proportions), *self.bound.plates.items()

    def appearances(self, tracks: Tracks, widget: BoundWidget) -> Appearances:
        """Return the widget's appearances over one recording."""
        return self.memory.get(widget, ("appearances", self.number(tracks)), lambda: appearances(tracks, widget))

    def lettered(self, tracks: Tracks, widget: BoundWidget, frame: int) -> tuple[Rect, ...]:
        """Return the line box of each of a widget's texts at a frame, in reference pixels from its corner."""
        return tuple(rect for _, rect in self.texts(tracks, widget, frame))

    def texts(self, tracks: Tracks, widget: BoundWidget, frame: int) -> tuple[tuple[TextRun, Rect], ...]:
        """Return a widget's texts at a frame, ignoring which digits they have, each with its line box as in `lettered`."""
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
        """Return the index of a recording: two may have the same name."""
        return self._numbers[id(tracks)]

    def shown_numbers(self, widget: BoundWidget) -> Iterator[Shown]:
        """Yield every number in a text of the widget."""
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
    """Yield a step and all its arguments, without duplicates."""
    seen: set[Step] = set()
    waiting = [step]
    while waiting:
        one = waiting.pop()
        if one not in seen:
            seen.add(one)
            yield one
            waiting.extend(one.args)


def direct_source(step: Step) -> str:
    """Return the variable that a step is, or "" if it is computed."""
    name: Any = step.params[0] if step.op.name == "column" else ""
    return str(name)


def stretches(mask: Array) -> list[tuple[int, int]]:
    """Return first and end frames of each stretch of true flags of shape (T,)."""
    edges = np.flatnonzero(np.diff(mask.astype(np.int8), prepend=0, append=0))
    return list(zip(edges[0::2].tolist(), edges[1::2].tolist(), strict=True))
