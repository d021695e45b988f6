"""Discover the events of many recordings, for rules that name undeclared ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from avrin.errors import AvrinError
from avrin.execution.interface import Executor, WorkerLost
from avrin.execution.locations import Location
from avrin.execution.partitioning import in_parts
from avrin.execution.task import Task, opened
from avrin.trace.frames import ColumnKind

__all__ = ["Happening", "add_events", "discover_events"]

Happening = dict[str, dict[str, ColumnKind]]


def discover_events(who: Executor, given: Task, wanted: Sequence[Location], events: Happening) -> None:
    """Add the events of recordings to `seen`; unreadable recordings are skipped here and reported later."""
    for _, answer in who.each(_happening, given, in_parts(wanted, who.workers)):
        if not isinstance(answer, WorkerLost):
            add_events(events, answer)


def add_events(events: Happening, more: Mapping[str, Mapping[str, ColumnKind]]) -> None:
    """Merge events; an argument of different types becomes a text, in any order."""
    for name, args in more.items():
        known = events.setdefault(name, {})
        for arg, kind in args.items():
            known[arg] = kind if known.get(arg, kind) == kind else "text"


def _happening(given: Task, part: Sequence[Location]) -> Happening:
    found: Happening = {}
    for place in part:
        try:
            add_events(found, opened(given, place).event_kinds)
        except (AvrinError, OSError, MemoryError):
            continue
    return found
