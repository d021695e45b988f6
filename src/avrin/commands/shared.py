"""What several commands share: recordings and projects as the command line names them, tables, progress."""

from __future__ import annotations

import argparse
import logging
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from avrin.model import AvrinError

if TYPE_CHECKING:
    from avrin.model import Project
    from avrin.trace import Trace
    from avrin.widgets import Bound, Shape

__all__ = ["TABLES", "add_clock", "add_trace", "checked", "loaded", "opened", "painted", "progress", "write_out"]

log = logging.getLogger(__name__)
TABLES = ".csv, .parquet or .jsonl"  # `ENDINGS` of the recordings, as a test sees to: asking them would load NumPy


def add_trace(parser: argparse.ArgumentParser) -> None:
    """The recording a command looks at, and what can be said of its time."""
    parser.add_argument("--trace", type=Path, required=True, metavar="T", help=f"a recording, {TABLES}")
    add_clock(parser)


def add_clock(parser: argparse.ArgumentParser) -> None:
    """What can be said of a recording's time, where a guess would be wrong."""
    parser.add_argument("--time", default="", metavar="COL", help="the column that tells the time")
    parser.add_argument("--unit", default="", choices=("s", "ms", "us", "frames"), help="what its time is in")
    parser.add_argument("--rate", type=float, default=0.0, metavar="N", help="frames a second, of a time in frames")
    parser.add_argument("--run", dest="runs", default="", metavar="COL", help="the column that tells runs apart")


def opened(arguments: argparse.Namespace, project: Project | None) -> Trace:
    """The recording of the command line, told the time by as it says, or else as the project does."""
    from avrin.trace import Clock, open_trace

    path: Path = arguments.trace if "trace" in arguments else arguments.file
    clock = Clock(arguments.time, arguments.unit, arguments.rate, arguments.runs)
    if clock == Clock() and project is not None and arguments.project.parent in path.absolute().parents:
        listed = project.recording(path.absolute().relative_to(arguments.project.parent.absolute()).as_posix())
        clock = Clock.of(listed) if listed is not None else clock
    return open_trace(path, project.all_variables() if project else {}, clock)


def loaded(path: Path) -> Project:
    """A project; what was odd in its file is told. Raises AvrinError."""
    from avrin.model import load

    project, warnings = load(path)
    for warning in warnings:
        log.warning("%s: %s", path.name, warning)
    return project


def checked(project: Project, path: Path, traces: Sequence[Trace] = ()) -> Bound:
    """A project all of whose rules can be used over some recordings. path: its file, for what is said of it.

    Raises AvrinError at the first rule that cannot be used.
    """
    from avrin.trace import events_of
    from avrin.widgets import bind

    bound = bind(project, seen=events_of(traces), folder=path.absolute().parent)
    for warning in bound.warnings.values():
        log.warning("%s: %s", path.name, warning)
    try:
        bound.raise_first()
    except AvrinError as error:
        raise error.within(path.name) from None
    return bound


def write_out(trace: Trace, out: Path | None, *, runs: bool = True) -> None:
    """A table to a file or to standard output."""
    from avrin.trace import save_trace, write_table

    if out is not None:
        save_trace(trace, out, runs=runs)
        return
    sys.stdout.flush()
    write_table(trace, sys.stdout.buffer, runs=runs)
    sys.stdout.flush()


def painted(shapes: Sequence[Shape], width: int, height: int) -> bytes:
    """Shapes as a PNG, by the toolkit, which is loaded for it alone."""
    from avrin.app.painting.export import painted as by_toolkit

    return by_toolkit(shapes, width, height)


def progress(done: int, of: int) -> None:
    """A bar on the terminal while many things are made; nothing where nobody looks."""
    if of < 2 or not sys.stderr.isatty():
        return
    wide = 40
    filled = round(wide * done / of)
    end = "\n" if done == of else ""
    print(f"\r{'█' * filled}{'░' * (wide - filled)} {done} of {of}", end=end, file=sys.stderr, flush=True)
