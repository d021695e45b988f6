"""`avrin track`: the states of all widgets over a recording."""

from __future__ import annotations

import argparse
from pathlib import Path

from avrin.binding.tracks import track
from avrin.commands.arguments import add_trace
from avrin.commands.shared import checked, loaded, opened, write_out
from avrin.handoff.table import at_changes
from avrin.trace.formats import ENDINGS_IN_WORDS

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("project", type=Path, metavar="P")
    add_trace(parser)
    parser.add_argument("--every", choices=("frame", "change"), default="frame")
    parser.add_argument("--out", type=Path, metavar="F", help=f"a {ENDINGS_IN_WORDS} file; standard output by default")
    parser.set_defaults(run=_track)


def _track(arguments: argparse.Namespace) -> int:
    project = loaded(arguments.project)
    trace = opened(arguments, project)
    states = track(checked(project, arguments.project, [trace]), trace)
    write_out(at_changes(states) if arguments.every == "change" else states, arguments.out)
    return 0
