"""Evaluate one frame of a trace with some steps replaced by other values, given the recorded past.

The past is not recomputed: scan states come from checkpoints, stored every `INTERVAL` frames.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Generator, Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from msgspec import Struct, field

from avrin.rules.scan import Scan, coded, cuts, happened
from avrin.rules.steps import COLUMN, DTYPES, Chunk, Graph, Step, run_once
from avrin.trace.frames import NO_TEXT, Array, Column, Trace, is_event_column

__all__ = ["INTERVAL", "Checkpoints", "WhatIf", "is_stateful", "step_order"]

INTERVAL = 16_384  # frames between checkpoints, the most that is scanned again for a frame
MAX_SINGLY = 4  # up to this many alternatives are evaluated one by one
RATE = 60  # frames per second in a series
SETTLED = 60.0  # seconds a replaced value has been held in the settled state

States = Mapping[Step, Any]


class Checkpoints:
    """Scan states of steps before any frame of one trace.

    known: values computed earlier on the same trace, arrays of shape (T,).
    """

    def __init__(self, trace: Trace, graph: Graph, given: Mapping[Step, Array]) -> None:
        self._trace, self._graph, self._known = trace, graph, given
        self._kept: dict[Step, dict[int, Any]] = {}  # by step, by frame: the state before that frame
        self._latest: tuple[int, dict[Step, Any]] = (-1, {})

    def before(self, steps: Iterable[Step], frame: int) -> Generator[None, None, States]:
        """Return the states of all stateful steps that `steps` depend on, yielding every `INTERVAL` frames.

        A step whose run begins at the frame has no state.
        """
        wanted = [step for step in step_order(steps) if is_stateful(step)]
        known = self._latest[1] if self._latest[0] == frame else {}
        if any(step not in known for step in wanted):
            # Stored only once complete: the caller may drop a scan halfway, or run two in turns.
            scanned = yield from self._scanned(wanted, frame)
            known = {**known, **{step: scanned.get(step) for step in wanted}}
            self._latest = (frame, known)
        return {step: known[step] for step in wanted if known[step] is not None}

    def _scanned(self, steps: list[Step], frame: int) -> Generator[None, None, dict[Step, Any]]:
        run_start = int(self._trace.run_starts[np.searchsorted(self._trace.run_starts, frame, "right") - 1])
        begin = 0 if any(step.op.ever for step in steps) else run_start
        marks = [mark for mark in range(0, frame + 1, INTERVAL) if mark > begin]
        start = next((m for m in reversed(marks) if all(m in self._kept.get(step, {}) for step in steps)), begin)
        known = {step: array for step, array in self._known.items() if step not in steps}
        scan = Scan(steps, frozenset(known))
        if start in marks:
            scan.resume({step: state for step in steps if (state := self._kept[step][start]) is not None})
        columns = {s.params[0]: coded(s, self._trace, self._graph) for s in scan.order if s.op is COLUMN}
        kept = {arg: known[arg] for step in scan.order for arg in step.args if arg in known}
        for a, b, first, began, run in cuts(self._trace, [*marks, frame], start):
            if a >= frame:
                break
            cut = {name: column[a:b] for name, column in columns.items()}
            events = happened(self._trace, a, b)
            chunk = Chunk(self._trace.t[a:b], first, began, run, cut, self._graph.words, events)
            scan.feed(chunk, {}, {step: array[a:b] for step, array in kept.items()})
            if b in marks:
                states = scan.states()
                for step in steps:
                    self._kept.setdefault(step, {})[b] = states.get(step)
            yield
        states = scan.states()
        if frame == run_start:  # only state that persists across runs is carried into a new one
            states = {step: state for step, state in states.items() if step.op.ever}
        return {step: states[step] for step in steps if step in states}


class WhatIf(Struct):
    """One frame of a trace with the values of some steps replaced.

    states: of all stateful steps, before the frame (`Checkpoints.before`). fixed: by replaced steps, the values of independent
    steps on the frame and settled, computed once.
    """

    trace: Trace
    graph: Graph
    frame: int
    states: States
    fixed: dict[frozenset[Step], dict[Step, tuple[Array, Array]]] = field(default_factory=dict)

    def values(self, steps: Sequence[Step], replaced: Mapping[Step, Array], *, settled: bool = False) -> list[Array]:
        """Return the steps' values for each of V replacements.

        replaced: steps and their values, shape (V,), or (1,) for all. settled: return the values `SETTLED` seconds
        later with nothing recorded changing; steps that never settle keep the frame's value.
        Returns arrays of shape (V,).
        """
        if not all(map(len, replaced.values())):
            return [np.empty(0, DTYPES[step.kind]) for step in steps]
        order = step_order(steps, replaced)
        here, later = self._chunks(order)
        carried = {arg for step in order if is_stateful(step) and step not in replaced for arg in _ancestors(step)}
        at: dict[Step, Array] = {}
        rest: dict[Step, Array] = {}
        fixed = self.fixed.setdefault(frozenset(replaced), {})
        hanging = set(replaced)  # the steps that depend on replaced ones
        with np.errstate(all="ignore"):
            for step in order:
                hangs = any(arg in hanging for arg in step.args)
                if step in replaced:
                    at[step] = rest[step] = replaced[step]
                elif step.constant is not None:
                    at[step] = rest[step] = step.constant
                elif step in fixed:
                    at[step], rest[step] = fixed[step]
                elif step.op is COLUMN:
                    at[step], rest[step] = here.columns[step.params[0]], later.columns[step.params[0]]
                elif is_stateful(step):
                    at[step], rest[step] = self._followed(step, here, later, at, rest)
                else:
                    self._quick(step, at, rest, both=not hangs, here=step in carried or not settled, settled=settled)
                if hangs:
                    hanging.add(step)
                elif step not in replaced and step in at:
                    fixed[step] = at[step], rest[step]
        count = max((len(values) for values in replaced.values()), default=1)
        found = rest if settled else at
        return [np.broadcast_to(found[step], (count,)) for step in steps]

    def _quick(
        self, step: Step, at: dict[Step, Array], rest: dict[Step, Array], *, both: bool, here: bool, settled: bool
    ) -> None:
        """Return an untimed step's values, both of them or only the requested ones."""
        args, after = [at[arg] for arg in step.args if arg in at], [rest[arg] for arg in step.args]
        moved = len(args) < len(after) or any(a is not b for a, b in zip(args, after, strict=True))
        if here or both:
            at[step] = run_once(step, args, self.graph)
        if step in at and (not moved or not (settled or both)):
            rest[step] = at[step]
        else:
            rest[step] = run_once(step, after, self.graph)

    def series(self, steps: Sequence[Step], replaced: Mapping[Step, Array], seconds: Sequence[float]) -> list[Array]:
        """Return the steps' values at ascending times after the frame, in seconds, with nothing recorded changing.

        replaced: steps and their values, shape (1,). Frames in between follow at `RATE`.
        Returns arrays of shape (seconds,).
        """
        count = 1 + math.ceil(max(seconds) * RATE)
        order = step_order(steps, replaced)
        here, later = self._chunks(order)
        scan = Scan([step for step in steps if step not in replaced], frozenset(replaced))
        scan.resume({step: self.states[step] for step in scan.order if step in self.states})
        found = {step: np.empty(count, DTYPES[step.kind]) for step in dict.fromkeys(steps)}
        for step, values in replaced.items():
            if step in found:
                found[step][:] = values[0]
        for chunk, a, b in ((here, 0, 1), (later, 1, count)):
            t = here.t[0] + np.arange(a, b) / RATE
            columns = {name: np.repeat(values, b - a) for name, values in chunk.columns.items()}
            fed = Chunk(t, chunk.first, chunk.began, chunk.run, columns, chunk.words, chunk.events)
            outs = {step: array[a:b] for step, array in found.items() if step not in replaced}
            scan.feed(fed, outs, {step: np.repeat(values, b - a) for step, values in replaced.items()})
        at = [round(second * RATE) for second in seconds]
        return [found[step][at] for step in steps]

    def _chunks(self, order: Sequence[Step]) -> tuple[Chunk, Chunk]:
        """Return the frame and a settled one after it, without events: they do not happen twice."""
        trace, frame = self.trace, self.frame
        start = int(trace.run_starts[np.searchsorted(trace.run_starts, frame, "right") - 1])
        began, run = float(trace.t[start]), int(trace.run[frame])
        columns = [step for step in order if step.op is COLUMN]
        at = {step.params[0]: _coded_at(step, trace, self.graph, frame) for step in columns}
        rest = {**at, **{s.params[0]: _nothing(s) for s in columns if is_event_column(s.params[0])}}
        t, words = trace.t[frame : frame + 1], self.graph.words
        events = happened(trace, frame, frame + 1)
        return (
            Chunk(t, frame == start, began, run, at, words, events),
            Chunk(t + SETTLED, False, began, run, rest, words),
        )

    def _followed(
        self, step: Step, here: Chunk, later: Chunk, at: Mapping[Step, Array], rest: Mapping[Step, Array]
    ) -> tuple[Array, Array]:
        """Return a stateful step's values on the frame and settled; its kernel runs once per distinct input."""
        args, after = [at[arg] for arg in step.args], [rest[arg] for arg in step.args]
        first, inverse = _different([*args, *after])
        before = self.states.get(step)
        if step.op.branch is not None and len(first) > MAX_SINGLY:
            inputs = [[arg if len(arg) == 1 else arg[first] for arg in side] for side in (args, after)]
            seconds = float(here.t[0]), float(later.t[0])
            found = step.op.branch(inputs[0], inputs[1], step.params, seconds, before)
            if found is not None:
                return found[0][inverse], found[1][inverse]
        values = np.empty((2, len(first)), DTYPES[step.kind])
        for number, i in enumerate(first.tolist()):
            state = step.op.kernel(values[0, number : number + 1], _picked(args, i), step.params, here, before)
            if step.op.rests:
                step.op.kernel(values[1, number : number + 1], _picked(after, i), step.params, later, state)
        if not step.op.rests:
            values[1] = values[0]
        return values[0, inverse], values[1, inverse]


@functools.lru_cache(maxsize=4096)
def _ancestors(step: Step) -> frozenset[Step]:
    """Return all steps a step depends on; those of stateful steps are needed on the frame itself."""
    return frozenset(_step_order(step.args, frozenset()))


def _picked(args: Sequence[Array], i: int) -> list[Array]:
    return [arg if len(arg) == 1 else arg[i : i + 1] for arg in args]


def _different(args: Sequence[Array]) -> tuple[Array, Array]:
    """Return the first index of each distinct combination of arguments, and each value's combination."""
    varying = [arg for arg in args if len(arg) > 1]
    if not varying:
        return np.zeros(1, np.int64), np.zeros(1, np.int64)
    rows = np.stack([np.ascontiguousarray(arg, np.float64).view(np.int64) for arg in varying])
    _, first, inverse = np.unique(rows, axis=1, return_index=True, return_inverse=True)
    return first, inverse.reshape(-1)


def _coded_at(step: Step, trace: Trace, graph: Graph, frame: int) -> Array:
    """Return a recorded column at one frame in the graph's codes, shape (1,)."""
    column = trace.find(step.params[0])
    if column is None or column.kind != step.kind:
        return Column.missing(1, step.kind).data
    if column.kind != "text":
        return column.data[frame : frame + 1]
    return graph.words.codes([column[frame]])  # type: ignore[list-item]  # a text column holds texts


def _nothing(step: Step) -> Array:
    """Return the value of an event's column on a frame without the event."""
    if step.kind == "number":
        return np.zeros(1) if "." not in step.params[0].partition("()")[2] else np.full(1, np.nan)
    return np.full(1, NO_TEXT if step.kind == "text" else 1, DTYPES[step.kind])


def is_stateful(step: Step) -> bool:
    """Return whether a step itself depends on time or earlier frames."""
    return step.op.timed and step.op is not COLUMN and step.constant is None


def step_order(steps: Iterable[Step], replaced: Iterable[Step] = ()) -> tuple[Step, ...]:
    """Return all steps that some depend on, arguments first, without those only replaced steps need."""
    return _step_order(tuple(steps), frozenset(replaced))


@functools.lru_cache(maxsize=256)
def _step_order(steps: tuple[Step, ...], replaced: frozenset[Step]) -> tuple[Step, ...]:
    order: dict[Step, None] = {}
    waiting = list(reversed(steps))
    while waiting:
        step = waiting[-1]
        ahead = [] if step in replaced else [arg for arg in reversed(step.args) if arg not in order]
        if step in order or not ahead:
            order.setdefault(step)
            waiting.pop()
        else:
            waiting += ahead
    return tuple(order)
