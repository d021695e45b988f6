"""Size widgets for recorded values: their columns and their box."""

from __future__ import annotations

import math
from pathlib import Path

from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.project.project import Project, Widget
from avrin.render.columns import columns_fitted
from avrin.render.extent import beyond, declared_extent, extent
from avrin.trace.frames import Trace

__all__ = ["sized"]


def sized(project: Project, widget: Widget, trace: Trace, before: Bound | None = None, folder: Path = Path()) -> Widget:
    """Return a widget with room for everything it shows over a recording, and at the ends of its variables' ranges.

    It never exceeds the reference. project: the one it is made for. before, folder: see `bind`.
    """
    made = _bound(project, widget, trace, before, folder)
    if made is None:
        return widget
    found, tracks = made
    if found.kind.has_columns:
        widget = columns_fitted([tracks], found)
        made = _bound(project, widget, trace, tracks.bound, folder)
        if made is None:
            return widget
        found, tracks = made
    wide, high = widget.place.size
    upright = found.kind.fits != "line"
    for copy in found.each():
        got = extent(tracks, copy)
        for one in (got, declared_extent(tracks, copy, got.frame) if got is not None else None):
            if one is not None and beyond(copy, one):
                wide = max(wide, math.ceil(min(project.reference[0], one.most.width)))
                high = max(high, math.ceil(min(project.reference[1], one.most.height))) if upright else high
    return replace(widget, place=replace(widget.place, size=(float(wide), float(high))))


def _bound(
    project: Project, widget: Widget, trace: Trace, before: Bound | None, folder: Path
) -> tuple[BoundWidget, Tracks] | None:
    events = before.events if before is not None else trace.event_kinds
    bound = bind(project.with_widget(widget), before, events, folder)
    made = bound.widgets.get(widget.id)
    return None if made is None else (made, Tracks(bound, trace, only=[made]))
