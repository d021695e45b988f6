"""Extents of widgets on screens over all recordings, and which of them may touch."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial

import numpy as np

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.findings.case import Case
from avrin.project.project import Screen, ScreenPart
from avrin.render.extent import Extent
from avrin.render.layout import Rect, screen_scale
from avrin.render.scene import widget_rect
from avrin.trace.frames import Array

__all__ = ["SLACK", "Reach", "dims", "reach_of", "touching_matrix", "touching_pairs", "unlike_screens"]

SLACK = 1.0  # pixels
Reach = tuple[Rect, Tracks, Extent]


def reach_of(case: Case, widget: BoundWidget, screen: Screen) -> Reach | None:
    """Return a widget's largest extent on a screen over all recordings, in pixels, and the recording where it occurs.

    None if it is never visible or follows a position.
    """
    rect, number = case.memory.get(
        widget, ("reach", screen.name, screen.size, screen.scale), partial(_measured, case, widget, screen)
    )
    if rect is None:
        return None
    tracks = case.tracks[number]
    got = case.extent(tracks, widget)
    assert got is not None
    return rect, tracks, got


def _measured(case: Case, widget: BoundWidget, screen: Screen) -> tuple[Rect | None, int]:
    """Return the same with the recording's index, because tracks are recreated with every edit."""
    if widget.widget.place.follow is not None:
        return None, 0
    found = [(number, got) for number, tracks in enumerate(case.tracks) if (got := case.extent(tracks, widget))]
    if not found:
        return None, 0
    box, scale = widget_rect(case.project, widget.widget, screen), screen_scale(case.project, screen)
    step_x, step_y = widget.widget.place.step
    x, y = box.x + step_x * widget.slot * scale, box.y + step_y * widget.slot * scale
    left, top = min(got.most.x for _, got in found), min(got.most.y for _, got in found)
    right = max(got.most.x + got.most.width for _, got in found)
    bottom = max(got.most.y + got.most.height for _, got in found)
    rect = Rect(x + left * scale, y + top * scale, (right - left) * scale, (bottom - top) * scale)
    return rect, max(found, key=lambda item: item[1].most.width * item[1].most.height)[0]


def unlike_screens(case: Case) -> list[Screen]:
    """Return the screens with a distinct layout; others are scaled versions of earlier ones."""
    found: dict[tuple[object, ...], Screen] = {}
    for screen in case.screens:
        scale = screen_scale(case.project, screen)
        wide, high = (round(side / scale, 3) for side in screen.size)
        found.setdefault((wide, high, screen.scale, screen.safe, isinstance(screen, ScreenPart)), screen)
    return list(found.values())


def dims(widget: BoundWidget) -> bool:
    """Return whether it darkens the whole screen by design."""
    return bool(getattr(widget.options, "dim", 0.0))


def touching_pairs(
    case: Case, screen: Screen, below: Sequence[BoundWidget], above: Sequence[BoundWidget]
) -> Iterator[tuple[BoundWidget, BoundWidget]]:
    """Return pairs of widgets that may touch on a screen, the second drawn later. Both in drawing order.

    below: all candidates. above: the ones to test.
    """
    asked = set(map(id, above))
    chosen = [number for number, copy in enumerate(below) if id(copy) in asked]
    touches = touching_matrix(case, screen, below)[:, chosen]
    for i, k in np.argwhere(touches).tolist():
        yield below[i], below[chosen[k]]


def touching_matrix(case: Case, screen: Screen, copies: Sequence[BoundWidget]) -> Array:
    """Return which widgets may touch on a screen: flags of shape (n, n), true if the column's is drawn after the row's.

    copies: in drawing order.
    """
    none = (np.nan,) * 4
    reaches = (reach_of(case, copy, screen) for copy in copies)
    rects = np.array([none if reach is None else reach[0] for reach in reaches]).reshape(-1, 4)
    left, top = rects[:, 0], rects[:, 1]
    right, bottom = left + rects[:, 2], top + rects[:, 3]
    across = np.minimum(right[:, None], right) - np.maximum(left[:, None], left)
    along = np.minimum(bottom[:, None], bottom) - np.maximum(top[:, None], top)
    return np.triu((across > 0) & (along > 0) & (across * along > SLACK), 1)
