"""State stretches of a widget's lane, with bands distinguished by colour and hatching."""

from __future__ import annotations

import functools
from itertools import pairwise

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPixmap

from avrin.app.controls.theme import theme
from avrin.app.painting.offscreen import painting
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks, changes
from avrin.kinds.states import BROKEN, HIDDEN, MISSING, OFF
from avrin.trace.frames import Array

__all__ = ["Stretch", "band_colour", "fill_stretch", "stretches"]


class Stretch(Struct, frozen=True):
    """Frames from `start` to before `end` in one state; `name` is "" outside all bands."""

    start: int
    end: int
    name: str


def stretches(tracks: Tracks, widget: BoundWidget) -> list[Stretch]:
    """Return the stretches in which a widget is visible, split at states and runs."""
    column = tracks.column(widget.state)
    state: Array = column.data.astype(np.int64) * 1_000_000 + tracks.trace.run
    edges = np.concatenate(([0], changes(state), [len(state)])).astype(int).tolist()
    found = [Stretch(start, end, str(column[start] or "")) for start, end in pairwise(edges) if end > start]
    return [one for one in found if one.name != HIDDEN]


def band_colour(widget: BoundWidget, name: str) -> QColor:
    """Return a band's colour in lanes and cards: a standard one by name, else what the widget's look uses."""
    t = theme()
    usual = {
        BROKEN: t.critical,
        "": t.calm,
        "low": t.low,
        "critical": t.critical,
        MISSING: t.missing_line,
        OFF: t.missing_line,
    }
    if name in usual:
        return usual[name]
    look = widget.looks.get(name)
    own = next((c for c in (getattr(look, "fill", ""), getattr(look, "text", "")) if c), "")
    return QColor(own[:7]) if own else t.low


@functools.cache
def _hatch(colour: str, step: int) -> QBrush:
    """Return diagonal lines, `step` pixels apart, on a transparent background."""
    tile = QPixmap(step, step)
    tile.fill(Qt.GlobalColor.transparent)
    with painting(tile) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(colour), 1.2))
        for shift in (-step, 0, step):
            painter.drawLine(shift, step, shift + step, 0)
    return QBrush(tile)


HATCHES = {"low": 10, "critical": 5}


def fill_stretch(painter: QPainter, rect: QRectF, colour: QColor, name: str) -> None:
    """Fill a stretch; low is sparsely hatched and critical densely, so that hue is not needed to distinguish them."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    radius = 2 if rect.width() > 5 else 0
    painter.drawRoundedRect(rect, radius, radius)
    if name in HATCHES and rect.width() >= 3:
        painter.setBrush(_hatch("#38ffffff", HATCHES[name]))
        painter.drawRoundedRect(rect, radius, radius)
