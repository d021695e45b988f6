"""Texts on the screen with everything drawn between them and the plate, in every combination that occurs."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.findings.case import Case
from avrin.findings.extents import SLACK, dims, touching_matrix
from avrin.kinds.shapes import Box, Shape, TextRun
from avrin.project.project import Plate, Screen
from avrin.render.appearances import Appearances, JointAppearance, joint_appearances
from avrin.render.colour import parsed
from avrin.render.layout import Rect
from avrin.render.lettering import bodies, flat_shapes
from avrin.render.scene import Placed, widget_shapes
from avrin.render.zones import reach_rects, touching
from avrin.trace.frames import Array

__all__ = ["Below", "Fill", "Lettering", "below", "copies", "densest_fill", "fills", "lettering"]

MANY_WIDGETS = 100  # number of widgets from which each is first tested for fills


class Fill(Struct, frozen=True):
    """A filled rectangle on the screen, in pixels. alpha: 0–1, opacities included."""

    rect: Rect
    colour: str
    alpha: float


class Lettering(Struct, frozen=True, eq=False):
    """A text on the screen. rect: its line box, in pixels. size: reference pixels per em.

    fill, edge: with alpha; edge "" for none. under: fills behind it, bottom first. frames: at which it looks like this,
    shape (n,): all of them if what is behind it may change, else some including the first.
    """

    text: str
    rect: Rect
    size: float
    bold: bool
    fill: str
    edge: str
    under: tuple[Fill, ...]
    frames: Array

    @property
    def frame(self) -> int:
        """The first frame at which it looks like this."""
        return int(self.frames[0])


Pieces = tuple[
    tuple[tuple[TextRun, Rect], ...], tuple[Fill, ...]
]  # a widget's texts with their line boxes, and its fills


class Below(Struct, frozen=True, eq=False):
    """A widget drawn before another one that may cover it.

    shared: if one of them moves, the intersection in square pixels at each frame, shape (frames,).
    """

    widget: BoundWidget
    shared: Array | None = None


def copies(case: Case) -> list[BoundWidget]:
    """Return all widgets and their copies in drawing order."""
    return [copy for widget in case.bound.widgets.values() for copy in widget.each()]


def fills(placed: Placed) -> Iterator[Fill]:
    """Yield a widget's filled rectangles on the screen, in drawing order."""
    return _fills((placed.group,))


def _fills(shapes: tuple[Shape, ...]) -> Iterator[Fill]:
    for shape, rect, opacity in flat_shapes(shapes, 0.0, 0.0, 1.0, 1.0):
        if isinstance(shape, Box) and shape.fill:
            yield Fill(rect, shape.fill[:7], parsed(shape.fill)[1] * opacity)


def below(case: Case, tracks: Tracks, screen: Screen) -> dict[int, list[Below]]:
    """Return what each widget may cover on a screen in a recording, by the widget's identity, in drawing order."""
    every = copies(case)
    touches = touching_matrix(case, screen, every)
    if len(every) > MANY_WIDGETS:  # a widget without fills is no background, and comparing all frames is slow
        touches[[not densest_fill(case, tracks, one) for one in every]] = False
    over = [set(np.flatnonzero(touches[:, number]).tolist()) for number in range(len(every))]
    dark = [number for number, widget in enumerate(every) if dims(widget)]
    moving = [number for number, widget in enumerate(every) if widget.widget.place.follow is not None]
    found: dict[int, list[Below]] = {}
    for number, widget in enumerate(every):
        others = over[number].union(one for one in dark if one < number)
        shared: dict[int, Array] = {}
        for other in range(number) if widget.widget.place.follow is not None else moving:
            if other < number and other not in others:
                key = ("shared", case.number(tracks), screen.name, screen.size, screen.scale)
                look = partial(_shared, case, tracks, every[other], widget, screen)
                area = case.memory.pair(every[other], widget, key, look)
                if area is not None:
                    shared[other] = area
        found[id(widget)] = [Below(every[one], shared.get(one)) for one in sorted(others.union(shared))]
    return found


def densest_fill(case: Case, tracks: Tracks, widget: BoundWidget) -> float:
    """Return the largest alpha of a widget's fills in a recording, 0–1; 0 without fills."""
    if dims(widget):
        return 1.0

    def look() -> float:
        groups = joint_appearances([case.appearances(tracks, widget)], np.ones(len(tracks.trace), bool))
        frames = {frame for group in groups for frame in group.ends}
        return max((fill.alpha for frame in frames for fill in _pieces(case, tracks, widget, frame)[1]), default=0.0)

    return case.memory.get(widget, ("densest fill", case.number(tracks)), look)


def _shared(case: Case, tracks: Tracks, first: BoundWidget, second: BoundWidget, screen: Screen) -> Array | None:
    """Return the intersection of two widgets' extents at each frame in square pixels; None if always empty."""
    extents = [case.extent(tracks, widget) for widget in (first, second)]
    if extents[0] is None or extents[1] is None:
        return None
    first_rects, second_rects = (
        reach_rects(tracks, widget, screen, extent.most)
        for widget, extent in zip((first, second), extents, strict=True) if extent is not None
    )  # fmt: skip
    if not touching(first_rects, second_rects, SLACK).any():
        return None
    near, far = (
        np.maximum(first_rects[:, :2], second_rects[:, :2]),
        np.minimum(first_rects[:, :2] + first_rects[:, 2:], second_rects[:, :2] + second_rects[:, 2:]),
    )
    return np.broadcast_to(np.maximum(np.nan_to_num(far - near), 0.0).prod(axis=1), len(tracks.trace))


def lettering(
    case: Case, tracks: Tracks, widget: BoundWidget, screen: Screen, under: list[Below], plate: Plate | None = None
) -> tuple[Lettering, ...]:
    """Return every appearance of a widget's texts on a screen in a recording. under: widgets it may cover.

    plate: only while the recording selects it.
    """
    key = ("lettering", case.number(tracks), screen.name, screen.size, screen.scale, *case.plate_key(plate))
    found = partial(_lettered, case, tracks, widget, screen, under, plate)
    return case.memory.of((widget, *(one.widget for one in under)), key, found)


def _lettered(
    case: Case, tracks: Tracks, widget: BoundWidget, screen: Screen, under: list[Below], plate: Plate | None
) -> tuple[Lettering, ...]:
    every = (widget, *(one.widget for one in under))
    moving = [one.shared for one in under if one.shared is not None]

    def parted() -> list[JointAppearance]:
        chosen = case.chosen(tracks, plate) if plate is not None else None
        where = np.ones(len(tracks.trace), bool) if chosen is None else chosen
        own, *beside = (case.appearances(tracks, one) for one in every)
        return joint_appearances(
            [own], where, [*beside, *(Appearances.of(shared > SLACK) for shared in moving)], moving
        )

    key = (
        "alike",
        case.number(tracks),
        *((screen.name, screen.size, screen.scale) if moving else ()),
        *case.plate_key(plate),
    )
    changes = widget.widget.place.follow is not None or any(
        one.film for one in case.project.plates
    )  # what is behind it
    found: dict[tuple[object, ...], list[Lettering]] = {}
    for group in case.memory.of(every, key, parted):
        case.memory.breathe()
        first = int(group.frames[0])
        if not case.lettered(tracks, widget, first):
            continue
        for frame in group.ends:
            frames = group.frames if changes and frame == first else np.array([frame])
            for one in _at(case, tracks, widget, screen, under, frame, frames):
                name = (one.rect, one.size, one.bold, one.fill, one.edge, one.under)
                found.setdefault(name, []).append(one)
    return tuple(_at_once(several, len(tracks.trace)) for several in found.values())


def _at_once(several: list[Lettering], length: int) -> Lettering:
    """Merge equal texts at several frames."""
    if len(several) == 1:
        return several[0]
    there = np.zeros(length, bool)
    for one in several:
        there[one.frames] = True
    return replace(min(several, key=lambda lettering: lettering.frame), frames=np.flatnonzero(there))


def _at(
    case: Case, tracks: Tracks, widget: BoundWidget, screen: Screen, under: list[Below], frame: int, frames: Array
) -> Iterator[Lettering]:
    texts, own = _pieces(case, tracks, widget, frame)
    corner = _corner(case, tracks, widget, frame, screen)
    behind = [fill for one in under for fill in _fills_of(case, tracks, one.widget, frame, screen)]
    behind += [_moved_fill(fill, corner) for fill in own]
    for run, body in texts:
        rect = _moved(body, corner)
        least = 0.6 * rect.width * rect.height
        beneath = tuple(fill for fill in behind if fill.rect.shared(rect) > least)
        yield Lettering(run.text, rect, run.size, run.bold, run.fill, run.edge, beneath, frames)


Corner = tuple[float, float, float]  # of a widget on a screen, in pixels, and pixels per reference pixel


def _corner(case: Case, tracks: Tracks, widget: BoundWidget, frame: int, screen: Screen) -> Corner:
    key = ("corners", case.number(tracks), screen.name, screen.size, screen.scale)
    boxes = case.memory.get(widget, key, lambda: reach_rects(tracks, widget, screen, Rect(0.0, 0.0, 1.0, 1.0)))
    x, y, scale, _ = boxes[frame if len(boxes) > 1 else 0].tolist()
    return x, y, scale


def _pieces(case: Case, tracks: Tracks, widget: BoundWidget, frame: int) -> Pieces:
    """Return a widget's texts with line boxes, and its fills, in reference pixels from its corner; empty if invisible."""

    def draw() -> Pieces:
        if case.appearances(tracks, widget).at(frame) < 0:
            return (), ()
        state, clock = tracks.state_apart(widget, frame), float(tracks.trace.t[frame])
        group = widget_shapes(widget, state, clock, case.bound, still=True)
        return tuple(bodies((group,))), tuple(_fills((group,)))

    return case.memory.get(widget, ("pieces", case.number(tracks), frame), draw)


def _fills_of(case: Case, tracks: Tracks, widget: BoundWidget, frame: int, screen: Screen) -> list[Fill]:
    """Return a widget's fills on a screen at a frame, in pixels."""
    if dims(widget):  # as large as the screen
        placed = case.placed(tracks, widget, frame, screen)
        return list(fills(placed)) if placed is not None else []
    _, found = _pieces(case, tracks, widget, frame)
    corner = _corner(case, tracks, widget, frame, screen) if found else (0.0, 0.0, 1.0)
    return [_moved_fill(fill, corner) for fill in found]


def _moved(rect: Rect, corner: Corner) -> Rect:
    x, y, scale = corner
    return Rect(x + rect.x * scale, y + rect.y * scale, rect.width * scale, rect.height * scale)


def _moved_fill(fill: Fill, corner: Corner) -> Fill:
    return Fill(_moved(fill.rect, corner), fill.colour, fill.alpha)
