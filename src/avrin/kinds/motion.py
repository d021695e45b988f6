"""Values that lag behind their target: the ghost of a bar's loss, a counter that rolls to its number.

Stretches without lag are copied whole; loops run only while something moves.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import Array

__all__ = ["roll", "trail"]

BLOCK = 512  # frames converted to Python numbers at a time


def _onwards(start: int, xs: Array, times: Array) -> Iterator[tuple[int, float, float]]:
    """Yield frames with values and times from `start` on, in blocks: most lags end after a few frames."""
    while start < len(xs):
        part = slice(start, start + BLOCK)
        yield from zip(range(start, start + BLOCK), xs[part].tolist(), times[part].tolist(), strict=False)
        start += BLOCK


def _trail(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: (ghost, previous value, time of the latest fall, previous time); missing values are skipped."""
    wait, rate = params
    xs = np.broadcast_to(args[0], (chunk.frames,))
    ghost, before, fell, then = state if state is not None else (np.nan, np.nan, -np.inf, chunk.t[0])
    out[...] = xs
    # Frames at which the ghost may leave the value: a fall, or a gap during which it stops.
    parts = np.flatnonzero(~(xs[1:] >= xs[:-1])) + 1
    at = 0
    settled = (ghost == before or ghost != ghost) and xs[0] >= ghost
    starts = parts.tolist() if settled else [0, *parts.tolist()]
    for start in starts:
        if start < at:
            continue
        if start > at:
            ghost = before = float(xs[start - 1])
            then = float(chunk.t[start - 1])
        for at, x, t in _onwards(start, xs, chunk.t):
            if x != x:
                out[at] = ghost
                then = t
                continue
            if not x < ghost:  # also at the first value, before there is a ghost
                ghost = x
            else:
                if x < before:
                    fell = t
                if t - fell >= wait:
                    ghost = max(x, ghost - rate * (t - then))
            before, then = x, t
            out[at] = ghost
            if ghost == x:
                break
        at += 1
    if at < chunk.frames:
        ghost = before = xs[-1]
        then = chunk.t[-1]
    return float(ghost), float(before), float(fell), float(then)


def _roll(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: (shown, shown when the target last changed, time of that, target)."""
    (duration,) = params
    xs = np.broadcast_to(args[0], (chunk.frames,))
    shown, start, since, target = state if state is not None else (np.nan, np.nan, 0.0, np.nan)
    new = np.flatnonzero(xs[1:] != xs[:-1]) + 1  # missing differs from itself, so each such frame is its own stretch
    edges = [0, *new.tolist(), chunk.frames]
    for begin, end in pairwise(edges):
        x = float(xs[begin])
        if x != x or shown != shown:  # missing, or the first number after a gap: nothing to roll from
            shown = start = target = x
        elif x != target:
            start, since, target = shown, float(chunk.t[begin]), x
        if start == target or x != x:
            out[begin:end] = x
        else:
            share = (chunk.t[begin:end] - since) / duration
            out[begin:end] = np.where(share >= 1, target, start + (target - start) * share)
        shown = float(out[end - 1])
    return shown, start, since, target


TRAIL = Op("trail", _trail, timed=True)
ROLL = Op("roll", _roll, timed=True)


def trail(graph: Graph, fraction: Step, wait: float, rate: float) -> Step:
    """Return a ghost that follows `fraction` upwards at once; after a fall it waits, then shrinks by `rate` per second.

    wait: seconds since the latest fall. While the fraction is missing the ghost does not move.
    """
    return graph.add(TRAIL, (fraction,), "number", (wait, rate))


def roll(graph: Graph, value: Step, duration: float) -> Step:
    """Return a number that reaches each new value linearly within `duration` seconds."""
    return graph.add(ROLL, (value,), "number", (duration,)) if duration > 0 else value
