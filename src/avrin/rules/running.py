"""Evaluate steps over a growing trace: each new stretch of frames is computed once, from the previous state."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from avrin.rules.scan import CHUNK, Scan, coded, cuts, happened
from avrin.rules.steps import COLUMN, DTYPES, Chunk, Graph, Step
from avrin.trace.frames import Array, Trace

__all__ = ["Running"]


class Running:
    """Values of steps so far; `take` extends them to a longer trace with the same beginning."""

    def __init__(self, steps: Sequence[Step], graph: Graph) -> None:
        self._graph = graph
        self._steps = list(dict.fromkeys(steps))
        self._scan = Scan(self._steps)
        self._columns = [step for step in self._scan.order if step.op is COLUMN]
        self._values: dict[Step, Array] = {step: np.empty(1024, DTYPES[step.kind]) for step in self._steps}
        self.frames = 0

    def take(self, trace: Trace) -> None:
        """Compute the new frames. Earlier values do not change."""
        if len(trace) <= self.frames:
            return
        for step, array in self._values.items():
            if len(trace) > len(array):
                grown = np.empty(2 * len(trace), array.dtype)
                grown[: self.frames] = array[: self.frames]
                self._values[step] = grown
        columns = {step.params[0]: coded(step, trace, self._graph) for step in self._columns}
        for start, end, first, began, run in cuts(trace, CHUNK, self.frames):
            cut = {name: column[start:end] for name, column in columns.items()}
            chunk = Chunk(trace.t[start:end], first, began, run, cut, self._graph.words, happened(trace, start, end))
            self._scan.feed(chunk, {step: array[start:end] for step, array in self._values.items()}, {})
        self.frames = len(trace)

    def values(self, step: Step) -> Array:
        """Return a step's values so far, shape (frames,)."""
        return self._values[step][: self.frames]
