"""Values that lag behind what they follow: the ghost of a bar's loss, a counter that rolls to its number.

Both depend on all frames before, one after another; they are loops, entered only where something moves.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from avrin.rules import Chunk, Graph, Op, Step
from avrin.trace import Array

__all__ = ["roll", "trail"]


def _trail(out: Array, args: Sequence[Array], params: tuple[Any, ...], chunk: Chunk, state: Any) -> Any:
    """State: (ghost, value before, time of the latest fall, time before)."""
    wait, rate = params
    xs = np.broadcast_to(args[0], (chunk.frames,))
    ghost, before, fell, then = state if state is not None else (np.nan, np.nan, -np.inf, chunk.t[0])
    if ghost == before and (xs == before).all():
        out[...] = xs
        return ghost, before, fell, float(chunk.t[-1])
    ghosts = []
    for x, t in zip(xs.tolist(), chunk.t.tolist(), strict=True):
        if x != x:  # missing: the ghost stands
            ghosts.append(ghost)
            then = t
            continue
        if not x < ghost:  # also at the first value, when there is no ghost yet
            ghost = x
        else:
            if x < before:
                fell = t
            if t - fell >= wait:
                ghost = max(x, ghost - rate * (t - then))
        before, then = x, t
        ghosts.append(ghost)
    out[...] = ghosts
    return ghost, before, fell, then


def _roll(out: Array, args: Sequence[Array], params: tuple[Any, ...], chunk: Chunk, state: Any) -> Any:
    """State: (shown, shown when the target last changed, time of that, target)."""
    (duration,) = params
    xs = np.broadcast_to(args[0], (chunk.frames,))
    shown, start, since, target = state if state is not None else (np.nan, np.nan, 0.0, np.nan)
    if shown == target and (xs == target).all():
        out[...] = xs
        return shown, start, since, target
    numbers = []
    for x, t in zip(xs.tolist(), chunk.t.tolist(), strict=True):
        if x != x or shown != shown:  # missing, or the first number after a gap: nothing to roll from
            shown = start = target = x
        else:
            if x != target:
                start, since, target = shown, t, x
            share = (t - since) / duration
            shown = target if share >= 1 or start == target else start + (target - start) * share
        numbers.append(shown)
    out[...] = numbers
    return shown, start, since, target


TRAIL = Op("trail", _trail, timed=True)
ROLL = Op("roll", _roll, timed=True)


def trail(graph: Graph, fraction: Step, wait: float, rate: float) -> Step:
    """A ghost that follows `fraction` upwards at once; after a fall it waits, then sinks by `rate` a second.

    wait: seconds since the latest fall. While the fraction is missing the ghost stands still.
    """
    return graph.add(TRAIL, (fraction,), "number", (wait, rate))


def roll(graph: Graph, value: Step, duration: float) -> Step:
    """A number that takes `duration` seconds to reach each new value, evenly from where it stood."""
    return graph.add(ROLL, (value,), "number", (duration,)) if duration > 0 else value
