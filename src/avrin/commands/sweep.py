"""`avrin sweep`: run a project over thousands of recordings, on local processes or a cluster."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from avrin.commands.arguments import add_clock, progress
from avrin.commands.many import add_many, listed_by_path
from avrin.commands.shared import loaded
from avrin.errors import AvrinError
from avrin.execution.executor import usual_jobs
from avrin.project.numbers import counted
from avrin.sweep.sweeping import Progress, Wanted, sweep

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_sweep)
    parser.add_argument("project", type=Path, metavar="P")
    add_many(parser, required=True)
    add_clock(parser)
    parser.add_argument("--out", type=Path, required=True, metavar="F", help="a .parquet file for the states")
    parser.add_argument("--resume", action="store_true", help="process only new and changed recordings")
    parser.add_argument("--no-findings", action="store_true", help="write states only, which is much faster")
    parser.add_argument("--folder", type=Path, help=argparse.SUPPRESS)  # of the project's assets, used by the window
    parser.add_argument("--progress", choices=("bar", "lines"), default="bar", help=argparse.SUPPRESS)


def _sweep(arguments: argparse.Namespace) -> int:
    out: Path = arguments.out
    if out.suffix.lower() != ".parquet":
        raise AvrinError(f"--out '{out.name}' is not a table of states", advice="Use the ending .parquet")
    project = loaded(arguments.project)
    folder: Path = (arguments.folder or arguments.project.parent).absolute()
    listed = listed_by_path(arguments, project, folder)
    wanted = Wanted(
        tuple(arguments.recordings), out, listed, arguments.jobs or usual_jobs(), arguments.on,
        arguments.resume, not arguments.no_findings,
    )  # fmt: skip
    told = _line if arguments.progress == "lines" else lambda now: progress(now.done, now.of, now.seconds_left)
    done = sweep(project, folder, wanted, told)
    print(f"{counted(done.recordings, 'recording')}, {done.anew:,} of them processed now, {done.faults:,} unreadable")
    return int(bool(done.faults))


def _line(now: Progress) -> None:
    """Print progress for a parent program."""
    print(json.dumps({"done": now.done, "of": now.of, "left": now.seconds_left}), flush=True)
