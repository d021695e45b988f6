"""A first HUD: the best offers in their usual positions, without overlaps, inside every screen's safe area."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.kinds.registry import KINDS
from avrin.kinds.subject import Offer
from avrin.offers.offers import free_id, hung, placed_at, ranked
from avrin.onboarding.sizing import sized
from avrin.project.project import USUAL_SCREEN, Anchor, Project, Screen, Widget
from avrin.render.layout import Rect, safe_area
from avrin.render.scene import widget_rect
from avrin.trace.frames import Trace

__all__ = ["first_hud", "with_room"]

BEST = 6
MOST_ALIKE = 3  # of one kind
EDGE, GAP = 40.0, 22.0  # reference pixels to the safe area's edge, and from one widget to the next
HOMES: tuple[Anchor, ...] = (
    "top-left", "top-right", "bottom-left", "bottom-right", "top", "bottom", "left", "right", "center",
)  # fmt: skip


def first_hud(project: Project, trace: Trace, best: int = BEST, offers: Sequence[Offer] | None = None) -> Project:
    """Return the project with the best offers for a recording placed.

    offers: best first, if known already.
    """
    alike: Counter[str] = Counter()
    bound = bind(project, events=trace.event_kinds)
    done = 0
    for offer in ranked(project, trace) if offers is None else offers:
        if done == best:
            break
        if alike[offer.widget.kind] == MOST_ALIKE:
            continue
        named = replace(offer.widget, id=free_id(offer.widget.id, project))
        declared = offer.declared_in(project)
        widget = sized(declared, named, trace, bound)
        placed = _put(declared, widget)
        if placed is not None:
            project = placed
            done += 1
            alike[offer.widget.kind] += 1
    return project


def _put(project: Project, widget: Widget) -> Project | None:
    """Return the project with a widget in its home position or another free one; None if some screen has no room."""
    if widget.place.follow is not None:
        return project.with_widget(widget)
    home = KINDS[widget.kind].home if widget.kind in KINDS else HOMES[0]
    screens = project.screens or (USUAL_SCREEN,)
    slots = next((roster.slots for roster in project.rosters if roster.name == widget.repeat), 1)
    high = widget.place.size[1] + (slots - 1) * widget.place.step[1]
    for anchor in dict.fromkeys((home, *HOMES)):
        up = "bottom" in anchor
        for other in [None, *project.widgets]:
            start = EDGE if other is None else _behind(other, anchor, project)
            if start is None:
                continue
            x = EDGE if "left" in anchor else -EDGE if "right" in anchor else 0.0
            upright = anchor in ("left", "right", "center")
            y = (0.0 if other is None else start) if upright else -start if up else start
            if up:
                y -= high - widget.place.size[1]
            place = replace(widget.place, anchor=anchor, pivot=anchor, offset=(x, y))
            made = hung(replace(widget, place=place))
            if all(_fits(project, made, screen) for screen in screens):
                return project.with_widget(made)
    return None


def with_room(project: Project, widget: Widget) -> Widget:
    """Return a widget at its home position, or next to existing ones; in the centre of a full screen."""
    made = _put(project, widget)
    width, height = project.reference
    return made.widgets[-1] if made is not None else placed_at(widget, width / 2, height / 2, project)


def _behind(other: Widget, anchor: Anchor, project: Project) -> float | None:
    """Return how far from its anchor a widget ends; None for another anchor."""
    if other.place.anchor != anchor or other.place.follow is not None:
        return None
    slots = next((roster.slots for roster in project.rosters if roster.name == other.repeat), 1)
    whole = other.place.size[1] + (slots - 1) * abs(other.place.step[1])
    if anchor in ("left", "right", "center"):
        return other.place.offset[1] + other.place.size[1] / 2 + whole + GAP
    return (abs(other.place.offset[1]) if "top" in anchor else -other.place.offset[1]) + whole + GAP


def _fits(project: Project, widget: Widget, screen: Screen) -> bool:
    safe, mine = safe_area(screen), _box_of_copies(project, widget, screen)
    inside = (
        mine.x >= safe.x - 0.5 and mine.y >= safe.y - 0.5 and mine.x + mine.width <= safe.x + safe.width + 0.5
        and mine.y + mine.height <= safe.y + safe.height + 0.5
    )  # fmt: skip
    others = (
        one for one in project.widgets
        if one.kind in KINDS and not KINDS[one.kind].may_cover and one.place.follow is None
    )  # fmt: skip
    return inside and not any(mine.shared(_box_of_copies(project, one, screen)) for one in others)


def _box_of_copies(project: Project, widget: Widget, screen: Screen) -> Rect:
    """Return a widget's box on a screen, all its copies together."""
    first = widget_rect(project, widget, screen)
    slots = next((roster.slots for roster in project.rosters if roster.name == widget.repeat), 1)
    if slots < 2:
        return first
    scale = first.height / widget.place.size[1]
    dx, dy = ((slots - 1) * scale * step for step in widget.place.step)
    x, y = min(first.x, first.x + dx), min(first.y, first.y + dy)
    return Rect(x, y, first.width + abs(dx), first.height + abs(dy))
