"""Transitions: draw a widget that enters, leaves or pops, from `presence` and `pop` of its track."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.kinds.kind import State
from avrin.kinds.shapes import Group
from avrin.project.project import Place, Widget
from avrin.render.layout import Rect

__all__ = ["in_motion"]


def in_motion(group: Group, widget: Widget, state: State, rect: Rect, screen: tuple[float, float]) -> Group:
    """Return a widget's group in a transition, in the box `rect` on a screen of that size.

    At presence p, a fade has opacity p. Growing and sliding decelerate: 1 - (1 - p)² of its size, or of the way
    from beyond the screen side it is anchored to; a widget anchored in the centre, or following something, rises by its
    own height and fades. A pop with remainder s scales it by 1 + (size - 1)·s², about the centre of its box.
    """
    presence, fresh = state.get("presence"), state.get("pop")
    size = 1.0
    if widget.pop is not None and isinstance(fresh, float):
        size += (widget.pop.size - 1.0) * fresh**2
    passage = widget.enter if state["visible"] else widget.leave
    if passage is not None and isinstance(presence, float) and presence < 1.0:
        near = 1.0 - (1.0 - presence) ** 2
        if passage.how == "grow":
            size *= near
        elif passage.how == "slide":
            dx, dy = _away(widget.place, rect, screen)
            group = replace(group, dx=group.dx + dx * (1.0 - near), dy=group.dy + dy * (1.0 - near))
        if passage.how == "fade" or (passage.how == "slide" and _hangs_on(widget.place) == ""):
            group = replace(group, opacity=group.opacity * presence)
    if size != 1.0:
        x, y = rect.center
        dx, dy = x + (group.dx - x) * size, y + (group.dy - y) * size
        group = replace(group, dx=dx, dy=dy, scale=group.scale * size)
    return group


def _hangs_on(place: Place) -> str:
    """Return the screen side a widget is anchored to; "" for the centre or a followed position."""
    side = "" if place.follow is not None or place.anchor == "center" else place.anchor
    return side.rpartition("-")[2]


def _away(place: Place, rect: Rect, screen: tuple[float, float]) -> tuple[float, float]:
    """Return the offset from a widget's box to just beyond its screen side, in pixels."""
    match _hangs_on(place):
        case "left":
            return -(rect.x + rect.width), 0.0
        case "right":
            return screen[0] - rect.x, 0.0
        case "top":
            return 0.0, -(rect.y + rect.height)
        case "bottom":
            return 0.0, screen[1] - rect.y
    return 0.0, rect.height
