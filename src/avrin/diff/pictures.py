"""Picture differences of two projects: frames on which a widget appeared, disappeared, moved or looks different."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.diff.stretches import differs, rows_of
from avrin.project.project import Project, Screen
from avrin.render.scene import widget_rect
from avrin.trace.frames import Array

__all__ = ["PictureStretch", "picture_stretches"]


class PictureStretch(Struct, frozen=True):
    """Consecutive frames of one run on which some widgets, given by id, are drawn differently.

    first, last: times of the first and last frame, in seconds. start: its first frame.
    """

    trace: str
    run: int
    first: float
    last: float
    frames: int
    start: int
    widgets: tuple[str, ...]


def picture_stretches(old: Tracks, new: Tracks) -> list[PictureStretch]:
    """Return those of one recording, in order. Both tracks must be over the same recording and of one graph."""
    trace = new.trace
    masks = {ident: _of_widget(ident, old, new) for ident in {**old.bound.widgets, **new.bound.widgets}}
    for ident, mask in _reordered(old, new).items():
        masks[ident] = masks[ident] | mask
    if _drawing_context(old.bound.project) != _drawing_context(new.bound.project):
        masks = {
            ident: mask | _visible_frames(old, ident) | _visible_frames(new, ident) for ident, mask in masks.items()
        }
    together = np.zeros(len(trace), bool)
    for mask in masks.values():
        together |= mask
    return [
        PictureStretch(
            trace.name, int(trace.run[start]), float(trace.t[start]), float(trace.t[end - 1]), end - start, start,
            tuple(ident for ident, mask in masks.items() if mask[start:end].any()),
        )
        for start, end in rows_of(trace, together)
    ]  # fmt: skip


def _drawing_context(project: Project) -> tuple[object, ...]:
    """Return everything that affects the drawing of all widgets."""
    return project.reference, project.fit, project.screens[:1]


def _screen(project: Project) -> Screen:
    return project.screens[0] if project.screens else Screen(name="", size=project.reference)


def _visible(tracks: Tracks, widget: BoundWidget) -> Array:
    return np.asarray(tracks.column(widget.columns["visible"]).data > 0)


def _visible_frames(tracks: Tracks, ident: str) -> Array:
    """Return frames on which a widget or a copy is visible; none for an unknown widget."""
    found = np.zeros(len(tracks.trace), bool)
    widget = tracks.bound.widgets.get(ident)
    for copy in widget.each() if widget is not None else ():
        found |= _visible(tracks, copy)
    return found


def _of_widget(ident: str, old: Tracks, new: Tracks) -> Array:
    """Return frames on which a widget is drawn differently, shape (T,)."""
    before, after = old.bound.widgets.get(ident), new.bound.widgets.get(ident)
    either = _visible_frames(old, ident) | _visible_frames(new, ident)
    if before is None or after is None or _drawn_by(old.bound, before) != _drawn_by(new.bound, after):
        return either
    found = np.zeros(len(new.trace), bool)
    for one, other in zip(before.each(), after.each(), strict=False):
        was, now = {**one.columns, **one.drawn}, {**other.columns, **other.drawn}
        for name in {**was, **now}:
            if name not in was or name not in now:
                return either
            if was[name] is not now[name]:
                found |= differs(old.column(was[name]), new.column(now[name]))
    return found & either if len(before.each()) == len(after.each()) else either


def _drawn_by(bound: Bound, widget: BoundWidget) -> tuple[object, ...]:
    """Return everything that affects the drawing of a widget in a state."""
    own = widget.widget
    rect = widget_rect(bound.project, own, _screen(bound.project))
    passages = (own.enter, own.leave, own.pop)
    return (own.kind, widget.options, dict(widget.looks), own.place, rect, own.repeat, own.missing, passages)


def _reordered(old: Tracks, new: Tracks) -> dict[str, Array]:
    """Return widgets whose order relative to another one changed, with the frames on which both are visible."""
    before = {ident: number for number, ident in enumerate(old.bound.widgets)}
    common = [ident for ident in new.bound.widgets if ident in before]
    ranks = [before[ident] for ident in common]
    found: dict[str, Array] = {}
    if ranks == sorted(ranks):
        return found
    rects = [widget_rect(new.bound.project, new.bound.widgets[i].widget, _screen(new.bound.project)) for i in common]
    seen: dict[str, Array] = {}  # cached per widget
    for i, j in _swapped(ranks):
        if rects[i].shared(rects[j]) > 0:
            pair = (common[i], common[j])
            seen.update((ident, _visible_frames(new, ident)) for ident in pair if ident not in seen)
            both = seen[pair[0]] & seen[pair[1]]
            found.update((ident, found.get(ident, both) | both) for ident in pair)
    return found


def _swapped(ranks: Sequence[int]) -> list[tuple[int, int]]:
    """Return pairs of positions with reversed order."""
    order = np.array(ranks)
    later, earlier = np.nonzero(np.tril(order[:, None] < order[None, :], -1))
    return list(zip(earlier.tolist(), later.tolist(), strict=True))
