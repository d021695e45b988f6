"""Fit tables to recordings: which cell texts are cut, and the widths they need."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.kinds.kind import Cell
from avrin.project.project import Widget
from avrin.render.appearances import appearances
from avrin.render.scene import cells
from avrin.trace.frames import Trace

__all__ = ["CutCell", "columns_fitted", "cut_cells"]

SLACK = 0.5  # reference pixels by which a text may exceed its column without being cut


class CutCell(Struct, frozen=True):
    """A text too wide for its column. needs: its width in reference pixels. frame: of the recording."""

    cell: Cell
    needs: float
    trace: Trace
    frame: int


def cut_cells(every: Sequence[Tracks], widget: BoundWidget) -> list[CutCell]:
    """Return for each column the text that is cut most over some recordings, in the columns' order."""
    worst: dict[int, CutCell] = {}
    for tracks, frame, cell, needs in _texts(every, widget):
        known = worst.get(cell.column)
        if needs - cell.room > (known.needs - known.cell.room if known else SLACK):
            worst[cell.column] = CutCell(cell, needs, tracks.trace, frame)
    return [worst[column] for column in sorted(worst)]


def columns_fitted(every: Sequence[Tracks], widget: BoundWidget) -> Widget:
    """Return the widget with columns wide enough for every text of some recordings; itself without columns."""
    widest: dict[int, float] = {}
    for _, _, cell, needs in _texts(every, widget):
        if not cell.spans:
            widest[cell.column] = max(needs, widest.get(cell.column, 0.0))
    texts = [widest.get(column, 0.0) for column in range(max(widest, default=-1) + 1)]
    made: Widget = widget.kind.fitted(widget.widget, widget.looks[""], texts)
    return made


def _texts(every: Sequence[Tracks], widget: BoundWidget) -> Iterator[tuple[Tracks, int, Cell, float]]:
    """Yield each text in a column at a frame of each appearance, with its width."""
    for tracks in every if widget.kind.has_columns else ():
        seen = appearances(tracks, widget)
        _, first = np.unique(seen.codes, return_index=True)
        for frame in np.sort(seen.starts[first[seen.codes[first] >= 0]]).tolist():
            for cell, needs in cells(widget, tracks.state_apart(widget, frame), tracks.bound):
                yield tracks, frame, cell, needs
