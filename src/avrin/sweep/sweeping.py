"""Sweep a project over thousands of recordings, part by part; results are stored as they arrive and merged at the end."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.execution.bundle import program
from avrin.execution.event_discovery import Happening, add_events, discover_events
from avrin.execution.executor import executor
from avrin.execution.interface import Executor, WorkerLost
from avrin.execution.locations import Location, at_hand, locations, stamp
from avrin.execution.partitioning import cost, in_parts
from avrin.execution.retries import ENDED, each_part
from avrin.execution.task import asks_events, seen_key, task
from avrin.project.project import Project, Recording
from avrin.sweep.attempts import Trying
from avrin.sweep.part_index import Where
from avrin.sweep.parts import NEVER, STATES, Entry, Kept, Part, encoded
from avrin.sweep.processing import Given, content, swept
from avrin.sweep.results import check_outputs, outputs, put_together

__all__ = ["Progress", "Summary", "Wanted", "sweep"]

TWICE = 2  # crashes with a recording after which it is skipped


class Wanted(Struct, frozen=True):
    """The request. recordings: files, folders and URLs. out: the table of states; the others are named after it.

    listed: recording entries by path, "" for all others. jobs: processes; on: a scheduler's address.
    """

    recordings: tuple[str, ...]
    out: Path
    listed: Mapping[str, Recording]
    jobs: int = 1
    on: str = ""
    resume: bool = False
    findings: bool = True


class Progress(Struct, frozen=True):
    """done, of: recordings. seconds_left: estimated seconds remaining, None if unknown."""

    done: int
    of: int
    seconds_left: float | None = None


class Summary(Struct, frozen=True):
    """recordings: processed in total, including unreadable ones. anew: processed in this sweep."""

    recordings: int
    faults: int
    anew: int


def sweep(
    project: Project, folder: Path, wanted: Wanted, progress: Callable[[Progress], None] = lambda _: None
) -> Summary:
    """Process all recordings, and write the tables of states, findings and errors.

    folder: of the project's assets. Raises AvrinError if nothing can be done, and OSError if writing
    fails; finished parts remain.
    """
    check_outputs(wanted.out)
    found = locations(wanted.recordings, but=(wanted.out, *outputs(wanted.out)))
    work = _Work(project, folder, wanted, found, progress)
    where = work.done()
    faults = put_together(where, wanted.out)
    work.kept.clear(but=set(where.files))
    return Summary(len(found), faults, work.anew)


class _Work:
    """The state of the work: known and remaining recordings. anew: number of processed ones."""

    def __init__(
        self,
        project: Project,
        folder: Path,
        wanted: Wanted,
        found: Sequence[Location],
        progress: Callable[[Progress], None],
    ) -> None:
        self.anew = 0
        self.kept = Kept(wanted.out.with_name(f"{wanted.out.name}.parts"))
        self._trying = Trying(self.kept.folder)
        self._wanted, self._found, self._told = wanted, found, progress
        asks = asks_events(project, folder)
        listed = {place.name: wanted.listed[key] for place in found if (key := place.path) in wanted.listed}
        listed |= {"": wanted.listed[""]} if "" in wanted.listed else {}
        given = task(project, folder, listed, far=bool(wanted.on))
        said = sorted((name, msgspec.json.encode(one)) for name, one in given.listed.items())
        key = repr((given.bundle.digest, program(), said, wanted.findings, asks))
        digest = hashlib.blake2b(key.encode(), digest_size=16).hexdigest()
        self._given = Given(given, digest, wanted.findings, asks)

    def done(self) -> Where:
        """Process what is missing and return the part of each recording."""
        seen: Happening = {}
        known = self._load_known(seen) if self._wanted.resume else Where(self._found)
        if not self._wanted.resume:
            self._trying.forget()
            self.kept.clear()
        unheard = known.missing() if self._given.events else []
        if not unheard:
            where = known.under(seen_key(seen))
            if not where.missing():
                return where
        with executor(self._wanted.jobs, self._wanted.on) as who:
            discover_events(who, self._given.task, unheard, seen)
            where = known.under(seen_key(seen))
            self._look(who, replace(self._given, task=replace(self._given.task, events=seen)), where)
        return where

    def _load_known(self, events: Happening) -> Where:
        """Return results of earlier sweeps of the same project for unchanged recordings."""
        known = Where(self._found)
        for path, part in self.kept.heads():
            for entry in part.entries if part.key == self._given.key else ():
                place = known.place(entry.name)
                if place is not None and _is_same(place, entry):
                    known.put(entry.name, path, part.events_key)
                    add_events(events, entry.events)
        return known

    # -- the rest ------------------------------------------------------------------------------------------------------

    def _look(self, who: Executor, given: Given, where: Where) -> None:
        """Process all recordings that are in no part yet."""
        rest = where.missing()
        clock = _Clock(rest, len(self._found))
        doubtful = {place for place in rest if place.name in self._trying.times}  # the program crashed while reading it
        hopeless = {place for place in doubtful if self._trying.times[place.name] >= TWICE}
        for place in hopeless:
            self._keep(_fault(given, place), where)
        parts = in_parts([place for place in rest if place not in doubtful], who.workers)
        parts += [(place,) for place in rest if place in doubtful - hopeless]
        for part, answer in each_part(partial(self._watched, who, given), parts):
            self._keep(_fault(given, part[0]) if isinstance(answer, WorkerLost) else answer, where)
            self._told(clock.now(part))

    def _watched(
        self, who: Executor, given: Given, parts: Sequence[tuple[Location, ...]]
    ) -> Iterator[tuple[int, bytes | WorkerLost]]:
        """Yield the executor's results; if it runs in this process, record each recording before processing it."""
        if not who.is_here:
            yield from who.each(swept, given, parts)
            return
        for number, part in enumerate(parts):
            names = [place.name for place in part]
            self._trying.begin(names)
            answers = list(who.each(swept, given, [part]))
            self._trying.end(names)
            yield from ((number, answer) for _, answer in answers)

    def _keep(self, data: bytes, where: Where) -> None:
        path, part = self.kept.put(data)
        for entry in part.entries:
            where.put(entry.name, path, part.events_key)
        self.anew += len(part.entries)


class _Clock:
    """Estimates the remaining time from the finished cost."""

    def __init__(self, rest: Sequence[Location], of: int) -> None:
        self._left = float(sum(map(cost, rest)))
        self._whole, self._of = self._left, of
        self._done = of - len(rest)
        self._began = time.monotonic()

    def now(self, part: Iterable[Location]) -> Progress:
        """Return the progress after one more part."""
        for place in part:
            self._left -= cost(place)
            self._done += 1
        past = self._whole - self._left
        left = (time.monotonic() - self._began) / past * self._left if past else None
        return Progress(self._done, self._of, left)


def _fault(given: Given, place: Location) -> bytes:
    entry = Entry(place.name, "", NEVER, 0, 0, ENDED, {})
    return encoded(Part(given.key, seen_key(given.task.events), (entry,)), STATES.empty_table(), [])


def _is_same(place: Location, entry: Entry) -> bool:
    """Return whether a recording is unchanged."""
    if not place.is_far and stamp(place) == entry.stamp:
        return True
    if entry.fault:
        return False
    try:
        with at_hand(place) as path:
            return content(path) == entry.digest
    except (AvrinError, OSError):
        return False  # reported when it is processed
