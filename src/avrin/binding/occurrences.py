"""Occurrences of an event over a recording, recorded or derived, each at its frame and with its arguments."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import numpy as np
from msgspec import Struct

from avrin.binding.bound import Bound
from avrin.rules.errors import RuleError
from avrin.rules.event_steps import EventSteps
from avrin.rules.steps import Step
from avrin.trace.frames import Array, Column, Event, Trace

__all__ = ["Occurrences", "find_occurrences"]

MAX_A_FRAME = 100  # occurrences of one frame that are listed
ColumnOf = Callable[[Step], Column]  # a step's values over the trace


class Occurrences(Struct, frozen=True):
    """The occurrences of one event over a trace, in order.

    frames: ascending, shape (n,). sources: for a recorded event each one's index in `Trace.events_by_frame`, otherwise the
    source in `derived` it follows from, shape (n,). derived: each source's arguments; empty for a recorded event.
    """

    name: str
    trace: Trace
    frames: Array
    sources: Array
    column: ColumnOf
    derived: tuple[Mapping[str, Step], ...] = ()

    def __len__(self) -> int:
        return len(self.frames)

    def __getitem__(self, at: int) -> Event:
        """Return an occurrence with its arguments."""
        frame, source = int(self.frames[at]), int(self.sources[at])
        if not self.derived:
            return self.trace.events_by_frame[1][source]
        args = {arg: self.column(step)[frame] for arg, step in self.derived[source].items()}
        return Event(float(self.trace.t[frame]), self.name, args, int(self.trace.run[frame]))

    def __iter__(self) -> Iterator[Event]:
        return (self[at] for at in range(len(self)))


def find_occurrences(bound: Bound, trace: Trace, name: str, column: ColumnOf) -> Occurrences:
    """Return the occurrences of an event: the recorded ones if the trace contains any, otherwise the derived ones."""
    steps = _steps(bound, name)
    if steps is None or not steps.derived or name in trace.event_kinds:
        frames, events = trace.events_by_frame
        mine = np.array([i for i, event in enumerate(events) if event.name == name], np.int64)
        return Occurrences(name, trace, frames[mine], mine, column)
    found, sources = [], []
    for number, source in enumerate(steps.derived):
        counts = column(source.count).data
        at = np.flatnonzero(counts > 0)
        found.append(np.repeat(at, np.minimum(counts[at], MAX_A_FRAME).astype(int)))
        sources.append(np.full(len(found[-1]), number))
    frames, owners = np.concatenate(found), np.concatenate(sources)
    order = np.argsort(frames, kind="stable")  # slots in order within a frame
    values = tuple(source.values for source in steps.derived)
    return Occurrences(name, trace, frames[order], owners[order], column, values)


def _steps(bound: Bound, name: str) -> EventSteps | None:
    """Return an event's steps; None if it is unknown or one of its rules is wrong."""
    if name not in bound.scope.events:
        return None
    try:
        return bound.scope.event(name)
    except RuleError:
        return None
