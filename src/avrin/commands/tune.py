"""`avrin tune`: what a warning would have done at each limit, or how a prompt was needed, shown and obeyed, as a table."""

from __future__ import annotations

import argparse
import math
from pathlib import Path

from avrin.commands.shared import checked, loaded, recordings
from avrin.model import AvrinError

__all__ = ["add_tune"]


def add_tune(parser: argparse.ArgumentParser) -> None:
    """The command's arguments."""
    parser.set_defaults(run=_tune)
    parser.add_argument("project", type=Path, metavar="P")
    parser.add_argument("--widget", required=True, metavar="ID", help="ID, or ID[slot] of a repeated one")
    parser.add_argument(
        "--band", metavar="NAME", help="the band whose limit is put at each value; unsaid of a prompt alone"
    )
    parser.add_argument(
        "--before",
        metavar="RULE",
        help="what it warns of: a condition, the name of one of the project's outcomes, or restart",
    )
    parser.add_argument("--trace", type=Path, action="append", metavar="T",
                        help="a recording; may be said again; the project's own if unsaid")  # fmt: skip
    parser.add_argument(
        "--values", metavar="LO:HI:STEP", help="limits to try, HI too; fifty over the recorded if unsaid"
    )
    for name, unsaid, what in (
        ("lead", 3.0, "ahead by so much is in time"), ("within", 10.0, "after an alarm's end an outcome still is its own"),
        ("again", 2.0, "what begins sooner is the same one, come again"),
    ):  # fmt: skip
        parser.add_argument(f"--{name}", type=float, default=unsaid, metavar="S", help=f"seconds: {what} ({unsaid:g})")
    parser.add_argument("--out", type=Path, required=True, metavar="F", help="a .csv file")


def _tune(arguments: argparse.Namespace) -> int:
    from avrin.model import write
    from avrin.trace import open_listed
    from avrin.tuning import Terms, asked, curves, lesson_table, lessons, signals, stepped, table, usual_values
    from avrin.widgets import Tracks

    if arguments.out.suffix.lower() != ".csv":
        raise AvrinError(f"--out '{arguments.out.name}' is no table", advice="It ends in .csv")
    for name in ("lead", "within", "again"):
        if not 0 <= getattr(arguments, name) < math.inf:
            raise AvrinError(f"--{name} {getattr(arguments, name):g} is no number of seconds", advice="Write 0 or more")
    project = loaded(arguments.project)
    listed = recordings(project, arguments.project, arguments.trace)
    if not listed:
        raise AvrinError(
            "the project has no recordings", place=(arguments.project.name,), advice="Name one with --trace"
        )
    declared = project.all_variables()
    traces = [open_listed(file, declared, one, name) for file, one, name in listed]
    bound = checked(project, arguments.project, traces)
    every = [Tracks(bound, trace) for trace in traces]
    if arguments.band is None and arguments.before is None:
        write(arguments.out, lesson_table(lessons(every, arguments.widget), every).encode())
        return 0
    if arguments.band is None or arguments.before is None:
        raise AvrinError("--band and --before go together", advice="Say both, or neither of a prompt")
    question = asked(every[0], arguments.widget, arguments.band, arguments.before)
    found = signals(every, question)
    values = stepped(arguments.values) if arguments.values is not None else usual_values(found, question)
    told = curves(found, question, values, Terms(arguments.lead, arguments.within, arguments.again))
    write(arguments.out, table(told).encode())
    return 0
