"""Bands as steps: which named stretch a widget's level lies in, the first that matches.

A band with `back` is sticky: entered by its limit, left where the level is back at or beyond `back`. One with `held` is entered
when what enters it has lasted so long.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from avrin.rules import AND, ORDER, Carried, Chunk, Graph, Op, Params, Step
from avrin.rules.functions.over_time import HELD, LATCH
from avrin.rules.operators import NOT
from avrin.trace import TRUE, Array

__all__ = ["Threshold", "band_step", "matches", "settled"]


class Threshold(NamedTuple):
    """What a band is entered and left by: its limit, the limit on the way back, how long it must hold; None where unsaid."""

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
    """Whether one band matches: a flag step. One without a limit never does."""
    limit, enter, leave = (below, "<", ">=") if below is not None else (above, ">", "<=")
    if when is not None or level is None or limit is None:
        return _lasting(graph, when if when is not None else graph.constant(False, "flag"), held)
    inside = graph.add(ORDER[enter], (level, limit), "flag")
    entered = _lasting(graph, inside, held)
    if back is None:
        return entered
    # A level inside the limit counts even where `back` lies on the wrong side of it, so "off" must not win there.
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
    """The name of the first band that matches, "" where none does: a text step."""
    if not bands:
        return graph.constant("", "text")
    return graph.add(FIRST, [flag for _, flag in bands], "text", tuple(name for name, _ in bands))


def _settle(out: Array, args: Sequence[Array], _params: Params, _chunk: Chunk, _state: Carried) -> None:
    np.multiply(args[0] == TRUE, TRUE, out=out, casting="unsafe")


SETTLE = Op("settle", _settle)


def settled(graph: Graph, flag: Step) -> Step:
    """The flag with missing counted as false, as widgets take flags."""
    return graph.add(SETTLE, (flag,), "flag")
