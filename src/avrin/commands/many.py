"""Commands over many recordings: selection, executor, and reports of unreadable ones."""

from __future__ import annotations

import argparse
import logging
from collections.abc import Callable, Mapping, Sequence
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any, TypeVar

from msgspec import Struct, field
from msgspec.structs import replace

from avrin.commands.arguments import progress
from avrin.commands.shared import recordings, with_clock
from avrin.errors import AvrinError
from avrin.execution.event_discovery import Happening, discover_events
from avrin.execution.executor import executor, usual_jobs
from avrin.execution.interface import Executor
from avrin.execution.locations import Location
from avrin.execution.locations import locations as locations_of
from avrin.execution.mapping import map_recordings
from avrin.execution.task import Task, as_listed, asks_events, bound
from avrin.execution.task import task as task_of
from avrin.project.project import Project, Recording
from avrin.storage.files import inside
from avrin.trace.clock import Clock
from avrin.trace.frames import Trace

__all__ = ["Many", "add_many", "listed_by_path"]

log = logging.getLogger(__name__)
Answer = TypeVar("Answer")
MOST_COPIED = 48  # recordings whose columnar copies are cached
WORTH = 100  # recordings one process handles in the time another one takes to start
MOST_TOLD = 20  # lines of errors


def add_many(parser: argparse.ArgumentParser, *, required: bool = False) -> None:
    """Add the arguments for locations of recordings and for executors."""
    parser.add_argument("--recordings", action="extend", nargs="+", default=[], metavar="PATH|URL", required=required,
                        help="files, folders with all in them, and URLs such as s3://BUCKET/FOLDER")  # fmt: skip
    parser.add_argument("--on", default="", metavar="ADDRESS", help="a Dask scheduler, as tcp://HOST:8786")
    parser.add_argument("--jobs", type=int, default=0, metavar="N", help="processes; one per core by default")


def listed_by_path(arguments: argparse.Namespace, project: Project, folder: Path) -> dict[str, Recording]:
    """Return a project's recording entries by path, "" for all others, overridden by the command line's clock.

    folder: the project's.
    """
    known = {str(inside(folder, one.path)): one for one in reversed(project.traces) if not one.case}
    known[""] = as_listed(project)
    clock = Clock(arguments.time, arguments.unit, arguments.rate, arguments.runs)
    return {path: one if clock == Clock() else with_clock(one, clock) for path, one in known.items()}


class Many(Struct, frozen=True):
    """The recordings of a command, and how to process them. faulty: skip and report unreadable ones.

    left_out: skipped ones, with their errors, by name.
    """

    task: Task
    locations: list[Location]
    jobs: int  # 0 for an automatic number
    on: str
    faulty: bool
    left_out: dict[str, str] = field(default_factory=dict)

    @property
    def status(self) -> int:
        """The exit status: all recordings were processed, or only some."""
        return 2 if self.left_out else 0

    @classmethod
    def of(
        cls, arguments: argparse.Namespace, project: Project, wanted: Sequence[Path] | None, path: Path | None = None
    ) -> Many:
        """Return those under --recordings; else the given ones, or the project's own.

        path: the project's file, unless it is in the arguments. Raises AvrinError.
        """
        if arguments.recordings and wanted:
            raise AvrinError("--trace and --recordings do not go together", advice="Use one of them")
        path = path or Path(arguments.project)
        folder, listed = path.absolute().parent, dict[str, "Recording"]()
        if arguments.recordings:
            found = locations_of(arguments.recordings)
            said = {str(inside(folder, one.path)): one for one in reversed(project.traces) if not one.case}
            listed = {place.name: said[place.path] for place in found if place.path in said}
        else:
            told = recordings(project, path, wanted or None)
            found = [Location.at(file.absolute(), name, _size(file)) for file, _, name in told]
            listed = {name: one for _, one, name in told}
        copied = len(found) <= MOST_COPIED and not arguments.on
        return cls(
            task_of(project, folder, listed, far=bool(arguments.on), copied=copied), found, arguments.jobs,
            arguments.on, bool(arguments.recordings),
        )  # fmt: skip

    def crew(self, least: int = 1, worth: int = WORTH) -> AbstractContextManager[Executor]:
        """Return the executor. least: recordings per part. worth: recordings that justify another process."""
        jobs = self.jobs or min(usual_jobs(), -(-len(self.locations) // worth))
        return executor(min(jobs, -(-len(self.locations) // least)), self.on)

    def checked(self, who: Executor, project: Project, path: Path) -> Many:
        """Return the same with events discovered, if rules need them. path: the project's file.

        Raises AvrinError for the first invalid rule.
        """
        seen: Happening = {}
        if asks_events(project, path.absolute().parent):
            discover_events(who, self.task, self.locations, seen)
        found = replace(self, task=replace(self.task, events=seen))
        for warning in bound(found.task).warnings.values():
            log.warning("%s: %s", path.name, warning)
        try:
            bound(found.task).raise_first()
        except AvrinError as error:
            raise error.within(path.name) from None
        return found

    def gather(
        self, who: Executor, look: Callable[[Task, Any, Trace], Answer], extra: object
    ) -> list[tuple[Location, Answer]]:
        """Return the results of `look` for each recording in order; report skipped ones. Raises AvrinError."""
        left = [place for place in self.locations if place.name not in self.left_out]
        found = map_recordings(who, self.task, left, look, extra, faulty=self.faulty, progress=progress)
        self.leave_out(found.faults)
        return found.answers

    def leave_out(self, faults: Mapping[str, str]) -> None:
        """Print skipped recordings, a line each, up to a limit."""
        for name, why in faults.items():
            self.left_out[name] = why
            if len(self.left_out) <= MOST_TOLD:
                log.warning("skipped %s: %s", name, why)
        if len(self.left_out) > MOST_TOLD and faults:
            log.warning("%d recordings were skipped", len(self.left_out))


def _size(file: Path) -> int:
    try:
        return file.stat().st_size
    except OSError:
        return 0  # reported when it is read
