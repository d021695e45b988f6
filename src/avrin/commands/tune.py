"""`avrin tune`: the result of a warning at each limit, or when a prompt was needed, shown and obeyed, as a table."""

from __future__ import annotations

import argparse
import math
from pathlib import Path

from avrin.binding.tracks import Tracks
from avrin.commands.many import Many, add_many
from avrin.commands.shared import loaded
from avrin.errors import AvrinError
from avrin.execution.interface import Executor
from avrin.execution.task import Task, bound
from avrin.storage.files import write
from avrin.trace.frames import FloatArray, Trace
from avrin.tuning.apply_limit import is_share, limit_text
from avrin.tuning.curves import Counted, Terms, counted, together
from avrin.tuning.goals import best
from avrin.tuning.lessons import lesson_rows, lesson_table, lessons
from avrin.tuning.signals import Question, Signal, asked, signals
from avrin.tuning.table import table
from avrin.tuning.values import Levels, all_levels, levels, stepped, usual_values

__all__ = ["add_arguments"]

BEST = 3  # limits that are printed


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_tune)
    parser.add_argument("project", type=Path, metavar="P")
    parser.add_argument("--widget", required=True, metavar="ID", help="ID, or ID[slot] of a repeated one")
    parser.add_argument(
        "--band", metavar="NAME", help="the band whose limit is set to each value; not needed for a prompt"
    )
    parser.add_argument(
        "--before",
        metavar="RULE",
        help="what it warns of: a condition, the name of one of the project's outcomes, or restart",
    )
    parser.add_argument("--trace", type=Path, action="append", metavar="T",
                        help="a recording; repeatable; the project's own by default")  # fmt: skip
    parser.add_argument(
        "--values", metavar="LO:HI:STEP", help="limits to try, including HI; fifty over the recorded range by default"
    )
    for name, unsaid, what in (
        ("lead", 3.0, "a warning this far ahead is in time"), ("within", 10.0, "an outcome this long after belongs to the alarm"),
        ("again", 2.0, "alarms closer together than this count as one"),
    ):  # fmt: skip
        parser.add_argument(f"--{name}", type=float, default=unsaid, metavar="S", help=f"seconds: {what} ({unsaid:g})")
    add_many(parser)
    parser.add_argument("--out", type=Path, required=True, metavar="F", help="a .csv file")


def _tune(arguments: argparse.Namespace) -> int:
    if arguments.out.suffix.lower() != ".csv":
        raise AvrinError(f"--out '{arguments.out.name}' is not a table", advice="Use the ending .csv")
    for name in ("lead", "within", "again"):
        if not 0 <= getattr(arguments, name) < math.inf:
            raise AvrinError(
                f"--{name} {getattr(arguments, name):g} is not a number of seconds", advice="Write 0 or more"
            )
    if (arguments.band is None) != (arguments.before is None):
        raise AvrinError("--band and --before go together", advice="Use both, or neither for a prompt")
    project = loaded(arguments.project)
    work = Many.of(arguments, project, arguments.trace)
    if not work.locations:
        raise AvrinError(
            "the project has no recordings", place=(arguments.project.name,), advice="Name one with --trace"
        )
    with work.crew() as who:
        work = work.checked(who, project, arguments.project)
        if arguments.band is None:
            lines = work.gather(who, _lessons, arguments.widget)
            write(arguments.out, lesson_table(line for _, result in lines for line in result).encode())
            return work.status
        asked_for = (arguments.widget, arguments.band, arguments.before)
        question = asked(bound(work.task), *asked_for)
        values = _values(arguments.values, work, who, question, asked_for)
        terms = Terms(arguments.lead, arguments.within, arguments.again)
        parts = [result for _, result in work.gather(who, _counted, (asked_for, values, terms))]
        result = together(values, parts, terms)
        write(arguments.out, table(result).encode())
    for number in best(result, BEST) if result.outcomes.any() else ():
        print(
            f"{limit_text(float(result.value[number]), share=is_share(question))}: {result.warned[number]} of "
            f"{result.outcomes[number]} warned {terms.lead:g} s ahead, {result.false[number]} false alarms, on for "
            f"{result.share_on[number]:.0%} of all play"
        )
    return work.status


def _values(
    text: str | None, work: Many, who: Executor, question: Question, asked_for: tuple[str, str, str]
) -> FloatArray:
    """Return the limits to try."""
    if text is not None:
        return stepped(text)
    return usual_values(all_levels([result for _, result in work.gather(who, _levels, asked_for)]), question)


# Functions for each recording, which run on any executor.


def _lessons(given: Task, ident: str, trace: Trace) -> list[list[str]]:
    return lesson_rows(lessons([Tracks(bound(given), trace)], ident), [trace])


def _levels(given: Task, asked_for: tuple[str, str, str], trace: Trace) -> Levels:
    return levels(_signals(given, asked_for, trace)[1])


def _counted(given: Task, asked_for: tuple[tuple[str, str, str], FloatArray, Terms], trace: Trace) -> Counted:
    names, values, terms = asked_for
    question, found = _signals(given, names, trace)
    return counted(found, question, values, terms)


def _signals(given: Task, asked_for: tuple[str, str, str], trace: Trace) -> tuple[Question, list[Signal]]:
    project = bound(given)
    question = asked(project, *asked_for)
    return question, signals([Tracks(project, trace, only=[question.widget])], question)
