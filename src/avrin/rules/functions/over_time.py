"""Functions of earlier frames. All reset with each run; a missing condition counts as false.

A kernel's state is what it needs from the run's earlier chunks; None at the start of a run.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from avrin.rules.functions.spec import Build, Function, Param, applies, flag, number
from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import FALSE, MISSING, TRUE, Array

__all__ = ["FUNCTIONS", "LATCH", "hold", "wide"]

Args = Sequence[Array]


def hold(out: Array, at: Array, values: Array, before: Carried) -> Carried:
    """Fill `out` with the latest of `values`, each in effect from its frame in `at`; `before` until the first.

    at: ascending frames, shape (k,); values: shape (k,). Returns the value in effect at the end.
    """
    if not len(at):
        out.fill(before)
        return before
    if len(at) == 1:
        out[: at[0]] = before
        out[at[0] :] = values[0]
        return values[0]
    lengths = np.empty_like(at)
    np.subtract(at[1:], at[:-1], out=lengths[:-1])
    lengths[-1] = len(out) - at[-1]
    out[: at[0]] = before
    out[at[0] :] = values.repeat(lengths)
    return values[-1]


def wide(values: Array, chunk: Chunk) -> Array:
    """Return a value per frame of the chunk, shape (n,), also for a constant of shape (1,). Read-only."""
    return values if len(values) == len(chunk.t) else np.broadcast_to(values, (len(chunk.t),))


def _prev(out: Array, args: Args, params: Params, chunk: Chunk, state: Carried) -> Array:
    """State: the last n values of the run, fewer at its start."""
    back, nothing = params
    seen = args[0][:0] if state is None else state
    both = np.concatenate((seen, wide(args[0], chunk)))
    absent = max(
        0, min(back - len(seen), chunk.frames)
    )  # frames of this chunk less than n frames after the run's start
    out[:absent] = nothing
    start = len(seen) - back + absent
    out[absent:] = both[start : start + chunk.frames - absent]
    return both[max(0, len(both) - back) :].copy()


def _change(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: the last value."""
    x = wide(args[0], chunk)
    np.subtract(x[1:], x[:-1], out=out[1:])
    out[0] = 0.0 if state is None else x[0] - state
    return x[-1]


def _changed(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Array:
    """State: the last value, shape (1,). Missing equals missing."""
    x = wide(args[0], chunk)
    before = np.concatenate((x[:1] if state is None else state, x[:-1]))
    differs = x != before
    if x.dtype.kind == "f":
        differs &= ~(np.isnan(x) & np.isnan(before))
    np.multiply(differs, TRUE, out=out, casting="unsafe")
    return x[-1:].copy()


def _stretch_began(out: Array, c: Array, chunk: Chunk, state: Carried) -> tuple[bool, Any]:
    """Fill `out` with the start time of c's latest true stretch. State: (c at the end, that time)."""
    on, began = (False, np.nan) if state is None else state
    if len(c) == 1:
        began = chunk.t[0] if c[0] and not on else began
        out[0] = began
        return bool(c[0]), began
    rises = (c[1:] & ~c[:-1]).nonzero()[0] + 1
    if c[0] and not on:
        rises = np.concatenate(([0], rises))
    return bool(c[-1]), hold(out, rises, chunk.t[rises], began)


def _lasted(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Carried:
    c = wide(args[0] == TRUE, chunk)
    state = _stretch_began(out, c, chunk, state)
    np.subtract(chunk.t, out, out=out)
    np.copyto(out, 0.0, where=~c)
    return state


def _held(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Carried:
    c = wide(args[0] == TRUE, chunk)
    began = np.empty(chunk.frames)
    state = _stretch_began(began, c, chunk, state)
    long_enough = np.subtract(chunk.t, began, out=began) >= args[1]
    np.multiply(c & long_enough, TRUE, out=out, casting="unsafe")
    return state


def _since(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: the time at which c was last true. Only the ends of true stretches are looked up: there are few."""
    c = wide(args[0] == TRUE, chunk)
    ends = (c[:-1] & ~c[1:]).nonzero()[0]
    last = hold(out, ends, chunk.t[ends], np.nan if state is None else state)
    np.subtract(chunk.t, out, out=out)
    np.copyto(out, 0.0, where=c)
    return chunk.t[-1] if c[-1] else last


def _latch(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: the latch. It changes only where a condition does."""
    on, off = wide(args[0] == TRUE, chunk), wide(args[1] == TRUE, chunk)
    told = on | off
    told[1:] &= (on[1:] != on[:-1]) | (off[1:] != off[:-1])
    at = told.nonzero()[0]
    return hold(out, at, np.where(off[at], FALSE, TRUE), FALSE if state is None else state)


def _delay(out: Array, args: Args, params: Params, chunk: Chunk, state: Carried) -> tuple[Array, Array]:
    """State: times and values of the run's frames that later frames may still need."""
    nothing, steady = params
    x, wait = wide(args[0], chunk), wide(args[1], chunk)
    times, values = (chunk.t[:0], x[:0]) if state is None else state
    times, values = np.concatenate((times, chunk.t)), np.concatenate((values, x))
    at = np.searchsorted(times, chunk.t - wait, "right") - 1
    latest = (
        len(times) - chunk.frames + np.arange(chunk.frames)
    )  # never a later frame than this one, whatever the delay
    known = (at >= 0) & ~np.isnan(wait)
    out[...] = np.where(known, values[np.minimum(np.maximum(at, 0), latest)], nothing)
    if steady and wait[0] >= 0:  # older frames are no longer needed
        oldest = max(0, int(np.searchsorted(times, chunk.t[-1] - wait[0], "right")) - 1)
        times, values = times[oldest:], values[oldest:]
    return times, values


def _every(out: Array, args: Args, params: Params, chunk: Chunk, state: Carried) -> tuple[Array, Array]:
    """State: times since the run began, and values, of the run's frames that later frames may still need."""
    nothing, steady = params
    x, period = wide(args[0], chunk), wide(args[1], chunk)
    elapsed = chunk.t - chunk.began
    times, values = (elapsed[:0], x[:0]) if state is None else state
    times, values = np.concatenate((times, elapsed)), np.concatenate((values, x))
    ticks = np.floor(elapsed / period) * period
    at = np.searchsorted(times, ticks, "right") - 1
    latest = len(times) - chunk.frames + np.arange(chunk.frames)  # the product may be rounded above the elapsed time
    at = np.minimum(np.maximum(at, 0), latest)
    out[...] = np.where(period > 0, values[at], nothing)
    if steady and period[0] > 0:  # multiples only grow, so older frames are no longer needed
        times, values = times[at[-1] :], values[at[-1] :]
    return times, values


def _blink(out: Array, args: Args, _params: Params, chunk: Chunk, _state: Carried) -> None:
    period, duty = args
    past = np.mod(chunk.t - chunk.began, period)
    out[...] = np.where(period > 0, np.where(past < period * duty, TRUE, FALSE), MISSING)
    np.copyto(out, MISSING, where=np.isnan(duty))


DELAY = Op("delay", _delay, timed=True)
BLINK = Op("blink", _blink, timed=True, rests=False)
LASTED = Op("lasted", _lasted, timed=True)
HELD = Op("held", _held, timed=True)
SINCE = Op("since", _since, timed=True, rests=False)
LATCH = Op("latch", _latch, timed=True)
CHANGE = Op("change", _change, timed=True)
CHANGED = Op("changed", _changed, timed=True)
EVERY = Op("every", _every, timed=True)
PREV = Op("prev", _prev, timed=True)


def _build_prev(graph: Graph, args: Sequence[Step]) -> Step:
    x, back = args
    assert back.constant is not None  # the check requires a literal number
    nothing = graph.constant(None, x.kind).constant
    assert nothing is not None
    return graph.add(PREV, (x,), x.kind, (int(back.constant[0]), nothing[0].item()))


def _with_seconds(op: Op) -> Build:
    """Return a builder for a function of any value and a duration."""

    def build(graph: Graph, args: Sequence[Step]) -> Step:
        nothing = graph.constant(None, args[0].kind).constant
        assert nothing is not None
        return graph.add(op, args, args[0].kind, (nothing[0].item(), args[1].constant is not None))

    return build


FUNCTIONS = (
    Function("prev", (Param("x", "any"), number("n", "1", integer=True)), "any",
             "x one frame ago, or n frames; missing before that.", "prev(hull)", _build_prev),
    Function("delay", (Param("x", "any"), number("d")), "any",
             "The value of x d seconds ago, at the last frame by then; missing before.", "delay(hull, 1s)", _with_seconds(DELAY)),
    Function("every", (Param("x", "any"), number("d")), "any",
             "x as it was at the latest multiple of d seconds of the run: a board refreshed once a second.",
             "every(hull, 1s)", _with_seconds(EVERY)),
    Function("blink", (number("period"), number("duty", "0.5")), "flag",
             "True in the first part (half) of each period since the run began.", "blink(500ms)", applies(BLINK, "flag")),
    Function("change", (number("x"),), "number", "x minus what it was a frame ago; 0 on a run's first frame.",
             "change(hull)", applies(CHANGE, "number")),
    Function("changed", (Param("x", "any"),), "flag",
             "Whether x differs from the frame before, missing included; not on a run's first frame.", "changed(hull)",
             applies(CHANGED, "flag")),
    Function("lasted", (flag("c"),), "number", "Seconds since c became true and stayed so; 0 while false.",
             "lasted(leak)", applies(LASTED, "number")),
    Function("held", (flag("c"), number("d")), "flag", "Whether c has been true for d seconds without interruption.",
             "held(leak, 2s)", applies(HELD, "flag")),
    Function("since", (flag("c"),), "number", "Seconds since c was last true; 0 while true, missing if it never was.",
             "since(leak)", applies(SINCE, "number")),
    Function("latch", (flag("on"), flag("off")), "flag",
             "A latch: true from where `on` is true until `off` is; `off` wins; false at first.",
             "latch(air < 20, air > 40)", applies(LATCH, "flag")),
)  # fmt: skip
