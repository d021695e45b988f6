"""Shared parts of commands: recordings and projects in arguments, tables, progress."""

from __future__ import annotations

import argparse
import logging
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from avrin.model import AvrinError, one_line

if TYPE_CHECKING:
    from avrin.model import Project, Recording
    from avrin.trace import Clock, Trace
    from avrin.widgets import Bound, Shape

__all__ = [
    "TABLES", "add_clock", "add_trace", "checked", "loaded", "opened", "painted", "painted_page",
    "progress", "recordings", "with_clock", "write_out",
]  # fmt: skip

log = logging.getLogger(__name__)
TABLES = ".csv, .parquet or .jsonl"  # `ENDINGS` of recordings, compared by a test: importing them would load NumPy


def add_trace(parser: argparse.ArgumentParser) -> None:
    """Add the arguments for a recording and its time."""
    parser.add_argument("--trace", type=Path, required=True, metavar="T", help=f"a recording, {TABLES}")
    add_clock(parser)


def add_clock(parser: argparse.ArgumentParser) -> None:
    """Add the arguments for a recording's time, to override guesses."""
    parser.add_argument("--time", default="", metavar="COL", help="the time column")
    parser.add_argument("--unit", default="", choices=("s", "ms", "us", "frames"), help="the unit of the time column")
    parser.add_argument("--rate", type=float, default=0.0, metavar="N", help="frames per second, for a time in frames")
    parser.add_argument(
        "--run",
        dest="runs",
        default="",
        metavar="COL",
        help="the run column, none, or restarts: one begins wherever the time starts over",
    )


def with_clock(listed: Recording, clock: Clock) -> Recording:
    """Return a recording's entry with the clock overridden."""
    return replace(listed, time=clock.time, unit=clock.unit, rate=clock.rate, run=clock.run)


def opened(arguments: argparse.Namespace, project: Project | None) -> Trace:
    """Open the command line's recording with its clock, or else with the project's."""
    from avrin.model import Recording
    from avrin.trace import Clock, open_listed

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
    from avrin.model import Recording, inside, unique_names

    folder = path.absolute().parent
    listed = [(inside(folder, one.path), one) for one in project.traces]
    if wanted is None:
        return [(file, one, project.recording_name(one.key)) for file, one in listed]
    plain = {file: one for file, one in reversed(listed) if not one.case}
    bare = [plain.get(file.absolute(), Recording(path=file.name)) for file in wanted]
    return list(zip(wanted, bare, unique_names(wanted), strict=True))


def loaded(path: Path) -> Project:
    """Load a project and print its warnings. Raises AvrinError."""
    from avrin.model import load

    project, warnings = load(path)
    for warning in warnings:
        log.warning("%s: %s", path.name, warning)
    return project


def checked(project: Project, path: Path, traces: Sequence[Trace] = ()) -> Bound:
    """Return a project bound over some recordings. path: its file, for messages.

    Raises AvrinError for the first invalid rule.
    """
    from avrin.trace import events_of
    from avrin.widgets import bind

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
    from avrin.trace import save_trace, write_table

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
    from avrin.app.painting.export import painted as by_toolkit

    return by_toolkit(shapes, width, height)


def painted_page(shapes: Sequence[Shape], width: int, height: int) -> bytes:
    """Paint shapes as a PDF page with Qt."""
    from avrin.app.painting.export import painted_page as by_toolkit

    return by_toolkit(shapes, width, height)


def progress(done: int, of: int, seconds_left: float | None = None) -> None:
    """Show a progress bar on a terminal. seconds_left: estimated seconds remaining."""
    if of < 2 or not sys.stderr.isatty():
        return
    wide = 40
    filled = round(wide * done / of)
    end = "\n" if done == of else ""
    rest = "" if seconds_left is None or done == of else f", {_minutes(seconds_left)} left"
    line = f"{'█' * filled}{'░' * (wide - filled)} {done} of {of}{rest}"
    print(f"\r{line:<{wide + 30}}", end=end, file=sys.stderr, flush=True)


def _minutes(seconds: float) -> str:
    minutes = seconds / 60
    return f"{minutes / 60:.1f} h" if minutes >= 90 else f"{minutes:.0f} min" if minutes >= 1 else "less than a minute"
