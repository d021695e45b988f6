"""`avrin ladder`: every widget around its thresholds, as a picture, a table or a page."""

from __future__ import annotations

import argparse
from pathlib import Path

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.commands.arguments import progress
from avrin.commands.many import Many, add_many
from avrin.commands.shared import checked, loaded, painted, recordings
from avrin.errors import AvrinError, nearest
from avrin.execution.task import Task
from avrin.execution.task import bound as bound_for
from avrin.kinds.shapes import Shape
from avrin.ladder.coverage import Stay, coverage
from avrin.ladder.coverage_sheet import coverage_sheet, coverage_table
from avrin.ladder.drivers import drivers
from avrin.ladder.files import page, states_page, table
from avrin.ladder.rows import Row, never_shown, sweep_row
from avrin.ladder.samples import finish
from avrin.ladder.sheet import whole_sheet
from avrin.project.project import Project
from avrin.render.pictures import save_picture
from avrin.storage.files import write
from avrin.trace.frames import Column, Trace
from avrin.trace.store import open_listed

__all__ = ["add_arguments"]

WIDTH = 1280
ENDS = (".png", ".svg", ".csv", ".html")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_ladder)
    parser.add_argument("project", type=Path, metavar="P")
    parser.add_argument("--widget", metavar="ID", help="one widget only; all by default")
    parser.add_argument("--trace", type=Path, action="append", default=[], metavar="T",
                        help="a recording to search; repeatable; the project's own by default")  # fmt: skip
    parser.add_argument(
        "--at", type=float, default=0.0, metavar="S", help="the moment in seconds whose other values are used (0)"
    )
    parser.add_argument("--never", action="store_true", help="only states that no recording showed")
    parser.add_argument("--coverage", action="store_true", help="a report of which states the recordings showed")
    add_many(parser)
    parser.add_argument("--out", type=Path, required=True, metavar="F", help=f"a {', '.join(ENDS)} file")


def _ladder(arguments: argparse.Namespace) -> int:
    out: Path = arguments.out
    if out.suffix.lower() not in ENDS:
        raise AvrinError(f"--out '{out.name}' has no supported ending", advice=f"Use {', '.join(ENDS)}")
    path: Path = arguments.project
    project = loaded(path)
    if arguments.coverage:
        return _states(arguments, project)
    if arguments.recordings or arguments.on:
        raise AvrinError("--recordings goes with --coverage", advice="Name the recordings with --trace")
    traces = _traces(project, path, arguments.trace)
    bound = checked(project, path, traces)
    wanted = _wanted(bound, arguments.widget)
    tracks = [Tracks(bound, trace) for trace in traces]
    frame = traces[0].frame_at(arguments.at)
    pairs = [(copy, driver) for widget in wanted for copy in widget.each() for driver in drivers(bound, copy)]
    rows: list[Row] = []
    for widget, driver in pairs:
        rows.append(finish(sweep_row(tracks[0], widget, driver, frame, traces)))
        progress(len(rows), len(pairs))
    if arguments.never:
        rows = never_shown(rows)
    held = f"as it would be at {arguments.at:g} s of {traces[0].name}, with everything that happened before"
    match out.suffix.lower():
        case ".csv":
            write(out, table(rows).encode())
        case ".html":
            ids = dict.fromkeys(row.widget.widget.id for row in rows)
            covered = {i: coverage(tracks, bound.widgets[i]) for i in ids}
            write(out, page(rows, bound, held, covered).encode())
        case _:
            _picture(
                out, *whole_sheet(rows, bound, WIDTH, f"{project.title}: every widget around its thresholds", held)
            )
    return 0


def _wanted(bound: Bound, ident: str | None) -> list[BoundWidget]:
    """Return one widget, or all of them. Raises AvrinError for an unknown id."""
    if ident is not None and ident not in bound.widgets:
        close = nearest(ident, bound.widgets)
        raise AvrinError(f"there is no widget '{ident}'" + (f": did you mean '{close}'?" if close else ""))
    return [widget for name, widget in bound.widgets.items() if ident in (None, name)]


def _states(arguments: argparse.Namespace, project: Project) -> int:
    """Write the state coverage as a table, a page or a picture."""
    out: Path = arguments.out
    work = Many.of(arguments, project, arguments.trace)
    with work.crew() as who:
        work = work.checked(who, project, arguments.project)
        names = [widget.widget.id for widget in _wanted(bound_for(work.task), arguments.widget)]
        told = [told for _, told in work.gather(who, _covered, names)]
    if not work.locations:
        told = [_covered(work.task, names, one) for one in _traces(project, arguments.project, [])]
    covered: dict[str, dict[str, list[Stay]]] = {}
    for one in told:
        for ident, states in one.items():
            for state, stay in states.items():
                covered.setdefault(ident, {}).setdefault(state, []).append(stay)
    match out.suffix.lower():
        case ".csv":
            write(out, coverage_table(covered).encode())
        case ".html":
            write(out, states_page(bound_for(work.task), covered).encode())
        case _:
            _picture(out, *coverage_sheet(covered, bound_for(work.task), WIDTH))
    return work.status


def _covered(given: Task, names: list[str], trace: Trace) -> dict[str, dict[str, Stay]]:
    """Return the coverage of one recording; runs on any executor."""
    project = bound_for(given)
    widgets = [project.widgets[name] for name in names]
    tracks = [Tracks(project, trace, only=widgets)]
    return {one.widget.id: {state: stay for state, (stay,) in coverage(tracks, one).items()} for one in widgets}


def _traces(project: Project, path: Path, wanted: list[Path]) -> list[Trace]:
    """Return the recordings to search; without any, one frame with every variable at its start."""
    declared = project.all_variables()
    if found := recordings(project, path, wanted or None):
        return [open_listed(file, declared, listed, name) for file, listed, name in found]
    starts = {name: Column.of([v.start]) for name, v in declared.items() if v.start is not None}
    return [Trace.make("no recording", [0.0], starts)]


def _picture(out: Path, shapes: list[Shape], height: float) -> None:
    save_picture(shapes, WIDTH, height, out, painted)
