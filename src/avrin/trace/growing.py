"""A trace that grows frame by frame, for live play and driving by hand.

Each `trace` is a view of the frames so far: buffers with spare room are shared, nothing is copied.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from avrin.trace.frames import MISSING, NO_TEXT, TRUE, Array, Column, ColumnKind, Event, Trace, Value

__all__ = ["Growing", "pinned"]


class Growing:
    """Start with the first frames of another trace, or empty."""

    def __init__(self, name: str, kinds: Mapping[str, ColumnKind], base: Trace, frames: int) -> None:
        self.name = name
        self.frames = frames
        self._kinds = {**{n: c.kind for n, c in base.columns.items()}, **kinds}
        room = max(1024, frames * 2)
        self._t, self._run = np.empty(room), np.empty(room, np.int32)
        self._t[:frames], self._run[:frames] = base.t[:frames], base.run[:frames]
        self._data: dict[str, Array] = {}
        self._codes: dict[str, dict[str, int]] = {}
        for title, kind in self._kinds.items():
            known = base.columns.get(title)
            column = known if known is not None and known.kind == kind else Column.missing(len(base), kind)
            data = np.empty(room, column.data.dtype)
            data[:frames] = column.data[:frames]
            self._data[title] = data
            if kind == "text":
                self._codes[title] = {word: code for code, word in enumerate(column.words)}
        at = base.event_frames
        self._events = [event for event, frame in zip(base.events, at, strict=True) if 0 <= frame < frames]

    def append(self, t: float, run: int, values: Mapping[str, Value]) -> None:
        """Append a frame. Variables not in `values` are missing."""
        at = self.frames
        if at == len(self._t):
            self._t, self._run = _doubled(self._t), _doubled(self._run)
            self._data = {title: _doubled(data) for title, data in self._data.items()}
        self._t[at], self._run[at] = t, run
        for title, kind in self._kinds.items():
            self._data[title][at] = self._raw(title, kind, values.get(title))
        self.frames += 1

    def happen(self, event: Event) -> None:
        """Append an event."""
        self._events.append(event)

    def _raw(self, title: str, kind: ColumnKind, value: Value) -> float:
        if kind == "number":
            return np.nan if value is None else float(value)
        if kind == "flag":
            return MISSING if value is None else TRUE if value else 0
        codes = self._codes[title]
        return NO_TEXT if value is None else codes.setdefault(str(value), len(codes))

    @property
    def trace(self) -> Trace:
        """Return a view of the frames so far."""
        n = self.frames
        columns = {
            title: Column(kind, self._data[title][:n], tuple(self._codes.get(title, ()))) for title, kind in self._kinds.items()
        }  # fmt: skip
        return Trace(self.name, self._t[:n], self._run[:n], columns, tuple(self._events))


def _doubled(array: Array) -> Array:
    grown = np.empty(2 * len(array), array.dtype)
    grown[: len(array)] = array
    return grown


def pinned(trace: Trace, pins: Mapping[str, Value], kinds: Mapping[str, ColumnKind]) -> Trace:
    """Return the trace with some variables held at a constant. kinds: of those the trace does not contain."""
    columns = dict(trace.columns)
    for name, value in pins.items():
        kind = kinds.get(name) or (columns[name].kind if name in columns else "number")
        one = Column.of([value]) if value is not None else Column.missing(1, kind)
        columns[name] = Column(kind, np.full(len(trace), one.data[0], one.data.dtype), one.words)
    return Trace(trace.name, trace.t, trace.run, columns, trace.events, trace.clock)
