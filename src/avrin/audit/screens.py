"""Where widgets lie on every screen: off it, in its unsafe edge, over one another."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from avrin.audit.case import Case
from avrin.audit.finding import Check, Finding
from avrin.audit.layers import fills
from avrin.model import Screen
from avrin.render import Extent, Rect, safe_area, screen_scale, texts, widget_rect
from avrin.widgets import BoundWidget, Tracks

__all__ = ["CHECKS"]

SLACK = 1.0  # pixels
TOUCHING = 0.08  # share of the smaller of two texts from which they are drawn on top of each other
OPAQUE = 0.85
LOOKS = 6  # moments at which two widgets are compared


Reach = tuple[Rect, Tracks, Extent]


def _reach(case: Case, widget: BoundWidget, screen: Screen) -> Reach | None:
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


def _beyond(rect: Rect, area: Rect) -> float:
    """Pixels by which a rectangle reaches out of an area, 0 where it lies within."""
    right, bottom = rect.x + rect.width, rect.y + rect.height
    out = max(area.x - rect.x, area.y - rect.y, right - area.x - area.width, bottom - area.y - area.height)
    return out if out > SLACK else 0.0


def _off_screen(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for screen in case.screens:
        reach = _reach(case, widget, screen)
        if reach is None or _dims(widget):
            continue
        rect, tracks, got = reach
        whole = Rect(0, 0, *screen.size)
        gone = rect.shared(whole) <= 0
        if (by := _beyond(rect, whole)) and (gone or not widget.kind.may_bleed):
            word = "wholly off the screen" if gone else f"{by:.0f} pixels off the screen"
            yield Finding(
                widget.widget.id, f"{'off' if gone else 'cut off on'} {screen.name}",
                f"{widget.widget.title} is {word} on {screen.name} ({screen.size[0]} × {screen.size[1]})",
                "Hang it from the corner it belongs to, or make it smaller", about=screen.name,
                trace=tracks.trace.name, start=got.frame, end=got.frame + 1, screen=screen.name,
            )  # fmt: skip
            return


def _dims(widget: BoundWidget) -> bool:
    """Whether it darkens the whole screen by design."""
    return bool(getattr(widget.options, "dim", 0.0))


def _unsafe_edge(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for screen in case.screens:
        reach = _reach(case, widget, screen) if screen.safe else None
        if reach is None or _dims(widget) or widget.kind.may_bleed:
            continue
        rect, tracks, got = reach
        if (by := _beyond(rect, safe_area(screen))) and not _beyond(rect, Rect(0, 0, *screen.size)):
            yield Finding(
                widget.widget.id, f"in the unsafe edge of {screen.name}",
                f"{widget.widget.title} reaches {by:.0f} pixels into the edge of {screen.name} that may not be seen",
                "Move it inwards", about=screen.name, trace=tracks.trace.name, start=got.frame, end=got.frame + 1,
                screen=screen.name,
            )  # fmt: skip
            return


# -- one over another --------------------------------------------------------------------------------------------------


def _near(case: Case, screen: Screen) -> Iterator[tuple[BoundWidget, BoundWidget, Tracks, tuple[int, ...]]]:
    """Pairs of widgets, the later drawn one second, that may touch on a screen; with frames at which both are to be seen."""
    each = [copy for widget in case.bound.widgets.values() for copy in widget.each() if not _dims(widget)]
    found = [(copy, reach) for copy in each if (reach := _reach(case, copy, screen))]
    if not found:
        return
    rects = np.array([reach[0] for _, reach in found])
    left, top = rects[:, 0], rects[:, 1]
    right, bottom = left + rects[:, 2], top + rects[:, 3]
    across = np.minimum(right[:, None], right) - np.maximum(left[:, None], left)
    along = np.minimum(bottom[:, None], bottom) - np.maximum(top[:, None], top)
    touching = (across > 0) & (along > 0) & (across * along > SLACK)
    for i, k in np.argwhere(np.triu(touching, 1)).tolist():
        first, second = found[i][0], found[k][0]
        for number, tracks in enumerate(case.tracks):
            frames = case.memory.pair(
                first, second, ("together", number), partial(_together, case, first, second, tracks)
            )
            if frames:
                yield first, second, tracks, frames


def _together(case: Case, first: BoundWidget, second: BoundWidget, tracks: Tracks) -> tuple[int, ...]:
    """Some frames, evenly taken, at which both are to be seen, and those at which either reaches furthest."""
    both = case.visible(tracks, first) & case.visible(tracks, second)
    frames = np.flatnonzero(both)
    if not len(frames):
        return ()
    picked = {*frames[np.linspace(0, len(frames) - 1, LOOKS).astype(int)].tolist()}
    for widget in (first, second):
        got = case.extent(tracks, widget)
        if got is not None and both[got.frame]:
            picked.add(got.frame)
    return tuple(sorted(picked))


def _overlaps(case: Case) -> Iterator[Finding]:
    told: set[tuple[str, str]] = set()
    for screen in case.screens:
        for first, second, tracks, frames in _near(case, screen):
            pair = (first.widget.id, second.widget.id)
            if pair in told:
                continue
            key = ("overlap", case.number(tracks), screen.name, screen.size)
            frame = case.memory.pair(
                first, second, key, partial(_collision, case, first, second, tracks, frames, screen)
            )
            if frame is not None:
                told.add(pair)
                yield Finding(
                    pair[1], f"drawn over {first.widget.title}",
                    f"Texts of {first.widget.title} and {second.widget.title} are drawn on top of each other on {screen.name}",
                    "Move one of them, or let them not show at once", about=pair[0], trace=tracks.trace.name,
                    start=frame, end=frame + 1, screen=screen.name,
                )  # fmt: skip


def _collision(
    case: Case, first: BoundWidget, second: BoundWidget, tracks: Tracks, frames: tuple[int, ...], screen: Screen
) -> int | None:
    """The first of some frames at which texts of two widgets are drawn on top of each other."""
    return next((frame for frame in frames if _collide(case, tracks, first, second, frame, screen)), None)


def _collide(case: Case, tracks: Tracks, first: BoundWidget, second: BoundWidget, frame: int, screen: Screen) -> bool:
    one, two = case.placed(tracks, first, frame, screen), case.placed(tracks, second, frame, screen)
    if one is None or two is None:
        return False
    return any(
        a.shared(b) > TOUCHING * min(a.width * a.height, b.width * b.height)
        for _, a in texts(one) for _, b in texts(two)
    )  # fmt: skip


def _covered(case: Case) -> Iterator[Finding]:
    screen = case.screens[0]
    told: set[str] = set()
    for below, above, tracks, frames in _near(case, screen):
        always = case.memory.pair(
            below, above, ("always", case.number(tracks)), partial(_always, case, below, above, tracks)
        )
        if below.widget.id in told or not always:
            continue
        if all(_hidden(case, tracks, below, above, frame, screen) for frame in frames):
            told.add(below.widget.id)
            yield Finding(
                below.widget.id, f"under {above.widget.title}",
                f"{below.widget.title} lies under {above.widget.title} whenever it shows",
                f"Put it after {above.widget.title} in the order of drawing, or move one of them", about=above.widget.id,
                trace=tracks.trace.name, start=frames[0], end=frames[0] + 1, screen=screen.name,
            )  # fmt: skip


def _always(case: Case, below: BoundWidget, above: BoundWidget, tracks: Tracks) -> bool:
    """Whether the one above is to be seen whenever the one below is."""
    return not (case.visible(tracks, below) & ~case.visible(tracks, above)).any()


def _hidden(case: Case, tracks: Tracks, below: BoundWidget, above: BoundWidget, frame: int, screen: Screen) -> bool:
    one, two = case.placed(tracks, below, frame, screen), case.placed(tracks, above, frame, screen)
    if one is None or two is None:
        return False
    return any(fill.alpha > OPAQUE and not _beyond(one.reach, fill.rect) for fill in fills(two))


CHECKS = (
    Check("off-screen", "error", "A widget is cut off by a screen's edge, or wholly beyond it.", widget=_off_screen),
    Check("unsafe-edge", "warning", "A widget reaches into a screen's unsafe edge.", widget=_unsafe_edge),
    Check("overlaps", "warning", "Two texts are drawn on top of each other.", project=_overlaps),
    Check("covered", "warning", "A widget lies under another whenever it shows.", project=_covered),
)  # fmt: skip
