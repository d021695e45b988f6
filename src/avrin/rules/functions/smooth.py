"""Functions that smooth a number over time. All reset with each run; missing numbers are skipped."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from avrin.rules.functions.over_time import wide
from avrin.rules.functions.spec import Function, applies, number
from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import Array

__all__ = ["FUNCTIONS"]

Args = Sequence[Array]
BLOCK = 16  # frames per `ease` block: more cost more passes within each, fewer more iterations between blocks
AT_REST = 1e-14  # share of x within which `ease` has arrived; its rounding error is an order smaller


def _since_last(chunk: Chunk, before: float | None) -> Array:
    """Return seconds since each frame's predecessor; 0 at the run's first frame."""
    return np.diff(chunk.t, prepend=chunk.t[0] if before is None else before)


def _ease(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Carried:
    """Step by step y += (x - y)·k, k = 1 - exp(-Δt / tau), is y = a·y + b with a = 1 - k and b = x·k.

    Blocks of frames are composed in parallel, then joined. Blocks start at multiples of BLOCK from the run's
    first frame, wherever chunks end, so the same numbers are always added in the same order.
    State: (time before; a and b of the open block's frames; y at that block's start; whether x ever appeared).
    """
    x, tau = (wide(arg, chunk) for arg in args)
    then, open_a, open_b, y, begun = (None, out[:0], out[:0], 0.0, False) if state is None else state
    there = ~np.isnan(x)
    k = -np.expm1(_since_last(chunk, then) / -tau)
    k[tau == 0] = 1.0
    k[~(there & (tau >= 0))] = 0.0  # without a target or a time constant y does not move
    first = 0 if begun else int(there.argmax()) if there.any() else chunk.frames
    if not begun:
        k[first : first + 1] = 1.0  # y starts at the first x
    a = np.concatenate((open_a, 1.0 - k))
    b = np.concatenate((open_b, np.where(there, x, 0.0) * k))
    starts, slopes, shifts = _composed(a, b, y)
    np.multiply(slopes, starts[:, None], out=slopes)
    np.add(slopes, shifts, out=slopes)
    ys = slopes.reshape(-1)
    out[...] = ys[len(open_a) : len(a)]
    np.copyto(out, x, where=np.abs(out - x) <= AT_REST * np.abs(x))
    out[:first] = np.nan
    kept = len(a) % BLOCK
    return (
        chunk.t[-1],
        a[len(a) - kept :],
        b[len(b) - kept :],
        float(starts[-1] if kept else ys[-1]),
        begun or first < len(x),
    )


def _composed(a: Array, b: Array, y: float) -> tuple[Array, Array, Array]:
    """Compose steps y = a·y + b within blocks (Hillis and Steele's scan: each pass doubles the reach).

    Returns y at each block's start, shape (m,), and for each frame the slope and offset from there,
    shape (m, BLOCK).
    """
    blocks = -(-len(a) // BLOCK)
    short = blocks * BLOCK - len(a)
    slopes = np.pad(a, (0, short), constant_values=1.0).reshape(blocks, BLOCK)
    shifts = np.pad(b, (0, short)).reshape(blocks, BLOCK)
    slopes, shifts = _scanned(slopes, shifts)
    starts = []
    for slope, shift in zip(slopes[:, -1].tolist(), shifts[:, -1].tolist(), strict=True):
        starts.append(y)
        y = slope * y + shift
    return np.array(starts), slopes, shifts


def _scanned(slopes: Array, shifts: Array) -> tuple[Array, Array]:
    """Compose each row's steps with all earlier ones of the row."""
    reach = 1
    while reach < BLOCK:
        shifts[:, reach:] += slopes[:, reach:] * shifts[:, :-reach]
        slopes[:, reach:] = slopes[:, reach:] * slopes[:, :-reach]
        reach *= 2
    return slopes, shifts


def _ease_branch(
    args: Args, after: Args, _params: Params, seconds: tuple[float, float], state: Carried
) -> tuple[Array, Array] | None:
    """Do the same for alternatives: each has an open block of its own."""
    nothing = np.zeros(0)
    then, open_a, open_b, y, begun = (seconds[0], nothing, nothing, 0.0, False) if state is None else state
    count = max(len(args[0]), len(after[0]))
    if len(args[1]) > 1 or len(after[1]) > 1:
        return None
    a, b = (np.repeat(part[None], count, axis=0) for part in (open_a, open_b))
    ys, has_begun = np.full(count, float(y)), np.full(count, begun)
    found = []
    for (x, tau), t in zip((args, after), seconds, strict=True):
        there = np.broadcast_to(~np.isnan(x), (count,))
        pace = -np.expm1(np.array([t - then]) / -tau)
        pace[tau == 0] = 1.0
        k = np.where(there & (tau >= 0), pace, 0.0)
        k[~has_begun & there] = 1.0
        a = np.concatenate((a, (1.0 - k)[:, None]), axis=1)
        b = np.concatenate((b, (np.where(there, x, 0.0) * k)[:, None]), axis=1)
        slopes, shifts = _scanned(_padded(a, 1.0), _padded(b, 0.0))
        latest = slopes[:, a.shape[1] - 1] * ys + shifts[:, a.shape[1] - 1]
        out = np.where(np.abs(latest - x) <= AT_REST * np.abs(x), x, latest)
        has_begun = has_begun | there
        out[~has_begun] = np.nan
        if a.shape[1] == BLOCK:
            ys, a, b = latest, a[:, :0], b[:, :0]
        then = t
        found.append(out)
    return found[0], found[1]


def _padded(part: Array, value: float) -> Array:
    return np.pad(part, ((0, 0), (0, BLOCK - part.shape[1])), constant_values=value)


def _approach(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: (y, time before). Each frame depends on the previous one; plain floats are fastest here."""
    y, then = (np.nan, chunk.t[0]) if state is None else state
    steps = _since_last(chunk, then)
    up, down = (_most(arg, steps) for arg in args[1:])
    x = wide(args[0], chunk).tolist()
    out[...] = np.fromiter(_followed(x, up, down, float(y)), np.float64, chunk.frames)
    return out[-1], chunk.t[-1]


def _followed(target: list[float], up: list[float], down: list[float], y: float) -> Iterator[float]:
    """Yield each frame's y, which moves towards the frame's target by at most `up` or `down`."""
    for x, rise, fall in zip(target, up, down, strict=True):
        if x > y:
            y += rise
            if y > x:
                y = x
        elif x < y:
            y -= fall
            if y < x:
                y = x
        elif y != y:  # x appears for the first time, or is still missing
            y = x
        yield y


def _most(rate: Array, steps: Array) -> list[float]:
    """Return how far y may move on each frame; a missing or negative rate moves nothing."""
    way: list[float] = np.nan_to_num(np.fmax(rate, 0.0) * steps, nan=0.0).tolist()
    return way


def _mean(out: Array, args: Args, params: Params, chunk: Chunk, state: Carried) -> Carried:
    """Differences of running sums; each addition's rounding error is summed separately and added back.

    That error is exact: Knuth's two-sum (The Art of Computer Programming 2, 4.2.2).
    State: (times, sums, errors and counts of the run's frames later windows may reach, and one older frame).
    """
    x, width = (wide(arg, chunk) for arg in args)
    before = (np.array([-np.inf]), np.zeros(1), np.zeros(1), np.zeros(1)) if state is None else state
    there = np.isfinite(x)
    term = np.where(there, x, 0.0)
    sums = np.cumsum(np.concatenate((before[1][-1:], term)))
    old, new = sums[:-1], sums[1:]
    part = new - old
    lost = (old - (new - part)) + (term - part)
    errors = np.cumsum(np.concatenate((before[2][-1:], lost)))[1:]
    counts = np.cumsum(np.concatenate((before[3][-1:], there)))[1:]
    times, sums, errors, counts = (
        np.concatenate(pair) for pair in zip(before, (chunk.t, new, errors, counts), strict=True)
    )
    here = len(times) - chunk.frames + np.arange(chunk.frames)
    outside = np.minimum(np.searchsorted(times, chunk.t - width, "right") - 1, here)  # the last frame before the window
    n = counts[here] - counts[outside]
    total = (sums[here] - sums[outside]) + (errors[here] - errors[outside])
    out[...] = np.where((n > 0) & (width > 0), total / n, np.nan)
    (steady,) = params
    if steady and width[0] > 0:  # older frames are no longer needed
        oldest = int(outside[-1])
        return times[oldest:], sums[oldest:], errors[oldest:], counts[oldest:]
    return times, sums, errors, counts


def _mean_branch(
    args: Args, after: Args, _params: Params, seconds: tuple[float, float], state: Carried
) -> tuple[Array, Array] | None:
    """Do the same for alternatives, which differ only in the last frame."""
    if len(args[1]) > 1 or len(after[1]) > 1:
        return None
    times, *before = (np.array([-np.inf]), np.zeros(1), np.zeros(1), np.zeros(1)) if state is None else state
    count = max(len(args[0]), len(after[0]))
    sums, errors, counts = (
        [np.full(count, part[-1])] for part in before
    )  # of the alternatives: the frame before, their own
    shared = len(times) - 1
    found = []
    for (x, width), t in zip((args, after), seconds, strict=True):
        there = np.broadcast_to(np.isfinite(x), (count,))
        term = np.where(there, x, 0.0)
        old = sums[-1]
        new = old + term
        part = new - old
        lost = (old - (new - part)) + (term - part)
        times = np.append(times, t)
        sums.append(new)
        errors.append(errors[-1] + lost)
        counts.append(counts[-1] + there)
        outside = min(int(np.searchsorted(times, t - width[0], "right")) - 1, len(times) - 1)
        out_sum, out_error, out_count = (
            own[outside - shared] if outside >= shared else part[outside]
            for own, part in zip((sums, errors, counts), before, strict=True)
        )
        n = counts[-1] - out_count
        total = (new - out_sum) + (errors[-1] - out_error)
        found.append(np.where((n > 0) & (width[0] > 0), total / n, np.nan))
    return found[0], found[1]


EASE = Op("ease", _ease, timed=True, branch=_ease_branch)
APPROACH = Op("approach", _approach, timed=True)
MEAN = Op("mean", _mean, timed=True, branch=_mean_branch)


def _build_mean(graph: Graph, args: Sequence[Step]) -> Step:
    return graph.add(MEAN, args, "number", (args[1].constant is not None,))


FUNCTIONS = (
    Function("mean", (number("x"), number("d")), "number", "The mean of x over the last d seconds.", "mean(air, 1s)",
             _build_mean),
    Function("ease", (number("x"), number("tau")), "number",
             "x smoothed exponentially: 63% of a step after tau seconds.", "ease(air, 1s)",
             applies(EASE, "number")),
    Function("approach", (number("x"), number("up"), number("down", "up")), "number",
             "x with a limited rate: at most `up` per second upwards, `down` (default: up) downwards.",
             "approach(hull, 10, 20)", applies(APPROACH, "number")),
)  # fmt: skip
