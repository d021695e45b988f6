"""The vertical layout of lanes: scrolled, except for pinned ones at the top."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import accumulate

from PySide6.QtCore import QRect

from avrin.editor.lanes import Lane, LaneSort

__all__ = ["Stack"]

MAX_SHARE = 0.6  # of the view that pinned lanes may take, besides the first


class Stack:
    """lanes: all, from top to bottom. tall: the total height. held: the height of pinned lanes, in pixels."""

    def __init__(self) -> None:
        self.lanes: list[Lane] = []
        self.tall = self.held = 0
        self._tops: list[int] = []
        self._pinned: dict[int, int] = {}  # the index of a pinned lane, and its top
        self._shift = self._room = self._wide = 0
        self._wanted: dict[tuple[str, LaneSort], int] = {}

    def show(self, lanes: list[Lane]) -> None:
        """Replace the lanes."""
        self.lanes = lanes
        *self._tops, self.tall = accumulate((lane.height for lane in lanes), initial=0)
        self._pin()

    def look(self, shift: int, room: int, wide: int) -> None:
        """Set the scroll position and the view's size."""
        self._shift, self._room, self._wide = shift, room, wide
        self._pin()

    def keep(self, wanted: Sequence[tuple[str, LaneSort]]) -> None:
        """Set names and sorts of lanes to keep visible, by priority."""
        self._wanted = {key: at for at, key in reversed([*enumerate(wanted)])}
        self._pin()

    def _pin(self) -> None:
        """Pin wanted lanes that are not fully visible, which may cover further ones."""
        keys = [(lane.name, lane.sort) for lane in self.lanes]
        wanted = sorted((i for i, key in enumerate(keys) if key in self._wanted), key=lambda i: self._wanted[keys[i]])
        chosen: set[int] = set()
        held, missed = 0, True
        while missed:
            missed = False
            for i in wanted:
                tall, at = self.lanes[i].height, self._tops[i] - self._shift
                fits = not chosen or held + tall <= MAX_SHARE * self._room
                if i not in chosen and fits and not held <= at <= self._room - tall:
                    chosen.add(i)
                    held, missed = held + tall, True
        self.held, at = held, 0
        self._pinned = {}
        for i in wanted:
            if i in chosen:
                self._pinned[i] = at
                at += self.lanes[i].height

    def top(self, number: int) -> int:
        """Return a lane's top in the view, scrolled or pinned."""
        return self._pinned.get(number, self._tops[number] - self._shift)

    def each(self) -> list[tuple[Lane, int]]:
        """Return all lanes with their tops in the view."""
        return [(lane, self.top(number)) for number, lane in enumerate(self.lanes)]

    def scrolled(self) -> list[tuple[Lane, int]]:
        """Return visible scrolled lanes; pinned ones may cover part of the first."""
        return [
            (lane, top - self._shift)
            for lane, top in zip(self.lanes, self._tops, strict=True)
            if self._shift + self.held - lane.height < top < self._shift + self._room
        ]

    def stays(self) -> list[tuple[Lane, int]]:
        """Return the pinned lanes."""
        return [(self.lanes[number], top) for number, top in self._pinned.items()]

    def at(self, y: float) -> tuple[Lane, int] | None:
        """Return the lane at a height of the view, with its top."""
        under = self.stays() if y < self.held else self.scrolled()
        return next(((lane, top) for lane, top in under if top <= y < top + lane.height), None)

    def place(self, name: str, sort: LaneSort) -> QRect | None:
        """Return a lane's rectangle, in the view or outside; None for an unknown lane."""
        number = self._number(name, sort)
        return None if number is None else QRect(0, self.top(number), self._wide, self.lanes[number].height)

    def bring(self, name: str, sort: LaneSort) -> int:
        """Return the smallest scroll distance that makes a lane visible."""
        number = self._number(name, sort)
        if number is None:
            return self._shift
        top, tall = self._tops[number], self.lanes[number].height
        return min(top, max(self._shift, top + tall - self._room))

    def _number(self, name: str, sort: LaneSort) -> int | None:
        return next((i for i, lane in enumerate(self.lanes) if (lane.name, lane.sort) == (name, sort)), None)
