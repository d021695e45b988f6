"""Layout on every screen: widgets off the screen, in the unsafe edge, on top of one another."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial

import numpy as np
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.findings.case import Case
from avrin.findings.extents import SLACK, dims, reach_of, touching_matrix, touching_pairs, unlike_screens
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_place
from avrin.findings.layers import copies, densest_fill, fills
from avrin.project.project import Place, Screen
from avrin.render.appearances import JointAppearance, joint_appearances
from avrin.render.layout import Rect, safe_area, screen_scale

__all__ = ["CHECKS"]

TOUCHING = 0.08  # share of the smaller of two texts above which they count as overlapping
OPAQUE = 0.85
NAMED = 4  # widgets of a heap listed by title
MANY_WIDGETS = 100  # number of widgets from which each is first tested for being opaque


def _beyond(rect: Rect, area: Rect) -> float:
    """Return the pixels by which a rectangle exceeds an area, 0 inside."""
    right, bottom = rect.x + rect.width, rect.y + rect.height
    out = max(area.x - rect.x, area.y - rect.y, right - area.x - area.width, bottom - area.y - area.height)
    return out if out > SLACK else 0.0


def _off_screen(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for screen in case.screens:
        reach = reach_of(case, widget, screen)
        if reach is None or dims(widget):
            continue
        rect, tracks, got = reach
        whole = Rect(0, 0, *screen.size)
        gone = rect.shared(whole) <= 0
        if (by := _beyond(rect, whole)) and (gone or not widget.kind.may_bleed):
            word = "wholly off the screen" if gone else f"{by:.0f} pixels off the screen"
            yield Finding(
                widget.widget.id, f"{'off' if gone else 'cut off on'} {screen.name}",
                f"{widget.widget.title} is {word} on {screen.name} ({screen.size[0]} × {screen.size[1]})",
                "Anchor it to the nearest corner, or make it smaller", about=screen.name,
                trace=tracks.trace.name, start=got.frame, end=got.frame + 1, screen=screen.name,
                fix=_inwards(case, widget, rect, whole, screen),
            )  # fmt: skip
            return


def _inwards(case: Case, widget: BoundWidget, rect: Rect, area: Rect, screen: Screen) -> Fix | None:
    """Return a fix that moves a widget into an area; None if it follows a position or is larger than the area."""
    if widget.widget.place.follow is not None or rect.width > area.width or rect.height > area.height:
        return None
    scale = screen_scale(case.project, screen)
    moved = []
    for axis in (0, 1):
        low, high = area[axis] - rect[axis], area[axis] + area[axis + 2] - rect[axis] - rect[axis + 2]
        by = max(low, 0.0) + min(high, 0.0)
        moved.append(math.copysign(math.ceil(abs(by) / scale), by) if by else 0.0)

    def change(place: Place) -> Place:
        return replace(place, offset=(place.offset[0] + moved[0], place.offset[1] + moved[1]))

    return fix_place("move it inside", widget.widget.id, change)


def _unsafe_edge(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for screen in case.screens:
        reach = reach_of(case, widget, screen) if screen.safe else None
        if reach is None or dims(widget) or widget.kind.may_bleed:
            continue
        rect, tracks, got = reach
        if (by := _beyond(rect, safe_area(screen))) and not _beyond(rect, Rect(0, 0, *screen.size)):
            yield Finding(
                widget.widget.id, f"in the unsafe edge of {screen.name}",
                f"{widget.widget.title} reaches {by:.0f} pixels into the unsafe edge of {screen.name}",
                "Move it inwards", about=screen.name, trace=tracks.trace.name, start=got.frame, end=got.frame + 1,
                screen=screen.name, fix=_inwards(case, widget, rect, safe_area(screen), screen),
            )  # fmt: skip
            return


# -- overlaps ----------------------------------------------------------------------------------------------------------


def _together(case: Case, first: BoundWidget, second: BoundWidget, tracks: Tracks) -> list[JointAppearance]:
    """Return frames at which both are visible, grouped by appearance."""
    return joint_appearances(
        [case.appearances(tracks, one) for one in (first, second)], np.ones(len(tracks.trace), bool)
    )


def _overlaps(case: Case) -> Iterator[Finding]:
    """Yield heaps of overlapping texts: one finding each, however many there are.

    Widgets of one heap are not compared again on this screen and later ones.
    """
    every = [copy for copy in copies(case) if not dims(copy)]
    heaps = np.arange(len(every))  # the heap of each widget, identified by a member
    for screen in case.screens:
        seen: dict[int, tuple[Tracks, int]] = {}  # first occurrence of heaps that grew here
        touches = touching_matrix(case, screen, every)
        for upper in range(len(every)):
            lower = -1
            while True:
                others = np.flatnonzero(touches[lower + 1 : upper, upper] & (heaps[lower + 1 : upper] != heaps[upper]))
                if not len(others):
                    break
                lower += 1 + int(others[0])
                found = _first_collision(case, every[lower], every[upper], screen)
                if found is not None:
                    heap, joined = int(heaps[lower]), int(heaps[upper])
                    heaps[heaps == joined] = heap
                    seen[heap] = seen.get(heap) or seen.get(joined) or found
                    seen.pop(joined, None)
        for heap, where in seen.items():
            yield _heap_finding([every[one] for one in np.flatnonzero(heaps == heap).tolist()], *where, screen)


def _first_collision(case: Case, first: BoundWidget, second: BoundWidget, screen: Screen) -> tuple[Tracks, int] | None:
    """Return the recording and frame at which texts of two widgets first overlap."""
    for tracks in case.tracks:
        key = ("overlap", case.number(tracks), screen.name, screen.size, screen.scale)
        frame = case.memory.pair(first, second, key, partial(_collision, case, first, second, tracks, screen))
        if frame is not None:
            return tracks, frame
    return None


def _heap_finding(heap: list[BoundWidget], tracks: Tracks, frame: int, screen: Screen) -> Finding:
    titles = list({copy.widget.id: copy.widget.title for copy in heap}.values())
    first, last = heap[0].widget, heap[-1].widget
    if len(titles) <= 2:
        short = f"drawn over {first.title}"
        why = f"Texts of {first.title} and {last.title} are drawn on top of each other on {screen.name}"
    else:
        named = ", ".join(titles[:NAMED]) + (f" and {len(titles) - NAMED} more" if len(titles) > NAMED else "")
        short = f"one of {len(titles)} texts on top of one another"
        why = f"Texts of {len(titles)} widgets are drawn on top of one another on {screen.name}: {named}"
    return Finding(
        last.id, short, why, "Move one of them, or show them at different times", about=first.id, trace=tracks.trace.name,
        start=frame, end=frame + 1, screen=screen.name,
    )  # fmt: skip


def _collision(case: Case, first: BoundWidget, second: BoundWidget, tracks: Tracks, screen: Screen) -> int | None:
    """Return the first frame at which texts of two widgets overlap."""
    both = case.memory.pair(
        first, second, ("texts", case.number(tracks)), partial(_texts_of_both, case, first, second, tracks)
    )
    if not both:
        return None
    frame = both[0][0]
    corners = [case.placed(tracks, one, frame, screen) for one in (first, second)]
    if corners[0] is None or corners[1] is None:
        return None
    (x, y, *_), (other_x, other_y, *_) = corners[0].rect, corners[1].rect
    scale = screen_scale(case.project, screen)
    aside, below = (other_x - x) / scale, (other_y - y) / scale
    return next((frame for frame, one, two in both if _collide(one, two, aside, below)), None)


def _texts_of_both(
    case: Case, first: BoundWidget, second: BoundWidget, tracks: Tracks
) -> list[tuple[int, tuple[Rect, ...], tuple[Rect, ...]]]:
    """Return simultaneous ink bounds of two widgets' texts, in reference pixels from their corners, with the first frame."""
    found: dict[tuple[tuple[Rect, ...], tuple[Rect, ...]], int] = {}
    for group in _together(case, first, second, tracks):
        frame = int(group.frames[0])
        one, two = (case.lettered(tracks, widget, frame) for widget in (first, second))
        if one and two:
            found.setdefault((one, two), frame)
    return [(frame, one, two) for (one, two), frame in found.items()]


def _collide(first: tuple[Rect, ...], second: tuple[Rect, ...], aside: float, below: float) -> bool:
    """Return whether two texts overlap. aside, below: offset of the second ones' corner from the first ones'."""
    moved = [Rect(r.x + aside, r.y + below, r.width, r.height) for r in second]
    return any(a.shared(b) > TOUCHING * min(a.width * a.height, b.width * b.height) for a in first for b in moved)


def _covered(case: Case) -> Iterator[Finding]:
    told: set[str] = set()
    for screen in unlike_screens(case):
        for below, above in _may_cover(case, screen):
            for tracks in case.tracks:
                if below.widget.id in told:
                    break
                key = ("covered", case.number(tracks), screen.name, screen.size, screen.scale)
                frame = case.memory.pair(below, above, key, partial(_always_hidden, case, below, above, tracks, screen))
                if frame is not None:
                    told.add(below.widget.id)
                    there = f" on {screen.name}" if screen is not case.screens[0] else ""
                    yield Finding(
                    below.widget.id, f"under {above.widget.title}",
                    f"{below.widget.title} is covered by {above.widget.title} whenever it is visible{there}",
                    f"Put it after {above.widget.title} in the drawing order, or move one of them", about=above.widget.id,
                    trace=tracks.trace.name, start=frame, end=frame + 1, screen=screen.name,
                )  # fmt: skip


def _may_cover(case: Case, screen: Screen) -> Iterator[tuple[BoundWidget, BoundWidget]]:
    """Yield pairs of widgets that may touch on a screen; if there are many, only with an opaque second one."""
    every = [copy for copy in copies(case) if not dims(copy)]
    dense = every
    if len(every) > MANY_WIDGETS:
        dense = [copy for copy in every if any(densest_fill(case, tracks, copy) > OPAQUE for tracks in case.tracks)]
    return touching_pairs(case, screen, every, dense)


def _always_hidden(case: Case, below: BoundWidget, above: BoundWidget, tracks: Tracks, screen: Screen) -> int | None:
    """Return a widget's first visible frame if another one always covers it completely, else None."""
    shows = case.visible(tracks, below)
    if not shows.any() or (shows & ~case.visible(tracks, above)).any():
        return None
    first = int(np.argmax(shows))
    if not _hidden(case, tracks, below, above, first, screen):
        return None
    every = (frame for group in _together(case, below, above, tracks) for frame in group.ends)
    return first if all(_hidden(case, tracks, below, above, frame, screen) for frame in every) else None


def _hidden(case: Case, tracks: Tracks, below: BoundWidget, above: BoundWidget, frame: int, screen: Screen) -> bool:
    one, two = case.placed(tracks, below, frame, screen), case.placed(tracks, above, frame, screen)
    if one is None or two is None:
        return False
    return any(fill.alpha > OPAQUE and not _beyond(one.reach, fill.rect) for fill in fills(two))


CHECKS = (
    Check("off-screen", "error", "A widget is cut off by a screen's edge or lies beyond it.", widget=_off_screen,
          of_views=True),
    Check("unsafe-edge", "warning", "A widget reaches into a screen's unsafe edge.", widget=_unsafe_edge,
          of_views=True),
    Check("overlaps", "warning", "Two texts are drawn on top of each other.", project=_overlaps, of_views=True),
    Check("covered", "warning", "A widget is covered by another whenever it is visible.", project=_covered, of_views=True),
)  # fmt: skip
