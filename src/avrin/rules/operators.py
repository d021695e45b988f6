"""The operators with a sign or keyword in the grammar. Kernels write into `out`; missing values as in docs/rules.md."""

from __future__ import annotations

import functools
from collections.abc import Callable, Sequence

import numpy as np
from msgspec.structs import replace

from avrin.rules.steps import Breakpoints, Carried, Chunk, Op, Params
from avrin.trace.frames import FALSE, MISSING, NO_TEXT, TRUE, Array, ColumnKind

__all__ = [
    "ARITHMETIC",
    "AT_WHOLE",
    "AT_ZERO",
    "CLAMP",
    "EQUAL",
    "MAX",
    "MIN",
    "ORDER",
    "absent",
    "divide",
    "pure",
    "ufunc",
]


AT_ZERO = Breakpoints(lambda args, _: (args[0],))  # zero crossings of the first argument
AT_WHOLE = Breakpoints(lambda args, _: (args[0],), (True,))  # its whole numbers
LAST_ZERO = Breakpoints(lambda args, _: (args[-1],))  # zero crossings of the last argument
EQUAL_ARGS = Breakpoints(lambda args, _: (args[0] - args[1],))  # where the two arguments are equal


def ufunc(name: str, function: np.ufunc, turns: Breakpoints | None = None) -> Op:
    """Return an operator that applies one NumPy function to its arguments."""

    def kernel(out: Array, args: Sequence[Array], _params: Params, _chunk: Chunk, _state: Carried) -> None:
        function(*args, out=out)

    return Op(name, kernel, breakpoints=turns)


def pure(name: str, function: Callable[..., None], turns: Breakpoints | None = None) -> Op:
    """Return an operator without time or parameters: `function(out, *arguments)`."""

    def kernel(out: Array, args: Sequence[Array], _params: Params, _chunk: Chunk, _state: Carried) -> None:
        function(out, *args)

    return Op(name, kernel, breakpoints=turns)


def absent(values: Array, kind: ColumnKind) -> Array:
    """Return where values, of any shape, are missing: a mask of that shape."""
    if kind == "number":
        return np.isnan(values)
    return np.equal(values, MISSING if kind == "flag" else NO_TEXT)


def spread(values: Array, like: Array) -> Array:
    """Expand a constant, shape (1,), to the shape of `like`.

    NumPy's minimum and maximum are four times faster on two arrays.
    """
    return _full(len(like), float(values[0])) if len(values) < len(like) else values


@functools.lru_cache(maxsize=64)
def _full(frames: int, value: float) -> Array:
    made = np.full(frames, value)
    made.flags.writeable = False
    return made


# NumPy's extremes of 0 and -0 depend on the arrays' length: adding 0 makes both of them 0.


def _smaller(out: Array, a: Array, b: Array) -> None:
    np.minimum(spread(a, out), spread(b, out), out=out)
    np.add(out, 0.0, out=out)


def _larger(out: Array, a: Array, b: Array) -> None:
    np.maximum(spread(a, out), spread(b, out), out=out)
    np.add(out, 0.0, out=out)


def _clamp(out: Array, x: Array, low: Array, high: Array) -> None:
    if len(low) == len(high) == 1:
        x.clip(low[0], high[0], out=out)
        np.add(out, 0.0, out=out)
        return
    _larger(out, x, low)
    _smaller(out, out, high)


def divide(out: Array, a: Array, b: Array) -> None:
    """Divide a by b; missing where b is zero. out: shape (n,); a, b: the same shape, or (1,)."""
    np.divide(a, b, out=out)
    if len(b) == 1:
        if b[0] == 0:
            out[...] = np.nan
        return
    # A division by zero leaves an infinity or NaN, which makes the sum of squares non-finite: the cheapest test.
    if not np.isfinite(out.dot(out)):
        np.copyto(out, np.nan, where=b == 0)


ARITHMETIC = {
    "+": ufunc("+", np.add),
    "-": ufunc("-", np.subtract),
    "*": ufunc("*", np.multiply),
    "/": pure("/", divide, LAST_ZERO),
}
MIN, MAX = pure("min", _smaller, EQUAL_ARGS), pure("max", _larger, EQUAL_ARGS)
CLAMP = pure("clamp", _clamp, Breakpoints(lambda args, _: (args[0] - args[1], args[0] - args[2]), (False, False)))
NEGATE = ufunc("negate", np.negative)

AND = ufunc("and", np.minimum)  # Kleene's logic: FALSE < MISSING < TRUE
OR = ufunc("or", np.maximum)


def _not(out: Array, c: Array) -> None:
    np.subtract(TRUE, c, out=out)


NOT = pure("not", _not)


def _order(name: str, holds: np.ufunc, fails: np.ufunc) -> Op:
    def compare(out: Array, a: Array, b: Array) -> None:
        # Missing (NaN) makes a comparison neither true nor false: 1 + 1 - 0 true, 1 + 0 - 1 false, 1 + 0 - 0 missing.
        np.subtract(holds(a, b).view(np.int8), fails(a, b).view(np.int8), out=out)
        np.add(out, MISSING, out=out)

    def complete(out: Array, args: Sequence[Array], _params: Params, _chunk: Chunk, _state: Carried) -> None:
        held = holds(*args).view(np.int8)
        np.add(held, held, out=out)

    return replace(pure(name, compare, EQUAL_ARGS), complete=complete)


ORDER = {
    "<": _order("<", np.less, np.greater_equal),
    "<=": _order("<=", np.less_equal, np.greater),
    ">": _order(">", np.greater, np.less_equal),
    ">=": _order(">=", np.greater_equal, np.less),
}


def _equal(kind: ColumnKind, hit: int, miss: int) -> Callable[[Array, Array, Array], None]:
    def compare(out: Array, a: Array, b: Array) -> None:
        out[...] = miss
        np.copyto(out, hit, where=a == b)
        gone = absent(a, kind) | absent(b, kind)
        if gone.any():
            np.copyto(out, MISSING, where=gone)

    return compare


KINDS: tuple[ColumnKind, ...] = ("number", "flag", "text")
EQUAL = {
    (sign, kind): pure(
        f"{sign} {kind}",
        _equal(kind, *((TRUE, FALSE) if sign == "==" else (FALSE, TRUE))),
        EQUAL_ARGS if kind == "number" else None,
    )
    for sign in ("==", "!=")
    for kind in KINDS
}


def _otherwise(kind: ColumnKind) -> Callable[[Array, Array, Array], None]:
    def choose(out: Array, a: Array, b: Array) -> None:
        out[...] = a
        np.copyto(out, b, where=absent(a, kind))

    return choose


def _choice(kind: ColumnKind) -> Callable[[Array, Array, Array, Array], None]:
    nothing = {"number": np.nan, "flag": MISSING, "text": NO_TEXT}[kind]

    def choose(out: Array, c: Array, a: Array, b: Array) -> None:
        out[...] = b
        np.copyto(out, a, where=c == TRUE)
        gone = c == MISSING
        if gone.any():
            np.copyto(out, nothing, where=gone)

    return choose


OTHERWISE = {kind: pure(f"otherwise {kind}", _otherwise(kind)) for kind in KINDS}
CHOICE = {kind: pure(f"if {kind}", _choice(kind)) for kind in KINDS}
