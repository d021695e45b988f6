"""A sweep's table for display: the states of one widget in each recording."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq
from msgspec import Struct
from numpy.typing import NDArray

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.kinds.states import HIDDEN
from avrin.ladder.coverage import state_stretches
from avrin.sweep.parts import STATES
from avrin.trace.frames import FloatArray

__all__ = ["OfWidget", "Outline", "Shown", "outline"]

Counts = NDArray[np.int64]


class OfWidget(Struct, frozen=True, eq=False):
    """The states of one widget in all recordings. states: their names. All arrays: shape (recordings, states).

    seconds, share of its time, entries, longest: from the table, over all runs. run, first: of the first occurrence, the run's
    number and the recording's seconds; run is 0 if it never occurred.
    """

    recordings: tuple[str, ...]
    states: tuple[str, ...]
    seconds: FloatArray
    share: FloatArray
    entries: Counts
    longest: FloatArray
    run: Counts
    first: FloatArray


class Outline(Struct, frozen=True, eq=False):
    """A miniature of a recording for one widget. low, high: of its level in each pixel column, NaN where missing.

    stretches: start and end, 0–1 of the recording, of each state.
    """

    low: FloatArray
    high: FloatArray
    stretches: tuple[tuple[float, float, str], ...]


class Shown:
    """recordings: the readable ones, in order. widgets: as named in tracks, in order."""

    def __init__(self, table: pa.Table) -> None:
        self._table = table
        self.recordings: tuple[str, ...] = tuple(pc.unique(table["recording"]).to_pylist())
        self.widgets: tuple[str, ...] = tuple(pc.unique(table["widget"]).to_pylist())

    @classmethod
    def read(cls, path: Path) -> Shown:
        """Read a sweep's table. Raises AvrinError if it is invalid."""
        try:
            table = pq.read_table(path)
        except (OSError, pa.ArrowException) as error:
            raise AvrinError(f"cannot be read ({error})", place=(str(path),), advice="Sweep again") from None
        if table.schema.names != STATES.names:
            raise AvrinError("is not a table of states", place=(str(path),), advice="Sweep again")
        return cls(table)

    def of(self, widget: str, states: Sequence[str]) -> OfWidget:
        """Return one widget's states, including named ones that never occurred."""
        mine = self._table.filter(pc.equal(self._table["widget"], widget))
        shape = len(self.recordings), len(states)
        row = pc.index_in(mine["recording"], pa.array(self.recordings)).to_numpy()
        column = pc.index_in(mine["state"], pa.array(states)).fill_null(-1).to_numpy()
        known = column >= 0
        at = row[known] * len(states) + column[known]
        value = {name: mine[name].to_numpy()[known] for name in STATES.names[4:]}
        runs = mine["run"].to_numpy()[known].astype(np.int64)

        def summed(name: str) -> FloatArray:
            return np.bincount(at, value[name], shape[0] * shape[1]).astype(np.float64).reshape(shape)

        longest, run, first = np.zeros(shape), np.zeros(shape, np.int64), np.full(shape, np.nan)
        np.maximum.at(longest.reshape(-1), at, value["longest"])
        # Rows are ordered by run: writing them in reverse leaves the first run's value.
        run.reshape(-1)[at[::-1]], first.reshape(-1)[at[::-1]] = runs[::-1], value["first"][::-1]
        seconds = summed("seconds")
        whole = np.bincount(row, mine["seconds"].to_numpy(), shape[0])[:, None]
        share = np.divide(seconds, whole, out=np.zeros(shape), where=whole > 0)
        return OfWidget(
            self.recordings, tuple(states), seconds, share, summed("entries").astype(np.int64), longest, run, first
        )

    def states(self, widget: BoundWidget) -> tuple[str, ...]:
        """Return a widget's bands, "" for none, hidden, and other states that occurred."""
        usual = [*(band.name for band in widget.widget.bands), "", HIDDEN]
        mine = self._table.filter(pc.equal(self._table["widget"], widget.track_name))
        return tuple(dict.fromkeys([*usual, *pc.unique(mine["state"]).to_pylist()]))

    def never(self, bound: Bound) -> list[tuple[str, str]]:
        """Return bands that never occurred, with the widget's name in tracks."""
        pairs = pc.binary_join_element_wise(self._table["widget"], self._table["state"], "\n")
        came = set(pc.unique(pairs).to_pylist())
        wanted = ((copy.track_name, band.name) for copy in _copies(bound) for band in copy.widget.bands)
        return [(widget, band) for widget, band in wanted if f"{widget}\n{band}" not in came]


def _copies(bound: Bound) -> Iterable[BoundWidget]:
    return (copy for widget in bound.widgets.values() for copy in widget.each())


def outline(tracks: Tracks, widget: BoundWidget, columns: int) -> Outline:
    """Return a miniature of a recording. columns: its width in pixels."""
    axis, found = tracks.trace.axis, state_stretches(tracks, widget)
    whole = float(axis[-1] + tracks.trace.frame_time) if len(axis) else 1.0
    ends = np.append(axis, whole)
    stretches = tuple(
        (float(ends[first]) / whole, float(ends[end]) / whole, found.names[state])
        for first, end, state in zip(found.first.tolist(), found.end.tolist(), found.state.tolist(), strict=True)
    )
    low, high = np.full(columns, np.nan), np.full(columns, np.nan)
    if widget.level is not None and len(axis):
        level = np.asarray(tracks.column(widget.level).data, np.float64)
        edges = np.searchsorted(axis, np.arange(columns + 1) * (whole / columns))
        pairs = np.empty(2 * columns, np.int64)
        pairs[0::2] = np.minimum(np.maximum(edges[:-1] - 1, 0), len(level) - 1)  # the previous frame extends into it
        pairs[1::2] = np.maximum(edges[1:], pairs[0::2] + 1)
        padded = np.append(level, np.nan)
        low, high = (how.reduceat(padded, pairs)[0::2] for how in (np.fmin, np.fmax))
    return Outline(low, high, stretches)
