"""The common input of all parts: a project, its settings for recordings, and the events that occur in them."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.execution.bundle import Bundle, bundled, unpacked
from avrin.execution.locations import Location, at_hand
from avrin.project.project import Project, Recording, Variable
from avrin.rules.check import Events
from avrin.trace.frames import Trace
from avrin.trace.store import open_listed

__all__ = ["Task", "as_listed", "asks_events", "bound", "opened", "read", "seen_key", "task"]


class Task(Struct, frozen=True):
    """A project and its settings for recordings.

    listed: recording entries by name, "" for all others. events: events in any recording, if
    rules name undeclared ones. more: variables declared besides the project's.
    copied: whether reading writes columnar copies to the cache.
    """

    bundle: Bundle
    listed: Mapping[str, Recording]
    events: Events = {}
    more: Mapping[str, Variable] = {}
    copied: bool = False


def task(project: Project, folder: Path, listed: Mapping[str, Recording], *, far: bool, copied: bool = False) -> Task:
    """Create a task. folder: of its assets. far: workers cannot read that folder. Raises AvrinError."""
    return Task(bundled(project, folder, sent=far), {"": as_listed(project), **listed}, copied=copied)


def as_listed(project: Project) -> Recording:
    """Return the entry for recordings a project does not list: settings that all its own entries share.

    Columns are named as in any of its entries, if unambiguous.
    """
    clocks = {(one.time, one.unit, one.rate, one.run) for one in project.traces}
    time, unit, rate, run = next(iter(clocks)) if len(clocks) == 1 else ("", "", 0.0, "")
    names: dict[str, str] = {}
    unsure: set[str] = set()
    for one in project.traces:
        for own, name in one.names.items():
            if names.setdefault(own, name) != name:
                unsure.add(own)
    known = {own: name for own, name in names.items() if own not in unsure}
    return Recording(path="recording", time=time, unit=unit, rate=rate, run=run, names=known)


def asks_events(project: Project, folder: Path) -> bool:
    """Return whether rules may name undeclared events, which must then be discovered first."""
    return bool(bind(project, folder=folder).errors)


def seen_key(events: Events) -> str:
    """Return a key that changes with the discovered events."""
    told = sorted((name, sorted(args.items())) for name, args in events.items())
    return hashlib.blake2b(repr(told).encode(), digest_size=16).hexdigest()


_bound: dict[tuple[str, str], Bound] = {}  # the latest few, in the worker's process
LATEST = 2  # a project before and after an edit


def bound(given: Task) -> Bound:
    """Return the bound project: the same object for all parts of one process."""
    key = given.bundle.digest, seen_key(given.events)
    if key not in _bound:
        project, folder = unpacked(given.bundle)
        _bound[key] = bind(project, events=given.events, folder=folder)
        if len(_bound) > LATEST:
            _bound.pop(next(iter(_bound)))
    return _bound[key]


def opened(given: Task, place: Location) -> Trace:
    """Open a recording. Raises AvrinError."""
    with at_hand(place) as path:
        return read(given, place, path)


def read(given: Task, place: Location, path: Path) -> Trace:
    """Read a recording from a local file. Raises AvrinError."""
    project, _ = unpacked(given.bundle)
    listed = replace(given.listed.get(place.name, given.listed[""]), path=path.name)
    return open_listed(path, {**given.more, **project.all_variables()}, listed, place.name, copied=given.copied)
