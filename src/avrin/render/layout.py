"""Layout of widgets on a screen: anchors, pivots, fit and the safe area. Lengths in pixels, y down."""

from __future__ import annotations

import math
from typing import NamedTuple

from avrin.project.project import Anchor, Place, Project, Screen

__all__ = [
    "Rect",
    "anchor_point",
    "following",
    "held_inside",
    "minutes_of_arc",
    "part_at",
    "placed",
    "safe_area",
    "screen_fit",
    "screen_scale",
]


class Rect(NamedTuple):
    """A rectangle; y points down."""

    x: float
    y: float
    width: float
    height: float

    @property
    def center(self) -> tuple[float, float]:
        """Its centre."""
        return (self.x + self.width / 2, self.y + self.height / 2)

    def contains(self, x: float, y: float) -> bool:
        """Return whether a point is inside, edges included."""
        return self.x <= x <= self.x + self.width and self.y <= y <= self.y + self.height

    def shared(self, other: Rect) -> float:
        """Return the area of the intersection, in square pixels; 0 if they only touch."""
        across = min(self.x + self.width, other.x + other.width) - max(self.x, other.x)
        along = min(self.y + self.height, other.y + other.height) - max(self.y, other.y)
        return across * along if across > 0 and along > 0 else 0.0


def anchor_point(anchor: Anchor) -> tuple[float, float]:
    """Return an anchor as shares of width and height: `top-left` is (0, 0), `center` (0.5, 0.5)."""
    x = 0.0 if "left" in anchor else 1.0 if "right" in anchor else 0.5
    y = 0.0 if "top" in anchor else 1.0 if "bottom" in anchor else 0.5
    return (x, y)


def screen_scale(project: Project, screen: Screen) -> float:
    """Return screen pixels per reference pixel of a widget: the fit times the player's HUD scale."""
    return screen_fit(project, screen) * screen.scale


def screen_fit(project: Project, screen: Screen) -> float:
    """Return screen pixels per reference pixel of the game's picture, without the player's HUD scale."""
    wide, high = screen.size[0] / project.reference[0], screen.size[1] / project.reference[1]
    return {"height": high, "width": wide, "smaller": min(wide, high), "none": 1.0}[project.fit]


def minutes_of_arc(pixels: float, screen: Screen) -> float | None:
    """Return the visual angle of a height on a screen in minutes of arc, 2·atan(h / 2d); None if the distance is unknown.

    pixels: the height in the screen's pixels; its inches give their size, its metres the distance d.
    """
    if not screen.inches or not screen.metres:
        return None
    metres = pixels * screen.inches * 0.0254 / math.hypot(*screen.size)
    return math.degrees(2 * math.atan(metres / (2 * screen.metres))) * 60


def safe_area(screen: Screen) -> Rect:
    """Return the screen without the margin at each side."""
    width, height = screen.size
    left, top = width * screen.safe, height * screen.safe
    return Rect(left, top, width - 2 * left, height - 2 * top)


def placed(place: Place, safe: Rect, scale: float, shift: tuple[float, float] = (0.0, 0.0)) -> Rect:
    """Return the rectangle of a place on the screen.

    left = safe.left + anchor.x · safe.width + scale · (offset.x − pivot.x · width), top likewise.
    shift: the sum of its groups' offsets, in reference pixels.
    """
    ax, ay = anchor_point(place.anchor)
    px, py = anchor_point(place.pivot)
    width, height = place.size
    left = safe.x + ax * safe.width + scale * (place.offset[0] + shift[0] - px * width)
    top = safe.y + ay * safe.height + scale * (place.offset[1] + shift[1] - py * height)
    return Rect(left, top, width * scale, height * scale)


def part_at(screen: Screen, x: float, y: float) -> Screen:
    """Return the part of a split screen at a pixel, the last one of several; the screen itself if there is none."""
    for part in reversed(screen.parts):
        left, top = part.corner
        if left <= x < left + part.size[0] and top <= y < top + part.size[1]:
            return part
    return screen


def following(place: Place, thing: tuple[float, float], scale: float) -> Rect:
    """Return the rectangle of a widget that follows a position: its pivot is there, moved by its offset.

    thing: in pixels from the screen's upper left corner.
    """
    px, py = anchor_point(place.pivot)
    width, height = place.size
    left = thing[0] + scale * (place.offset[0] - px * width)
    top = thing[1] + scale * (place.offset[1] - py * height)
    return Rect(left, top, width * scale, height * scale)


def held_inside(rect: Rect, area: Rect) -> Rect:
    """Return the rectangle moved by the least amount into an area; at the area's start if it is larger."""
    x = max(area.x, min(rect.x, area.x + area.width - rect.width))
    y = max(area.y, min(rect.y, area.y + area.height - rect.height))
    return Rect(x, y, rect.width, rect.height)
