"""`avrin eval`: a rule evaluated over a recording."""

from __future__ import annotations

import argparse
from pathlib import Path

from avrin.binding.binding import bind
from avrin.commands.arguments import add_trace
from avrin.commands.shared import loaded, opened, write_out
from avrin.rules.check import Scope
from avrin.rules.errors import RuleError
from avrin.rules.scan import as_column, evaluate
from avrin.trace.formats import ENDINGS_IN_WORDS
from avrin.trace.frames import Trace

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("rule", metavar="RULE")
    add_trace(parser)
    parser.add_argument("--project", type=Path, metavar="P", help="its declarations and derived values")
    parser.add_argument("--out", type=Path, metavar="F", help=f"a {ENDINGS_IN_WORDS} file; standard output by default")
    parser.set_defaults(run=_eval)


def _eval(arguments: argparse.Namespace) -> int:
    project = loaded(arguments.project) if arguments.project else None
    trace = opened(arguments, project)
    kinds = {name: column.kind for name, column in trace.columns.items()}
    if project is None:
        scope = Scope(kinds, events=trace.event_kinds)
    else:
        scope = bind(project, events=trace.event_kinds).scope.knowing(kinds)
    try:
        step = scope.rule(arguments.rule)
    except RuleError as error:
        raise error.within("rule") from None
    (values,) = evaluate([step], trace, scope.graph)
    column = as_column(step, values, scope.graph)
    write_out(Trace(trace.name, trace.t, trace.run, {"value": column}), arguments.out, runs=False)
    return 0
