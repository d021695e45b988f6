"""Shared parts of commands: recordings and projects that arguments name, and tables."""

from __future__ import annotations

import argparse
import logging
import sys
from collections.abc import Sequence
from pathlib import Path

from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.errors import AvrinError
from avrin.kinds.shapes import Shape
from avrin.printable import one_line
from avrin.project.project import Project, Recording
from avrin.project.unique_names import unique_names
from avrin.storage.files import inside, load
from avrin.trace.clock import Clock
from avrin.trace.frames import Trace, events_of
from avrin.trace.store import open_listed, save_trace, write_table

__all__ = [
    "checked", "drawn_status", "loaded", "opened", "painted", "painted_page", "recordings", "with_clock", "write_out",
]  # fmt: skip

log = logging.getLogger(__name__)


def with_clock(listed: Recording, clock: Clock) -> Recording:
    """Return a recording's entry with the clock overridden."""
    return replace(listed, time=clock.time, unit=clock.unit, rate=clock.rate, run=clock.run)


def opened(arguments: argparse.Namespace, project: Project | None) -> Trace:
    """Open the command line's recording with its clock, or else with the project's."""
    path: Path = arguments.trace if "trace" in arguments else arguments.file
    listed = Recording(path=path.name)
    if project is not None:
        ((_, listed, _),) = recordings(project, arguments.project, [path])
    clock = Clock(arguments.time, arguments.unit, arguments.rate, arguments.runs)
    if clock != Clock():
        listed = with_clock(listed, clock)
    return open_listed(path, project.all_variables() if project else {}, listed)


def recordings(project: Project, path: Path, wanted: Sequence[Path] | None) -> list[tuple[Path, Recording, str]]:
    """Return recordings with their project entries and display names: the given ones, or all in the project.

    path: the project's file. Unlisted recordings get the entries' common settings.
    """
    folder = path.absolute().parent
    listed = [(inside(folder, one.path), one) for one in project.traces]
    if wanted is None:
        return [(file, one, project.recording_name(one.key)) for file, one in listed]
    plain = {file: one for file, one in reversed(listed) if not one.case}
    bare = [plain.get(file.absolute(), Recording(path=file.name)) for file in wanted]
    return list(zip(wanted, bare, unique_names(wanted), strict=True))


def loaded(path: Path) -> Project:
    """Load a project and print its warnings. Raises AvrinError."""
    project, warnings = load(path)
    for warning in warnings:
        log.warning("%s: %s", path.name, warning)
    return project


def checked(project: Project, path: Path, traces: Sequence[Trace] = ()) -> Bound:
    """Return a project bound over some recordings. path: its file, for messages.

    Raises AvrinError for the first invalid rule.
    """
    bound = bind(project, events=events_of(traces), folder=path.absolute().parent)
    for warning in bound.warnings.values():
        log.warning("%s: %s", path.name, warning)
    try:
        bound.raise_first()
    except AvrinError as error:
        raise error.within(path.name) from None
    return bound


def write_out(trace: Trace, out: Path | None, *, runs: bool = True) -> None:
    """Write a table to a file or to standard output."""
    if out is not None:
        save_trace(trace, out, runs=runs)
        return
    sys.stdout.flush()
    write_table(trace, sys.stdout.buffer, runs=runs)
    sys.stdout.flush()


def drawn_status(faults: Sequence[str]) -> int:
    """Return the exit status of a command that drew pictures, and print drawing errors in one line."""
    if faults:
        print(f"avrin: {one_line('; '.join(faults))}. The picture shows a mark in its place", file=sys.stderr)
    return 1 if faults else 0


def painted(shapes: Sequence[Shape], width: int, height: int) -> bytes:
    """Paint shapes as PNG with Qt, which is imported only for this."""
    from avrin.app.painting.export import painted as by_toolkit  # late: 142 ms

    return by_toolkit(shapes, width, height)


def painted_page(shapes: Sequence[Shape], width: int, height: int) -> bytes:
    """Paint shapes as a PDF page with Qt."""
    from avrin.app.painting.export import painted_page as by_toolkit  # late: 136 ms

    return by_toolkit(shapes, width, height)
