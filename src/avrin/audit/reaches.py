"""How far widgets reach on screens over all recordings, and which of them may touch there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial

import numpy as np

from avrin.audit.case import Case
from avrin.model import Screen, ScreenPart
from avrin.render import Extent, Rect, screen_scale, widget_rect
from avrin.widgets import BoundWidget, Tracks

__all__ = ["SLACK", "Reach", "dims", "reach_of", "touching_pairs", "unlike_screens"]

SLACK = 1.0  # pixels
Reach = tuple[Rect, Tracks, Extent]


def reach_of(case: Case, widget: BoundWidget, screen: Screen) -> Reach | None:
    """The furthest a widget reaches on a screen over all recordings, in pixels, and the one in which it is largest.

    None if it is never seen, or if it follows a thing.
    """
    rect, number = case.memory.get(
        widget, ("reach", screen.name, screen.size), partial(_measured, case, widget, screen)
    )
    if rect is None:
        return None
    tracks = case.tracks[number]
    got = case.extent(tracks, widget)
    assert got is not None
    return rect, tracks, got


def _measured(case: Case, widget: BoundWidget, screen: Screen) -> tuple[Rect | None, int]:
    """The same, the recording by its number: tracks are made anew with every edit."""
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
    return rect, max(found, key=lambda one: one[1].most.width * one[1].most.height)[0]


def unlike_screens(case: Case) -> list[Screen]:
    """The screens on which a HUD lies otherwise than on those before: others are as those are, larger or smaller."""
    found: dict[tuple[object, ...], Screen] = {}
    for screen in case.screens:
        scale = screen_scale(case.project, screen)
        wide, high = (round(side / scale, 3) for side in screen.size)
        found.setdefault((wide, high, screen.scale, screen.safe, isinstance(screen, ScreenPart)), screen)
    return list(found.values())


def dims(widget: BoundWidget) -> bool:
    """Whether it darkens the whole screen by design."""
    return bool(getattr(widget.options, "dim", 0.0))


def touching_pairs(
    case: Case, screen: Screen, copies: Sequence[BoundWidget]
) -> Iterator[tuple[BoundWidget, BoundWidget]]:
    """Pairs of widgets, the later drawn one second, that may touch on a screen. copies: in drawing order."""
    found = [(copy, reach[0]) for copy in copies if (reach := reach_of(case, copy, screen))]
    if not found:
        return
    rects = np.array([rect for _, rect in found])
    left, top = rects[:, 0], rects[:, 1]
    right, bottom = left + rects[:, 2], top + rects[:, 3]
    across = np.minimum(right[:, None], right) - np.maximum(left[:, None], left)
    along = np.minimum(bottom[:, None], bottom) - np.maximum(top[:, None], top)
    touching = (across > 0) & (along > 0) & (across * along > SLACK)
    for i, k in np.argwhere(np.triu(touching, 1)).tolist():
        yield found[i][0], found[k][0]
