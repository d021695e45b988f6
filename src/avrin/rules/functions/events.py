"""Event functions: whether an event happened on a frame, how often, with which arguments. All reset with each run.

The names of an event and its argument are literals, known when the rule is checked; the trace holds them as columns
(`avrin.trace.event_column`). In a trace without the event it never happens.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from avrin.rules.functions.over_time import hold
from avrin.rules.functions.spec import Function, text
from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import FALSE, TRUE, Array, event_column

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


def _written(graph: Graph, step: Step) -> str:
    assert step.constant is not None  # the check requires a literal name
    return graph.words.text(int(step.constant[0])) or ""


def _build_event(graph: Graph, args: Sequence[Step]) -> Step:
    return graph.add(EVENT, (graph.column(event_column(_written(graph, args[0])), "number"),), "flag")


def _build_events(graph: Graph, args: Sequence[Step]) -> Step:
    return graph.add(EVENTS, (graph.column(event_column(_written(graph, args[0])), "number"),), "number")


def _build_last(graph: Graph, args: Sequence[Step]) -> Step:
    name, value = args
    happened = graph.column(event_column(_written(graph, name)), "number")
    nothing = graph.constant(None, value.kind).constant
    assert nothing is not None
    return graph.add(LAST, (happened, value), value.kind, (nothing[0].item(),))


FUNCTIONS = (
    Function("event", (text("name", event=True),), "flag", "Whether the event happened since the previous frame.",
             'event("hit")', _build_event),
    Function("events", (text("name", event=True),), "number", "How often the event has happened in this run.", 'events("hit")',
             _build_events),
    Function("last", (text("name", event=True), text("arg", argument=True)), "any",
             "An argument of the latest event; missing before the first.", 'last("hit", "points")', _build_last),
)  # fmt: skip
