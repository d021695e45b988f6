"""Functions that accumulate over a run: counts of edges, extremes, sums of rises and falls.

All but those named "ever" reset with each run; a missing condition counts as false, missing numbers are skipped.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from avrin.rules.functions.over_time import hold, wide
from avrin.rules.functions.spec import Function, Param, applies, flag, number
from avrin.rules.steps import Branch, Carried, Chunk, Kernel, Op, Params
from avrin.trace.frames import TRUE, Array, ColumnKind

__all__ = ["FUNCTIONS"]

Args = Sequence[Array]
Both = tuple[Array, Array]


def _truth(values: Array, chunk: Chunk) -> Array:
    return wide(values == TRUE, chunk)


def _edges(c: Array, before: bool | None, *, rising: bool) -> Array:
    """Return where c becomes true (false); `before` is c on the previous frame, None at the start of a run."""
    at = np.empty(len(c), bool)
    at[1:] = c[1:] & ~c[:-1] if rising else c[:-1] & ~c[1:]
    at[0] = before is not None and bool(c[0]) is rising and bool(before) is not rising
    return at


def _turning(rising: bool) -> Kernel:
    def kernel(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> bool:
        """State: c on the last frame."""
        c = _truth(args[0], chunk)
        np.multiply(_edges(c, state, rising=rising), TRUE, out=out, casting="unsafe")
        return bool(c[-1])

    return kernel


def _once(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> bool:
    """State: whether c was ever true."""
    c = _truth(args[0], chunk)
    first = 0 if state else int(c.argmax()) if c.any() else len(c)
    out[:first] = 0
    out[first:] = TRUE
    return first < len(c)


def _count(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> tuple[bool, float]:
    """State: (c on the last frame, rises so far)."""
    before, risen = (None, 0.0) if state is None else state
    c = _truth(args[0], chunk)
    np.cumsum(_edges(c, before, rising=True), out=out)
    np.add(out, risen, out=out)
    return bool(c[-1]), float(out[-1])


def _tally(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> float:
    """State: true frames so far."""
    np.cumsum(_truth(args[0], chunk), out=out)
    np.add(out, state or 0.0, out=out)
    return float(out[-1])


def _extreme(pick: np.ufunc) -> Kernel:
    def kernel(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> float:
        """State: the extreme so far, NaN before the first value."""
        pick.accumulate(wide(args[0], chunk), out=out)
        if state is not None:
            pick(out, state, out=out)
        np.add(out, 0.0, out=out)  # NumPy may return either of 0 and -0
        return float(out[-1])

    return kernel


def _extreme_branch(pick: np.ufunc) -> Branch:
    def branch(args: Args, after: Args, _params: Params, _seconds: tuple[float, float], state: Carried) -> Both:
        first = (args[0] if state is None else pick(args[0], state)) + 0.0
        return first, pick(first, after[0]) + 0.0

    return branch


def _summed(sign: float) -> Kernel:
    def kernel(out: Array, args: Args, _params: Params, chunk: Chunk, state: Carried) -> tuple[float, float]:
        """State: (the latest present value, the sum so far). Sums are added frame by frame, so chunks do not matter."""
        last, total = (np.nan, 0.0) if state is None else state
        x = wide(args[0], chunk)
        at = np.flatnonzero(~np.isnan(x))
        if not len(at):
            out[...] = total
            return last, total
        steps = np.diff(x[at], prepend=last) * sign
        steps[~(steps > 0)] = 0.0  # the other direction, and the very first value
        sums = np.cumsum(np.concatenate(([total], steps)))[1:]
        hold(out, at, sums, total)
        return float(x[at[-1]]), float(sums[-1])

    return kernel


def _summed_branch(sign: float) -> Branch:
    def branch(args: Args, after: Args, _params: Params, _seconds: tuple[float, float], state: Carried) -> Both:
        last, total = (np.nan, 0.0) if state is None else state
        x = args[0]
        first = total + _along(x - last, sign)
        return first, first + _along(after[0] - np.where(np.isnan(x), last, x), sign)

    return branch


def _along(steps: Array, sign: float) -> Array:
    """Return how far each step goes in one direction, 0 in the other or from or to a missing value; shape (V,)."""
    steps = steps * sign
    return np.where(steps > 0, steps, 0.0)


def _function(
    name: str,
    kernel: Kernel,
    param: Param,
    result: ColumnKind,
    help_: str,
    example: str,
    *,
    ever: bool = False,
    rests: bool = True,
    branch: Branch | None = None,
) -> Function:
    op = Op(name, kernel, timed=True, ever=ever, rests=rests, branch=branch)
    return Function(name, (param,), result, help_, example, applies(op, result))


FUNCTIONS = (
    _function("rose", _turning(True), flag("c"), "flag", "Whether c turned true on this frame; not on a run's first.",
              "rose(leak)"),
    _function("fell", _turning(False), flag("c"), "flag", "Whether c turned false on this frame; not on a run's first.",
              "fell(leak)"),
    _function("once", _once, flag("c"), "flag", "Whether c has been true in this run.", "once(air < 20)"),
    _function("count", _count, flag("c"), "number", "How often c has turned true.", "count(leak)"),
    _function("tally", _tally, flag("c"), "number", "On how many frames c was true.", "tally(leak)",
              rests=False),
    _function("best", _extreme(np.fmax), number("x"), "number", "The largest x so far.", "best(hull)",
              branch=_extreme_branch(np.fmax)),
    _function("worst", _extreme(np.fmin), number("x"), "number", "The smallest x so far.", "worst(hull)",
              branch=_extreme_branch(np.fmin)),
    _function("best_ever", _extreme(np.fmax), number("x"), "number", "The largest x so far, over all runs of the recording.",
              "best_ever(hull)", ever=True),
    _function("worst_ever", _extreme(np.fmin), number("x"), "number", "The smallest x so far, over all runs of the recording.",
              "worst_ever(hull)", ever=True),
    _function("gains", _summed(1.0), number("x"), "number", "The sum of all rises of x so far.", "gains(hull)",
              branch=_summed_branch(1.0)),
    _function("losses", _summed(-1.0), number("x"), "number", "The sum of all falls of x so far, as a positive number.",
              "losses(hull)", branch=_summed_branch(-1.0)),
)  # fmt: skip
