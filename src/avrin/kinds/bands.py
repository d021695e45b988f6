"""Bands as steps: the first named interval that contains a widget's level.

A band with `back` has hysteresis: it is entered at its limit and left at or beyond `back`. One with `held` is entered
after its condition has held that long.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from avrin.rules.functions.over_time import HELD, LATCH
from avrin.rules.operators import AND, NOT, ORDER
from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import TRUE, Array

__all__ = ["Threshold", "band_step", "matches", "settled"]


class Threshold(NamedTuple):
    """A band's limits: to enter, to leave, and the seconds it must hold; None if not given."""

    limit: Step | None = None
    back: Step | None = None
    held: Step | None = None


def matches(
    graph: Graph,
    level: Step | None,
    *,
    below: Step | None = None,
    above: Step | None = None,
    when: Step | None = None,
    back: Step | None = None,
    held: Step | None = None,
) -> Step:
    """Return a flag step: whether one band matches. A band without a limit never does."""
    limit, enter, leave = (below, "<", ">=") if below is not None else (above, ">", "<=")
    if when is not None or level is None or limit is None:
        return _lasting(graph, when if when is not None else graph.constant(False, "flag"), held)
    inside = graph.add(ORDER[enter], (level, limit), "flag")
    entered = _lasting(graph, inside, held)
    if back is None:
        return entered
    # A level inside the limit counts even if `back` is on the wrong side of it, so "off" must not win there.
    left = graph.add(ORDER[leave], (level, back), "flag")
    gone = graph.add(AND, (left, graph.add(NOT, (inside,), "flag")), "flag")
    return graph.add(LATCH, (entered, gone), "flag")


def _lasting(graph: Graph, flag: Step, held: Step | None) -> Step:
    return flag if held is None else graph.add(HELD, (flag, held), "flag")


def _first(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, _state: Carried) -> None:
    out[...] = chunk.words.code("")
    for flags, name in reversed(list(zip(args, params, strict=True))):
        np.copyto(out, chunk.words.code(name), where=flags == TRUE)


FIRST = Op("first band", _first)


def band_step(graph: Graph, bands: Sequence[tuple[str, Step]]) -> Step:
    """Return a text step: the name of the first matching band, or ""."""
    if not bands:
        return graph.constant("", "text")
    return graph.add(FIRST, [flag for _, flag in bands], "text", tuple(name for name, _ in bands))


def _settle(out: Array, args: Sequence[Array], _params: Params, _chunk: Chunk, _state: Carried) -> None:
    np.multiply(args[0] == TRUE, TRUE, out=out, casting="unsafe")


SETTLE = Op("settle", _settle)


def settled(graph: Graph, flag: Step) -> Step:
    """Return the flag with missing as false, which is how widgets use flags."""
    return graph.add(SETTLE, (flag,), "flag")
