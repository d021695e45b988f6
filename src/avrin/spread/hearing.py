"""Discover the events of many recordings, for rules that name undeclared ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from avrin.model import AvrinError
from avrin.spread.cutting import in_parts
from avrin.spread.places import Place
from avrin.spread.task import Task, opened
from avrin.spread.work import Crew, Lost
from avrin.trace import ColumnKind

__all__ = ["Happening", "add_events", "hear"]

Happening = dict[str, dict[str, ColumnKind]]


def hear(who: Crew, given: Task, wanted: Sequence[Place], events: Happening) -> None:
    """Add the events of recordings to `seen`; unreadable recordings are skipped here and reported later."""
    for _, answer in who.each(_happening, given, in_parts(wanted, who.hands)):
        if not isinstance(answer, Lost):
            add_events(events, answer)


def add_events(events: Happening, more: Mapping[str, Mapping[str, ColumnKind]]) -> None:
    """Merge events; an argument of different types becomes a text, whatever the order."""
    for name, args in more.items():
        known = events.setdefault(name, {})
        for arg, kind in args.items():
            known[arg] = kind if known.get(arg, kind) == kind else "text"


def _happening(given: Task, part: Sequence[Place]) -> Happening:
    found: Happening = {}
    for place in part:
        try:
            add_events(found, opened(given, place).event_kinds)
        except (AvrinError, OSError, MemoryError):
            continue
    return found
