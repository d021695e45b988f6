"""The largest extent of a widget over a trace: growing texts, more pips, bars whose length depends on full."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.project.project import Variable
from avrin.render.appearances import Appearances, appearances
from avrin.render.bounds import bounds
from avrin.render.fonts import face, typeface
from avrin.render.layout import Rect
from avrin.render.scene import is_drawn, widget_shapes
from avrin.rules.what_if import is_stateful, step_order
from avrin.trace.frames import Array, Column, Trace, present

__all__ = ["Extent", "beyond", "declared_extent", "extent"]

WIDEST = 8  # texts of each column that are drawn: the widest by the table of advances
OUTGROWN = 3.0  # reference pixels beyond a box that are reported
SLACK = 1.0  # reference pixels by which antialiasing and rounding may exceed a box


class Extent(Struct, frozen=True):
    """most: bounds of all states' shapes, in reference pixels from the corner of the widget's box.

    over: how far they exceed the box at the left, top, right and bottom; 0 if they do not.
    frame: of the largest extent. grows: whether the box is exceeded at some frames only.
    """

    most: Rect
    over: tuple[float, float, float, float]
    frame: int
    grows: bool


def extent(tracks: Tracks, widget: BoundWidget, appearances_: Appearances | None = None) -> Extent | None:
    """Return the widget's largest extent over the trace; None if it is never visible. appearances_: its appearances, if known.

    Only some states are drawn: in each band those with the widest texts and the extreme numbers. That suffices
    because kinds only grow with a text's width or a number; ink bounds of
    equally wide texts differ by less than a letter.
    """
    width, height = widget.widget.place.size
    reaches = []
    for frame in _telling(tracks, widget, appearances_ if appearances_ is not None else appearances(tracks, widget)):
        state = tracks.state_apart(widget, frame)
        if not is_drawn(widget, state):
            continue
        clock = float(tracks.trace.t[frame])
        reach = bounds((widget_shapes(widget, state, clock, tracks.bound),))
        if reach.width > 0 and reach.height > 0:
            reaches.append((frame, reach))
    if not reaches:
        return None
    edges = np.array([(-r.x, -r.y, r.x + r.width - width, r.y + r.height - height) for _, r in reaches])
    over = np.maximum(edges, 0.0)
    furthest = over.max(axis=0)
    beyond = furthest > SLACK
    grows = bool((beyond & (furthest - over.min(axis=0) > SLACK)).any())
    left, top, right, bottom = edges.max(axis=0).tolist()
    area = [r.width * r.height for _, r in reaches]
    at = int(np.argmax(over.sum(axis=1))) if beyond.any() else int(np.argmax(area))
    told = np.where(beyond, furthest, 0.0).tolist()
    return Extent(
        Rect(-left, -top, right + width + left, bottom + height + top),
        (told[0], told[1], told[2], told[3]),
        reaches[at][0],
        grows,
    )


def _telling(tracks: Tracks, widget: BoundWidget, appearances_: Appearances) -> list[int]:
    """Return ascending frames at which a visible widget has an extreme value in some column.

    Texts are compared over all appearances, with one frame of each.
    """
    found: set[int] = set()
    bands = tracks.column(widget.columns["band"]).data
    visible = appearances_.codes[np.searchsorted(appearances_.starts, np.arange(len(bands)), "right") - 1] >= 0
    _, first = np.unique(appearances_.codes, return_index=True)
    each = np.sort(appearances_.starts[first[appearances_.codes[first] >= 0]])
    for band in present(bands[visible]):
        frames, one_of_each = np.flatnonzero(visible & (bands == band)), each[bands[each] == band]
        found.add(int(frames[0]))
        look = widget.looks.get(tracks.bound.graph.words.text(band) or "", widget.looks[""])
        even = look.figures == "even"
        font = typeface(look.font, tracks.bound.folder, bold=look.bold, even=even) or typeface(
            "", tracks.bound.folder, bold=look.bold, even=even
        )
        assert font is not None  # the bundled font always exists
        for name, step in (*widget.columns.items(), *widget.drawn.items()):
            if name in ("visible", "band") or step.constant is not None or step.kind == "flag":
                continue
            if step.kind == "number":
                found.update(frames[i] for i in _ends(tracks.column(step).data[frames]))
                continue
            texts = [str(tracks.value(step, int(frame)) or "") for frame in one_of_each.tolist()]
            widest = np.argsort(-face(font).widths(texts), kind="stable")[:WIDEST]
            found.update(one_of_each[widest].tolist())
    return sorted(int(frame) for frame in found)


def _ends(values: Array) -> list[int]:
    """Return the indexes of the minimum, the maximum and a missing value."""
    missing = np.isnan(values)
    known = np.flatnonzero(~missing)
    found = [int(known[np.argmin(values[known])]), int(known[np.argmax(values[known])])] if len(known) else []
    return [*found, *np.flatnonzero(missing)[:1].tolist()]


def beyond(widget: BoundWidget, got: Extent) -> float:
    """Return the reference pixels by which a widget exceeds its box: horizontally for text, otherwise in any direction."""
    left, top, right, bottom = got.over
    sides = (left, right) if widget.kind.fits == "line" else (left, top, right, bottom)
    edge = max((look.outline_width for look in widget.looks.values() if look.outline), default=0.0)
    worst = max(sides) - edge  # an outline surrounds the letters wherever they are
    return worst if worst > OUTGROWN and widget.kind.fits != "free" else 0.0


def declared_extent(tracks: Tracks, widget: BoundWidget, frame: int) -> Extent | None:
    """Return the extent with each variable at either end of its range and the rest as at a frame; None if it fits."""
    declared = tracks.bound.project.all_variables()
    sources = dict.fromkeys(name for step in widget.steps() for name in step.sources())
    ranged: dict[str, Variable] = {
        n: declared[n] for n in sources if n in declared and declared[n].type in ("int", "float")
    }
    held = {name: column[frame] for name, column in tracks.trace.columns.items() if name in sources}
    rows = [
        {**held, name: float(end)}
        for name, variable in ranged.items() for end in (variable.low, variable.high) if end is not None
    ]  # fmt: skip
    if not rows:
        return None
    columns = {name: Column.of([row.get(name) for row in rows]) for name in held}
    # Each row is a beginning of its own. Where nothing depends on earlier frames one run will do, evaluated at once.
    apart = any(is_stateful(step) for step in step_order(widget.steps()))
    runs = list(range(len(rows))) if apart else None
    trace = Trace.make("", [60.0 * i for i in range(len(rows))], columns, runs)
    got = extent(Tracks(tracks.bound, trace, only=[widget]), widget)
    return got if got is not None and beyond(widget, got) else None
