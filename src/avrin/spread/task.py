"""What is the same for all parts of some work: a project, what is said of its recordings, and what happens in any of them."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from avrin.model import Project, Recording, Variable
from avrin.rules import Events
from avrin.spread.bundle import Bundle, bundled, unpacked
from avrin.spread.places import Place, at_hand
from avrin.trace import Trace, open_listed
from avrin.widgets import Bound, bind

__all__ = ["Task", "as_listed", "asks_events", "bound", "opened", "read", "seen_key", "task"]


class Task(Struct, frozen=True):
    """A project and its recordings.

    listed: what is said of recordings by their names, and under "" of all others. seen: what happens in any recording, where
    rules name more than is declared. more: variables that are declared besides the project's.
    copied: whether reading leaves columnar copies for the next time.
    """

    bundle: Bundle
    listed: Mapping[str, Recording]
    seen: Events = {}
    more: Mapping[str, Variable] = {}
    copied: bool = False


def task(project: Project, folder: Path, listed: Mapping[str, Recording], *, far: bool, copied: bool = False) -> Task:
    """Work on a project. folder: where its art lies. far: who works cannot look into it. Raises AvrinError."""
    return Task(bundled(project, folder, sent=far), {"": as_listed(project), **listed}, copied=copied)


def as_listed(project: Project) -> Recording:
    """What is said of recordings that a project does not list: as it says of its own, where it says the same of all.

    Columns are called what they are called in any of its own, where that is one name.
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
    """Whether rules may name what happens in some recording: then that must be known first."""
    return bool(bind(project, folder=folder).errors)


def seen_key(seen: Events) -> str:
    """What changes whenever anything else happens in any recording."""
    told = sorted((name, sorted(args.items())) for name, args in seen.items())
    return hashlib.blake2b(repr(told).encode(), digest_size=16).hexdigest()


_bound: dict[tuple[str, str], Bound] = {}  # the latest few, in the process that works
LATEST = 2  # a project before and after


def bound(given: Task) -> Bound:
    """The project, checked: the same object for all parts that one process works on."""
    key = given.bundle.digest, seen_key(given.seen)
    if key not in _bound:
        project, folder = unpacked(given.bundle)
        _bound[key] = bind(project, seen=given.seen, folder=folder)
        if len(_bound) > LATEST:
            _bound.pop(next(iter(_bound)))
    return _bound[key]


def opened(given: Task, place: Place) -> Trace:
    """A recording. Raises AvrinError where it cannot be had or read."""
    with at_hand(place) as path:
        return read(given, place, path)


def read(given: Task, place: Place, path: Path) -> Trace:
    """A recording whose file is at hand. Raises AvrinError."""
    project, _ = unpacked(given.bundle)
    listed = replace(given.listed.get(place.name, given.listed[""]), path=path.name)
    return open_listed(path, {**given.more, **project.all_variables()}, listed, place.name, copied=given.copied)
