"""Where widgets lie on a screen: anchors, pivots, fit and the safe area. Lengths in pixels, y down."""

from __future__ import annotations

import math
from typing import NamedTuple

from avrin.model import Anchor, Place, Project, Screen

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
        """Its middle."""
        return (self.x + self.width / 2, self.y + self.height / 2)

    def contains(self, x: float, y: float) -> bool:
        """Whether a point lies in it, edges included."""
        return self.x <= x <= self.x + self.width and self.y <= y <= self.y + self.height

    def shared(self, other: Rect) -> float:
        """The area that it shares with another one, in square pixels; 0 where they only touch."""
        across = min(self.x + self.width, other.x + other.width) - max(self.x, other.x)
        along = min(self.y + self.height, other.y + other.height) - max(self.y, other.y)
        return across * along if across > 0 and along > 0 else 0.0


def anchor_point(anchor: Anchor) -> tuple[float, float]:
    """An anchor's word as shares of width and height: `top-left` is (0, 0), `center` (0.5, 0.5)."""
    x = 0.0 if "left" in anchor else 1.0 if "right" in anchor else 0.5
    y = 0.0 if "top" in anchor else 1.0 if "bottom" in anchor else 0.5
    return (x, y)


def screen_scale(project: Project, screen: Screen) -> float:
    """Screen pixels a reference pixel of a widget: the fit, and on top of it the player's own setting."""
    return screen_fit(project, screen) * screen.scale


def screen_fit(project: Project, screen: Screen) -> float:
    """Screen pixels a reference pixel of the game's picture, in which things move."""
    wide, high = screen.size[0] / project.reference[0], screen.size[1] / project.reference[1]
    return {"height": high, "width": wide, "smaller": min(wide, high), "none": 1.0}[project.fit]


def minutes_of_arc(pixels: float, screen: Screen) -> float | None:
    """Under which angle a height on a screen is seen, in minutes of arc: 2·atan(h / 2d); None where nobody says how.

    pixels: the height, of the screen's own; its inches give their size, its metres the distance d.
    """
    if not screen.inches or not screen.metres:
        return None
    metres = pixels * screen.inches * 0.0254 / math.hypot(*screen.size)
    return math.degrees(2 * math.atan(metres / (2 * screen.metres))) * 60


def safe_area(screen: Screen) -> Rect:
    """The screen less the share that is kept free at each side."""
    width, height = screen.size
    left, top = width * screen.safe, height * screen.safe
    return Rect(left, top, width - 2 * left, height - 2 * top)


def placed(place: Place, safe: Rect, scale: float, shift: tuple[float, float] = (0.0, 0.0)) -> Rect:
    """A place's rectangle on the screen.

    left = safe.left + anchor.x · safe.width + scale · (offset.x − pivot.x · width), top likewise.
    shift: offsets of the groups it lies in, added up, in reference pixels.
    """
    ax, ay = anchor_point(place.anchor)
    px, py = anchor_point(place.pivot)
    width, height = place.size
    left = safe.x + ax * safe.width + scale * (place.offset[0] + shift[0] - px * width)
    top = safe.y + ay * safe.height + scale * (place.offset[1] + shift[1] - py * height)
    return Rect(left, top, width * scale, height * scale)


def part_at(screen: Screen, x: float, y: float) -> Screen:
    """The part of a split screen that a pixel of it lies in, the last one of several; the screen itself where there is none."""
    for part in reversed(screen.parts):
        left, top = part.corner
        if left <= x < left + part.size[0] and top <= y < top + part.size[1]:
            return part
    return screen


def following(place: Place, thing: tuple[float, float], scale: float) -> Rect:
    """The rectangle of a widget that hangs on a moving thing: its pivot lies at the thing, moved by its offset.

    thing: in pixels from the screen's upper left corner.
    """
    px, py = anchor_point(place.pivot)
    width, height = place.size
    left = thing[0] + scale * (place.offset[0] - px * width)
    top = thing[1] + scale * (place.offset[1] - py * height)
    return Rect(left, top, width * scale, height * scale)


def held_inside(rect: Rect, area: Rect) -> Rect:
    """The rectangle moved as little as it takes to lie in an area; at its beginning where it is larger."""
    x = max(area.x, min(rect.x, area.x + area.width - rect.width))
    y = max(area.y, min(rect.y, area.y + area.height - rect.height))
    return Rect(x, y, rect.width, rect.height)
