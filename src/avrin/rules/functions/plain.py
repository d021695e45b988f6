"""Functions of the current frame's values."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from avrin.rules.functions.spec import Function, Param, applies, number, repeats
from avrin.rules.operators import AT_WHOLE, AT_ZERO, CLAMP, MAX, MIN, absent, divide, pure, ufunc
from avrin.rules.steps import Breakpoints, Graph, Op, Params, Step
from avrin.trace.frames import FALSE, TRUE, Array, ColumnKind

__all__ = ["FUNCTIONS", "SHARE"]


def _mod(out: Array, a: Array, b: Array) -> None:
    np.mod(a, b, out=out)
    np.copyto(out, np.nan, where=b == 0)


def _share(out: Array, x: Array, low: Array, high: Array) -> None:
    np.subtract(x, low, out=out)
    divide(out, out, high - low)


def _lerp(out: Array, a: Array, b: Array, f: Array) -> None:
    np.subtract(b, a, out=out)
    np.multiply(out, f, out=out)
    np.add(out, a, out=out)


def _snap(out: Array, x: Array, step: Array) -> None:
    divide(out, x, step)
    np.rint(out, out=out)
    np.multiply(out, step, out=out)


def _distance(out: Array, x1: Array, y1: Array, x2: Array, y2: Array) -> None:
    np.hypot(x2 - x1, y2 - y1, out=out)


def _has(kind: ColumnKind) -> Op:
    def kernel(out: Array, x: Array) -> None:
        np.copyto(out, np.where(absent(x, kind), FALSE, TRUE))

    return pure(f"has {kind}", kernel)


def _ends(args: Sequence[Array], _params: Params) -> Sequence[Array]:
    x, low, high = args
    return x - low, x - high, high - low


def _multiples(args: Sequence[Array], _params: Params) -> Sequence[Array]:
    return args[0] / args[1], args[1]


def _halfway(args: Sequence[Array], _params: Params) -> Sequence[Array]:
    return args[0] / args[1] + 0.5, args[1]


SHARE = pure("share", _share, Breakpoints(_ends, (False, False, False)))
MOD = pure("mod", _mod, Breakpoints(_multiples, (True, False)))
SNAP = pure("snap", _snap, Breakpoints(_halfway, (True, False)))
HALVES = Breakpoints(lambda args, _: (args[0] + 0.5,), (True,))  # whole numbers plus a half
_HAS: dict[ColumnKind, Op] = {"number": _has("number"), "flag": _has("flag"), "text": _has("text")}


def _build_has(graph: Graph, args: Sequence[Step]) -> Step:
    return graph.add(_HAS[args[0].kind], args, "flag")


def _simple(name: str, op: Op, params: str, help_: str, example: str) -> Function:
    return Function(name, tuple(map(number, params.split())), "number", help_, example, applies(op, "number"))


NUMBERS = (number("a"), number("b", many=True))
FUNCTIONS = (
    Function("min", NUMBERS, "number", "The smallest of its arguments.", "min(hull, 40)", repeats(MIN)),
    Function("max", NUMBERS, "number", "The largest of its arguments.", "max(hull, 20)", repeats(MAX)),
    _simple("abs", ufunc("abs", np.absolute, AT_ZERO), "x", "x without its sign.", "abs(change(hull))"),
    _simple("sign", ufunc("sign", np.sign, AT_ZERO), "x", "-1, 0 or 1.", "sign(change(hull))"),
    _simple("sqrt", ufunc("sqrt", np.sqrt, AT_ZERO), "x", "The square root; missing below zero.", "sqrt(hull)"),
    _simple("round", ufunc("round", np.rint, HALVES), "x", "The nearest whole number; the even one at a half.", "round(air)"),
    _simple("floor", ufunc("floor", np.floor, AT_WHOLE), "x", "The whole number at or below x.", "floor(air)"),
    _simple("ceil", ufunc("ceil", np.ceil, AT_WHOLE), "x", "The whole number at or above x.", "ceil(air)"),
    _simple("mod", MOD, "a b", "The remainder of a divided by b; has b's sign.", "mod(hull, 20)"),
    _simple("clamp", CLAMP, "x lo hi", "x, kept within lo and hi.", "clamp(hull / hull_max, 0, 1)"),
    _simple("share", SHARE, "x lo hi", "The position of x between lo and hi: 0 at lo, 1 at hi, not clamped.",
            "share(air, 0, 60)"),
    _simple("lerp", pure("lerp", _lerp), "a b f", "The value at a share f between a and b.", "lerp(10, 20, 25%)"),
    _simple("snap", SNAP, "x step", "The nearest multiple of step.", "snap(hull, 5)"),
    _simple("distance", pure("distance", _distance), "x1 y1 x2 y2", "The distance between two points.", "distance(0, 0, 3, 4)"),
    Function("has", (Param("x", "any"),), "flag", "Whether x has a value, not missing.", "has(air)", _build_has),
)  # fmt: skip
