"""Zones over a recording, and when the HUD covers them: vectorised over all frames."""

from __future__ import annotations

import numpy as np

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.project.project import Plate, Screen
from avrin.render.layout import Rect, anchor_point, safe_area, screen_fit, screen_scale
from avrin.render.plates import plate_rect
from avrin.render.scene import widget_rect
from avrin.rules.steps import Step
from avrin.trace.frames import Array, FloatArray

__all__ = ["reach_rects", "touching", "zone_rect", "zone_rects"]


def zone_rects(tracks: Tracks, plate: Plate, number: int, screen: Screen) -> FloatArray:
    """Return a zone's box on a screen at each frame: left, top, width, height in pixels, NaN while unknown.

    A static zone moves and scales with the plate. A zone that follows a position has
    the size and offset given by the HUD's fit, without the player's HUD scale.
    Returns: shape (frames, 4), or (1, 4) if it is static.
    """
    rules = _steps(tracks.bound, plate, number)
    if not any(rules):
        return np.array([zone_rect(tracks, plate, number, screen, 0)])
    project = tracks.bound.project
    zone, fit = plate.keep_clear[number], screen_fit(project, screen)
    under = plate_rect(project, plate, screen, tracks.bound.folder)
    stretch = [under.width / project.reference[0], under.height / project.reference[1]]
    made = np.empty((len(tracks.trace), 4))
    for axis, rule in enumerate(rules):
        low, size = zone.box[axis], zone.box[axis + 2]
        if rule is None:
            made[:, axis], made[:, axis + 2] = under[axis] + low * stretch[axis], size * stretch[axis]
        else:
            made[:, axis], made[:, axis + 2] = (tracks.column(rule).data + low) * fit, size * fit
    made[np.isnan(made).any(axis=1)] = np.nan
    return made


def zone_rect(
    tracks: Tracks, plate: Plate, number: int, screen: Screen, frame: int
) -> tuple[float, float, float, float]:
    """Return the same at one frame."""
    project = tracks.bound.project
    zone, fit = plate.keep_clear[number], screen_fit(project, screen)
    under = plate_rect(project, plate, screen, tracks.bound.folder)
    found = [0.0] * 4
    for axis, rule in enumerate(_steps(tracks.bound, plate, number)):
        low, size = zone.box[axis], zone.box[axis + 2]
        if rule is None:
            stretch = under[axis + 2] / project.reference[axis]
            found[axis], found[axis + 2] = under[axis] + low * stretch, size * stretch
        else:
            value = tracks.value(rule, frame)
            there = value if isinstance(value, float) else float("nan")
            found[axis], found[axis + 2] = (there + low) * fit, size * fit
    left, top, width, height = found
    return left, top, width, height


def _steps(bound: Bound, plate: Plate, number: int) -> tuple[Step | None, Step | None]:
    return bound.zones[plate.name][number]


def reach_rects(tracks: Tracks, widget: BoundWidget, screen: Screen, most: Rect) -> FloatArray:
    """Return the bounds of a widget on a screen at each frame, in pixels, NaN while the position it follows is missing.

    most: its largest bounds, in reference pixels from its box's corner.
    Returns: shape (frames, 4), or (1, 4) if it is static.
    """
    project, place = tracks.bound.project, widget.widget.place
    fit, scale = screen_fit(project, screen), screen_scale(project, screen)
    step = [place.step[axis] * widget.slot * scale for axis in (0, 1)]
    if place.follow is None:
        box = widget_rect(project, widget.widget, screen)
        corner = [np.array([box.x + step[0]]), np.array([box.y + step[1]])]
    else:
        pivot = anchor_point(place.pivot)
        safe = safe_area(screen)
        corner = []
        for axis, name in enumerate(("follow_x", "follow_y")):
            there = tracks.column(widget.drawn[name]).data * fit + step[axis]
            low = there + scale * (place.offset[axis] - pivot[axis] * place.size[axis])
            if place.follow.hold:
                first, room = (safe.x, safe.width) if axis == 0 else (safe.y, safe.height)
                low = np.maximum(first, np.minimum(low, first + room - place.size[axis] * scale))
            corner.append(low)
    made = np.empty((len(corner[0]), 4))
    made[:, 0], made[:, 1] = corner[0] + most.x * scale, corner[1] + most.y * scale
    made[:, 2], made[:, 3] = most.width * scale, most.height * scale
    return made


def touching(first: FloatArray, second: FloatArray, slack: float) -> Array:
    """Return at which frames two boxes overlap by more than `slack` square pixels; never where either is NaN.

    first, second: shape (frames, 4) or (1, 4). Returns: flags, shape (frames,) or (1,).
    """
    near, far = (
        np.maximum(first[:, :2], second[:, :2]),
        np.minimum(first[:, :2] + first[:, 2:], second[:, :2] + second[:, 2:]),
    )
    sides = far - near
    found: Array = (sides > 0).all(axis=1) & (sides.prod(axis=1) > slack)
    return found
