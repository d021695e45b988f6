"""What the checks look at: a checked project over its recordings, and what several of them ask for, worked out once."""

from __future__ import annotations

import functools
from collections.abc import Callable, Hashable, Iterable, Iterator
from typing import Any, TypeVar

import numpy as np
from msgspec import Struct

from avrin.model import Plate, Project, Screen, ScreenPart
from avrin.render import Extent, Placed, drawn_widget, extent, is_drawn
from avrin.rules import TEMPLATE, Scope, Step
from avrin.rules.patterns import Pattern
from avrin.trace import TRUE, Array, Column, present
from avrin.widgets import Bound, BoundWidget, Tracks

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
        self._known: dict[tuple[Hashable, ...], tuple[BoundWidget, Any]] = {}

    def get(self, widget: BoundWidget, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """What `make` gave when this widget was first asked for under this key."""
        whole = (id(widget), *key)
        known = self._known.get(whole)
        if known is None or known[0] is not widget:
            self.breathe()
            known = self._known[whole] = (widget, make())
        found: T = known[1]
        return found

    def pair(self, first: BoundWidget, second: BoundWidget, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """The same of two widgets."""
        known: tuple[BoundWidget, T] = self.get(
            first, ("with", second.widget.id, second.slot, *key), lambda: (second, make())
        )
        if known[0] is not second:
            known = (second, make())
            self._known[id(first), "with", second.widget.id, second.slot, *key] = (first, known)
        return known[1]

    def keep(self, widgets: Iterable[BoundWidget]) -> None:
        """Forget all widgets but these and their copies."""
        those = {id(copy) for widget in widgets for copy in widget.each()}
        self._known = {key: known for key, known in self._known.items() if key[0] in those}

    def clear(self) -> None:
        """Forget everything."""
        self._known.clear()


class Case:
    """A checked project over recordings. tracks: one for each recording, of the same bound project.

    memory: of earlier looks at the same recordings, screens and declarations. further: it is bound as a further player of a
    split screen sees it, and all else was looked at before.
    """

    def __init__(
        self, bound: Bound, tracks: tuple[Tracks, ...], memory: Memory | None = None, *, further: bool = False
    ) -> None:
        self.bound = bound
        self.further = further
        self.tracks = tracks
        self.memory = memory or Memory()
        self._values: dict[tuple[int, Step], Column] = {}
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
        found = [
            one for one in self.project.whole_screens
            if (one.slot == self.bound.slot if isinstance(one, ScreenPart) else not self.further)
        ]  # fmt: skip
        return tuple(found) or (Screen(name="reference", size=self.project.reference),)

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
        return self.memory.get(widget, ("extent", self.number(tracks)), lambda: extent(tracks, widget))

    def placed(self, tracks: Tracks, widget: BoundWidget, frame: int, screen: Screen) -> Placed | None:
        """A widget as it is drawn on a screen at a frame, None where it is not to be seen."""

        def draw() -> Placed | None:
            state = tracks.state_apart(widget, frame)
            if not is_drawn(widget, state):
                return None
            return drawn_widget(widget, state, float(tracks.trace.t[frame]), self.bound, screen, still=True)

        return self.memory.get(widget, ("placed", self.number(tracks), frame, screen.name, screen.size), draw)

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

    def firsts(self, widget: BoundWidget, plate: Plate | None = None) -> dict[str, tuple[int, int]]:
        """For each band that a widget is seen in, "" for none: the first recording that shows it, and its first frame.

        plate: only while the recording chooses it.
        """

        def look() -> dict[str, tuple[int, int]]:
            found: dict[str, tuple[int, int]] = {}
            for number, tracks in enumerate(self.tracks):
                mask = self.chosen(tracks, plate) if plate is not None else None
                seen = self.visible(tracks, widget)
                visible = seen if mask is None else seen & mask
                column = self.column(tracks, widget.columns["band"])
                for code in present(column.data[visible]):
                    if column.words[code] not in found:
                        at = int(np.argmax(visible & (column.data == code)))
                        found[column.words[code]] = (number, at)
            return found

        key = (
            ("firsts",)
            if plate is None
            else ("firsts", plate.name, *((one.name, one.when) for one in self.project.plates))
        )
        return self.memory.get(widget, key, look)

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
