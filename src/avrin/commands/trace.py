"""`avrin trace`: summarise a recording, convert it, or generate one from declarations."""

from __future__ import annotations

import argparse
import math
import shutil
import textwrap
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from avrin.binding.places import rule_at, rule_places
from avrin.commands.arguments import add_clock
from avrin.commands.shared import checked, loaded, opened
from avrin.errors import AvrinError
from avrin.ladder.generated_trace import made_for
from avrin.printable import one_line, printable
from avrin.project.numbers import plain_number, plain_rate
from avrin.trace.behaviour import runs_by_behaviour
from avrin.trace.cutting import cut, quoted, with_made_up_names
from avrin.trace.formats import ENDINGS_IN_WORDS
from avrin.trace.frames import Trace
from avrin.trace.generate import Plan
from avrin.trace.naming import proposed
from avrin.trace.store import save_trace
from avrin.trace.summary import summarise

__all__ = ["add_arguments"]

NAME = 40  # characters of a column's name
DEFAULT_LINE_CHARS = 120  # characters per line without a terminal


def add_arguments(command: Callable[..., Any]) -> None:
    """Add the subcommands. command: creates one from a name, its help and its function."""
    info = command("info", "Describe a recording.", _info)
    info.add_argument("file", type=Path, metavar="F")
    add_clock(info)
    convert = command("convert", "Convert a recording to another format without loss.", _convert)
    convert.add_argument("file", type=Path, metavar="IN")
    convert.add_argument("out", type=Path, metavar="OUT", help=f"a {ENDINGS_IN_WORDS} file")
    convert.add_argument("--project", type=Path, metavar="P", help="a project whose declarations type the columns")
    add_clock(convert)
    part = command("cut", "Cut a stretch out of a recording.", _cut)
    part.add_argument("file", type=Path, metavar="IN")
    part.add_argument("--from", type=float, default=0.0, dest="begin", metavar="S", help="seconds on the time axis (0)")
    part.add_argument(
        "--to", type=float, default=math.inf, dest="end", metavar="S", help="likewise, included (the end)"
    )
    part.add_argument("--out", type=Path, required=True, metavar="OUT", help=f"a {ENDINGS_IN_WORDS} file")
    part.add_argument(
        "--made-up-names", action="store_true", help="replace texts that no rule of P names, before sharing"
    )
    part.add_argument("--project", type=Path, metavar="P", help="a project whose declarations type the columns")
    add_clock(part)
    make = command("make", "Make a trace from a project's declarations.", _make)
    make.add_argument("project", type=Path, metavar="P")
    make.add_argument("--out", type=Path, required=True, metavar="F", help=f"a {ENDINGS_IN_WORDS} file")
    make.add_argument("--parts", default="ramps,steps,jumps,restart,walks", metavar="A,B", help="those of %(default)s")
    make.add_argument("--seconds", type=float, default=4.0, metavar="S", help="of a ramp (4)")
    make.add_argument("--rate", type=float, default=60.0, metavar="N", help="frames a second (60)")
    make.add_argument("--seed", type=int, default=1, metavar="N", help="of the random walks (1)")


def _info(arguments: argparse.Namespace) -> int:
    trace = opened(arguments, None)
    lengths = [f"{trace.t[end - 1] - trace.t[start]:.2f} s" for _, start, end in trace.runs()]
    runs = f"runs: {len(lengths)}" + (
        f" ({', '.join(lengths[:8])}{' …' if len(lengths) > 8 else ''})" if lengths[1:] else ""
    )
    recorded = sum(float(trace.t[end - 1] - trace.t[start]) for _, start, end in trace.runs())
    rate = f"{plain_rate((len(trace) - len(lengths)) / recorded)} a second" if recorded else "all at one time"
    print(f"{one_line(arguments.file.name)}: {len(trace):,} frames, {trace.length:.2f} s, {rate}, {runs}")
    if trace.clock is not None:
        print(one_line(str(trace.clock)))
        print("  say otherwise with --time, --unit, --rate and --run (none, restarts)")
    _print_understood(trace)
    rows = [("column", "type", "least", "most", "missing", "changes")]
    for c in summarise(trace):
        words = ", ".join(_short(word) for word in c.words[:4]) + (" …" if len(c.words) > 4 else "")
        low, high = ("" if end is None else plain_number(end) for end in (c.low, c.high))
        rows.append(
            (
                _short(c.name, NAME),
                c.type,
                low or words,
                high,
                f"{c.missing:.1%}" if c.missing else "",
                f"{c.changes:,}",
            )
        )
    _print_table(rows, left_columns=(0, 1), words=2)
    if trace.events:
        print()
        told = [("event", "times", "first", "arguments")]
        for name, args in trace.event_kinds.items():
            mine = [event for event in trace.events if event.name == name]
            told.append((name, f"{len(mine):,}", f"{mine[0].t:.2f} s", ", ".join(f"{a}: {k}" for a, k in args.items())))
        _print_table(told, left_columns=(0, 3))
    return 0


def _print_understood(trace: Trace) -> None:
    """Print what a new project would infer: rosters, names, and probable runs."""

    def tell(text: str) -> None:
        print(textwrap.fill(printable(text), _room(), subsequent_indent="  ", break_long_words=False))

    naming = proposed(trace.columns)
    for roster in naming.rosters:
        first, *_, last = [*roster.columns, *roster.columns]
        tell(f"roster {roster.name}: {roster.slots} × {', '.join(roster.fields[:6])}, from {first} … {last}")
    for reason in naming.ungrouped:
        tell(f"no roster of {reason}")
    mine = {own for roster in naming.rosters for own in roster.columns}
    called = [f"{_short(own)} is {new}" for own, new in naming.names.items() if own not in mine]
    if called:
        tell(f"called in rules: {', '.join(called[:6])}{' …' if len(called) > 6 else ''}")
    if (runs := runs_by_behaviour(trace)) is not None:
        tell(f"runs, perhaps: {runs}; say --run {runs.column}")


def _room() -> int:
    """Return the width of the terminal in characters."""
    return shutil.get_terminal_size((DEFAULT_LINE_CHARS, 24)).columns


def _short(text: str, most: int = 28) -> str:
    """Return a text on one line, truncated."""
    flat = " ".join(text.split())
    return flat if len(flat) <= most else f"{flat[: most - 1]}…"


def _print_table(rows: Sequence[tuple[str, ...]], left_columns: tuple[int, ...], words: int = -1) -> None:
    """Print aligned columns: `left` ones left_columns, numbers right. words: a column that may hold either."""
    room = _room()
    widths = [max(len(row[i]) for row in rows) for i in range(len(rows[0]))]
    for row in rows:
        to_left = [i in left_columns or (i == words and not row[i + 1]) for i in range(len(row))]
        cells = [c.ljust(w) if lies else c.rjust(w) for c, w, lies in zip(row, widths, to_left, strict=True)]
        line = "  ".join(cells).rstrip()
        shown = one_line(line)
        print(shown if len(shown) <= room else f"{shown[: room - 1]}…")


def _convert(arguments: argparse.Namespace) -> int:
    project = loaded(arguments.project) if arguments.project else None
    save_trace(opened(arguments, project), arguments.out)
    return 0


def _cut(arguments: argparse.Namespace) -> int:
    project = loaded(arguments.project) if arguments.project else None
    trace = opened(arguments, project)
    inside = np.flatnonzero((trace.axis >= arguments.begin) & (trace.axis <= arguments.end))
    if not len(inside):
        raise AvrinError(f"has no frame there; it is {trace.length:g} s long", place=(arguments.file.name,))
    part = cut(trace, int(inside[0]), int(inside[-1]) + 1)
    if arguments.made_up_names:
        rules = [rule_at(project, place) for place in rule_places(project)] if project is not None else []
        part = with_made_up_names(part, quoted(rules))
    save_trace(part, arguments.out)
    return 0


def _make(arguments: argparse.Namespace) -> int:
    project = loaded(arguments.project)
    parts = tuple(part.strip() for part in arguments.parts.split(",") if part.strip())
    plan = Plan(parts, seconds=arguments.seconds, rate=arguments.rate, seed=arguments.seed)
    save_trace(made_for(checked(project, arguments.project), plan, arguments.out.stem), arguments.out)
    return 0
