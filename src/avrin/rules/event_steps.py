"""The steps of events: how often one happens on each frame and with which arguments, recorded or derived from columns.

A derived event is a rule that says when it happens, with rules for its arguments. Where a recording contains an event of
that name, the recorded one is used, decided by each trace when the steps are evaluated.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct

from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.operators import ARITHMETIC, CHOICE, ORDER, pure
from avrin.rules.steps import Graph, Step
from avrin.trace.frames import TRUE, Array, ColumnKind, event_column

__all__ = ["EventRules", "EventSteps", "Occurrence", "derived_event", "occurrence", "recorded_event"]


class EventRules(Struct, frozen=True):
    """A derived event as written. args: the kind of each argument. when: on which frames it happens.

    values: a rule for each argument that has one. times: how often it happens on such a frame, "" for once.
    slots: of the roster it is derived over, each of which can happen; None if it is not derived over one.
    """

    args: Mapping[str, ColumnKind]
    when: str
    values: Mapping[str, str]
    times: str = ""
    slots: int | None = None


class Occurrence(Struct, frozen=True):
    """One source of an event. count: how often it happens on each frame, a number that is never missing.

    values: the step of each argument, as of the frame.
    """

    count: Step
    values: Mapping[str, Step]


class EventSteps(Struct, frozen=True):
    """An event. count: how often it happens on each frame; missing in a trace without a recorded event.

    latest: the arguments of a frame's last occurrence. derived: the sources it is derived from, in order, none of which
    happens in a trace that contains the recorded event; empty if the event is only recorded.
    """

    count: Step
    latest: Mapping[str, Step]
    derived: Sequence[Occurrence] = ()


def _count(out: Array, when: Array, times: Array) -> None:
    whole = np.floor(times)
    out[...] = np.where((when == TRUE) & (whole > 0) & np.isfinite(whole), whole, 0.0)


def _unless_recorded(out: Array, recorded: Array, derived: Array) -> None:
    out[...] = np.where(np.isnan(recorded), derived, 0.0)


COUNT = pure("occurrences", _count)
UNLESS_RECORDED = pure("unless recorded", _unless_recorded)


def recorded_event(graph: Graph, name: str, args: Mapping[str, ColumnKind]) -> EventSteps:
    """Return an event as traces record it."""
    latest = {arg: graph.column(event_column(name, arg), kind) for arg, kind in args.items()}
    return EventSteps(graph.column(event_column(name), "number"), latest)


def occurrence(graph: Graph, when: Step, times: Step, values: Mapping[str, Step]) -> Occurrence:
    """Return a source that happens `times` on each frame on which `when` is true; not at all if either is missing."""
    return Occurrence(graph.add(COUNT, (when, times), "number"), values)


def derived_event(graph: Graph, recorded: EventSteps, sources: Sequence[Occurrence]) -> EventSteps:
    """Return an event that happens where its sources do, in order, unless the trace contains the recorded one."""
    masked = [
        Occurrence(graph.add(UNLESS_RECORDED, (recorded.count, one.count), "number"), one.values) for one in sources
    ]
    zero = graph.constant(0.0, "number")
    total, latest = zero, {arg: graph.constant(None, step.kind) for arg, step in recorded.latest.items()}
    for one in masked:
        happens = graph.add(ORDER[">"], (one.count, zero), "flag")
        latest = {
            arg: graph.add(CHOICE[before.kind], (happens, one.values[arg], before), before.kind)
            for arg, before in latest.items()
        }
        total = graph.add(ARITHMETIC["+"], (total, one.count), "number")
    present = FUNCTIONS["has"].build(graph, (recorded.count,))
    return EventSteps(
        graph.add(CHOICE["number"], (present, recorded.count, total), "number"),
        {
            arg: graph.add(CHOICE[step.kind], (present, step, latest[arg]), step.kind)
            for arg, step in recorded.latest.items()
        },
        masked,
    )
