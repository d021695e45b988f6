"""Event functions: whether an event happened on a frame, how often, with which arguments. All reset with each run.

The names of an event and its argument are literals, known when the rule is checked, which replaces them by the steps of
`avrin.rules.event_steps`: the event's count per frame, and the argument of the frame's latest occurrence.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from avrin.rules.functions.over_time import hold
from avrin.rules.functions.spec import Function, applies, text
from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import FALSE, TRUE, Array

__all__ = ["FUNCTIONS"]

Args = Sequence[Array]


def _event(out: Array, args: Args, _params: Params, _chunk: Chunk, _state: Carried) -> None:
    out[...] = np.where(args[0] > 0, TRUE, FALSE)


def _events(out: Array, args: Args, _params: Params, _chunk: Chunk, state: Carried) -> float:
    """State: the count so far."""
    np.cumsum(np.nan_to_num(args[0], nan=0.0), out=out)
    np.add(out, state or 0.0, out=out)
    return float(out[-1])


def _last(out: Array, args: Args, params: Params, _chunk: Chunk, state: Carried) -> Carried:
    """State: the argument of the latest occurrence."""
    at = np.flatnonzero(args[0] > 0)
    return hold(out, at, args[1][at], params[0] if state is None else state)


EVENT = Op("event", _event, timed=True)
EVENTS = Op("events", _events, timed=True)
LAST = Op("last", _last, timed=True)


def _build_last(graph: Graph, args: Sequence[Step]) -> Step:
    value = args[1]
    nothing = graph.constant(None, value.kind).constant
    assert nothing is not None
    return graph.add(LAST, args, value.kind, (nothing[0].item(),))


FUNCTIONS = (
    Function("event", (text("name", event=True),), "flag", "Whether the event happened since the previous frame.",
             'event("hit")', applies(EVENT, "flag")),
    Function("events", (text("name", event=True),), "number", "How often the event has happened in this run.", 'events("hit")',
             applies(EVENTS, "number")),
    Function("last", (text("name", event=True), text("arg", argument=True)), "any",
             "An argument of the latest event; missing before the first.", 'last("hit", "points")', _build_last),
)  # fmt: skip
