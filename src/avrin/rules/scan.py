"""Evaluate steps over frames (last stage: parse -> check -> scan), chunk by chunk.

A chunk never spans two runs, so an operator sees frames of one run only. Chunks are short enough
for every value in use to stay in the processor's cache. A step receives the state of its previous
chunk, so the result does not depend on the chunk size; live play uses chunks of one frame.
"""

from __future__ import annotations

import functools
import os
import threading
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np

from avrin.rules.operators import absent
from avrin.rules.steps import COLUMN, DTYPES, Chunk, Graph, Kernel, Step
from avrin.trace.frames import MISSING, NO_TEXT, TRUE, Array, Column, ColumnKind, Event, Trace, Value

if TYPE_CHECKING:
    from concurrent.futures import ThreadPoolExecutor

__all__ = ["CHUNK", "Scan", "as_column", "evaluate", "plain_value"]

CHUNK = 65_536  # frames; shorter chunks cost more loop overhead, longer ones exceed the cache


class _Spare(threading.local):
    """A pool of chunk-sized arrays for each thread: allocating new ones costs more than the arithmetic."""

    def __init__(self) -> None:
        self.arrays: dict[tuple[ColumnKind, int], list[Array]] = {}


_SPARE = _Spare()
WORTH_A_THREAD = 4_000_000  # frames times steps above which a second thread pays off
MOST_THREADS = 4
MOST_SPARE = 64  # arrays of one kind and length


class Scan:
    """Steps ready to be evaluated chunk by chunk.

    known: steps whose values are given; their arrays come with each chunk.
    complete: names of variables that are never missing. apart: each run is a recording of its own.
    """

    def __init__(
        self,
        roots: Sequence[Step],
        given: frozenset[Step] = frozenset(),
        complete: frozenset[str] = frozenset(),
        *,
        separate_runs: bool = False,
    ) -> None:
        self.order = order = _ordered(roots, given)
        last_use = {arg: i for i, step in enumerate(order) for arg in step.args}
        done_after: list[list[Step]] = [[] for _ in order]
        for arg, i in last_use.items():
            done_after[i].append(arg)
        self._constants = {step: step.constant for step in order if step.constant is not None}
        self._columns = [step for step in order if step.op is COLUMN]
        self._program = [
            (step, kernel, step.args, done)
            for step, kernel, done in zip(order, _kernels(order, complete), done_after, strict=True)
            if step.constant is None and step.op is not COLUMN
        ]
        self._lasting = [] if separate_runs else [step for step, *_ in self._program if step.op.ever]
        self._states: dict[Step, Any] = {}
        self._single: dict[Step, Array] = {}
        self._spare = _SPARE.arrays

    def feed(  # noqa: C901  (the loop that every value goes through: a call more a step costs a tenth of it)
        self, chunk: Chunk, outs: Mapping[Step, Array], given: Mapping[Step, Array]
    ) -> None:
        """Evaluate one chunk and write the roots' values into `outs`, arrays of shape (n,)."""
        states = self._states
        if chunk.first:
            lasting = {step: states[step] for step in self._lasting if step in states}
            states.clear()
            states.update(lasting)
        values: dict[Step, Array] = {**given, **self._constants}
        for step in self._columns:
            values[step] = chunk.columns[step.params[0]]
        frames = len(chunk.t)
        lent: dict[Step, Array] = {}
        with np.errstate(all="ignore"):
            for step, kernel, args, done in self._program:
                out = outs.get(step)
                if out is None:
                    out = self._between(step) if frames == 1 else self._borrow(step, frames)
                    if frames > 1:
                        lent[step] = out
                state = kernel(out, [values[arg] for arg in args], step.params, chunk, states.get(step))
                if state is not None:
                    states[step] = state
                values[step] = out
                if lent:
                    for arg in done:
                        if arg in lent:
                            self._give_back(arg, lent.pop(arg))
        for step, out in outs.items():
            if values[step] is not out:
                out[...] = values[step]
        for step, array in lent.items():
            self._give_back(step, array)

    def states(self) -> dict[Step, Any]:
        """Return each step's state; kernels return new states and never modify old ones."""
        return dict(self._states)

    def resume(self, states: Mapping[Step, Any]) -> None:
        """Continue from the states of another scan of the same steps."""
        self._states.clear()
        self._states.update(states)

    def _between(self, step: Step) -> Array:
        """In live play an intermediate value is one element, reused for the next frame."""
        out = self._single.get(step)
        if out is None:
            out = self._single[step] = np.empty(1, DTYPES[step.kind])
        return out

    def _borrow(self, step: Step, frames: int) -> Array:
        spare = self._spare.get((step.kind, frames))
        return spare.pop() if spare else np.empty(frames, DTYPES[step.kind])

    def _give_back(self, step: Step, array: Array) -> None:
        waiting = self._spare.setdefault((step.kind, len(array)), [])
        if len(waiting) < MOST_SPARE and len(self._spare) < MOST_SPARE:
            waiting.append(array)


def _ordered(roots: Sequence[Step], given: frozenset[Step]) -> list[Step]:
    """Return every step the roots need, arguments before their users."""
    order: dict[Step, None] = {}
    waiting = list(reversed(roots))
    while waiting:
        step = waiting[-1]
        if step in order or step in given:
            waiting.pop()
            continue
        ahead = [arg for arg in reversed(step.args) if arg not in order and arg not in given]
        if ahead:
            waiting.extend(ahead)
        else:
            order[step] = None
            waiting.pop()
    return list(order)


def _kernels(order: Sequence[Step], names: frozenset[str]) -> list[Kernel]:
    """Return each step's kernel: the faster one where its arguments are never missing."""
    complete: set[Step] = set()
    kernels = []
    for step in order:
        fast = step.op.complete is not None and all(arg in complete for arg in step.args)
        if step.constant is not None:
            known = not absent(step.constant, step.kind)[0]
        else:
            known = fast or (step.op is COLUMN and step.params[0] in names)
        if known:
            complete.add(step)
        kernels.append(step.op.complete if fast and step.op.complete is not None else step.op.kernel)
    return kernels


def evaluate(
    steps: Sequence[Step],
    trace: Trace,
    graph: Graph,
    *,
    given: Mapping[Step, Array] | None = None,
    chunk: int | Sequence[int] = CHUNK,
    separate_runs: bool = False,
) -> list[Array]:
    """Return the steps' values over a whole trace, arrays of shape (T,) in the order of `steps`.

    given: values computed earlier on the same trace.
    chunk: frames per chunk, or the frames at which to split. separate_runs: each run is a recording of its own.
    A variable that the trace lacks, or holds as another kind, is missing throughout.
    """
    given = given or {}
    todo = list(dict.fromkeys(step for step in steps if step not in given))
    order = _ordered(todo, frozenset(given))
    used = {step for step in order if step.op is COLUMN}
    complete = frozenset(s.params[0] for s in used if _is_complete(s, trace))
    columns = {step.params[0]: coded(step, trace, graph) for step in used}
    results = _results(todo, len(trace))
    kept = {arg: given[arg] for step in order for arg in step.args if arg in given}
    pieces = list(cuts(trace, chunk))

    def work(roots: Sequence[Step]) -> None:
        scan = Scan(roots, frozenset(given), complete, separate_runs=separate_runs)
        mine = {step: results[step] for step in roots}
        for start, end, first, began, run in pieces:
            cut = {k: v[start:end] for k, v in columns.items()}
            scan.feed(
                Chunk(trace.t[start:end], first, began, run, cut, graph.words, happened(trace, start, end)),
                {step: array[start:end] for step, array in mine.items()},
                {step: array[start:end] for step, array in kept.items()},
            )

    shares = _shares(todo, order) if len(trace) * len(order) >= WORTH_A_THREAD and len(trace) >= CHUNK else [todo]
    if len(shares) == 1:
        work(todo)
    else:
        list(_pool().map(work, shares))
    return [results[step] if step in results else given[step] for step in steps]


def _results(steps: Sequence[Step], frames: int) -> dict[Step, Array]:
    """Return an array per step; those of one kind share a block, because one allocation is cheaper than many."""
    found: dict[Step, Array] = {}
    for kind, dtype in DTYPES.items():
        mine = [step for step in steps if step.kind == kind]
        found.update(zip(mine, np.empty((len(mine), frames), dtype), strict=True))
    return found


def _shares(roots: Sequence[Step], order: Sequence[Step]) -> list[list[Step]]:
    """Split roots between processors, keeping steps with common work together; one share if they cannot be split."""
    group: dict[Step, Step] = {}  # union-find: each step's link to its group's representative

    def head(step: Step) -> Step:
        while group.setdefault(step, step) is not step:
            group[step] = group[group[step]]
            step = group[step]
        return step

    for step in order:
        for arg in step.args:
            if arg.constant is None and arg.op is not COLUMN:
                group[head(arg)] = head(step)
    sizes = Counter(head(step) for step in order)
    together: dict[Step, list[Step]] = {}
    for root in roots:
        together.setdefault(head(root), []).append(root)
    shares: list[tuple[int, list[Step]]] = [(0, []) for _ in range(min(MOST_THREADS, os.cpu_count() or 1))]
    for key in sorted(together, key=lambda k: -sizes[k]):
        least = min(range(len(shares)), key=lambda i: shares[i][0])
        shares[least] = (shares[least][0] + sizes[key], shares[least][1] + together[key])
    return [share for _, share in shares if share]


@functools.cache
def _pool() -> ThreadPoolExecutor:
    from concurrent.futures import ThreadPoolExecutor  # late: 7 ms

    return ThreadPoolExecutor(MOST_THREADS, "rules")


def cuts(trace: Trace, chunk: int | Sequence[int], after: int = 0) -> Iterator[tuple[int, int, bool, float, int]]:
    """Yield chunks as (first frame, end frame, whether a run begins, that run's first time, its number).

    after: frames before this one are skipped.
    """
    for run, began, end in trace.runs():
        start = max(began, after)
        if start >= end:
            continue
        marks = range(start + chunk, end, chunk) if isinstance(chunk, int) else [c for c in chunk if start < c < end]
        edges = [start, *marks, end]
        for a, b in pairwise(edges):
            yield a, b, a == began, float(trace.t[began]), run


def happened(trace: Trace, start: int, end: int) -> list[tuple[int, Event]]:
    """Return the events of frames start..end, each with its frame counted from `start`."""
    if not trace.events:
        return []
    frames, events = trace.events_by_frame
    first, last = np.searchsorted(frames, [start, end]).tolist()
    return [(int(frames[i]) - start, events[i]) for i in range(first, last)]


def _is_complete(step: Step, trace: Trace) -> bool:
    column = trace.find(step.params[0])
    return column is not None and column.kind == step.kind and trace.is_complete(step.params[0])


def coded(step: Step, trace: Trace, graph: Graph) -> Array:
    """Return a recorded column in the graph's codes, shape (T,)."""
    column = trace.find(step.params[0])
    if column is None or column.kind != step.kind:
        return Column.missing(len(trace), step.kind).data
    if column.kind != "text":
        return column.data
    lookup = np.append(graph.words.codes(column.words), np.int32(NO_TEXT))  # code -1 selects the last entry
    return lookup[column.data]


def plain_value(step: Step, raw: float, graph: Graph) -> Value:
    """Return one computed value as a Python value; None for missing."""
    if step.kind == "number":
        return None if raw != raw else float(raw)
    if step.kind == "flag":
        return None if raw == MISSING else bool(raw == TRUE)
    return graph.words.text(int(raw))


def as_column(step: Step, values: Array, graph: Graph) -> Column:
    """Return computed values, shape (T,), as a trace's column."""
    return Column(step.kind, values, graph.words.column() if step.kind == "text" else ())
