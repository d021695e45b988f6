"""`avrin ladder`: every widget around its thresholds, as a picture, a table or a page."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from avrin.commands.shared import checked, loaded, painted, progress, recordings
from avrin.model import AvrinError, Project

if TYPE_CHECKING:
    from avrin.ladder import Row
    from avrin.trace import Trace
    from avrin.widgets import Shape

__all__ = ["add_ladder"]

WIDTH = 1280
ENDS = (".png", ".svg", ".csv", ".html")


def add_ladder(parser: argparse.ArgumentParser) -> None:
    """The command's arguments."""
    parser.set_defaults(run=_ladder)
    parser.add_argument("project", type=Path, metavar="P")
    parser.add_argument("--widget", metavar="ID", help="one widget alone; all if unsaid")
    parser.add_argument("--trace", type=Path, action="append", default=[], metavar="T",
                        help="a recording that is searched; may be said again; the project's own if unsaid")  # fmt: skip
    parser.add_argument(
        "--at", type=float, default=0.0, metavar="S", help="seconds of the first, where all else is held (0)"
    )
    parser.add_argument("--never", action="store_true", help="only states that no recording shows")
    parser.add_argument("--coverage", action="store_true", help="which states the recordings showed, instead")
    parser.add_argument("--out", type=Path, required=True, metavar="F", help=f"a {', '.join(ENDS)} file")


def _ladder(arguments: argparse.Namespace) -> int:
    from avrin.ladder import (
        climb_row,
        coverage,
        coverage_sheet,
        coverage_table,
        drivers,
        finish,
        never_shown,
        page,
        states_page,
        table,
        whole_sheet,
    )
    from avrin.model import nearest, write
    from avrin.widgets import Tracks

    out: Path = arguments.out
    if out.suffix.lower() not in ENDS:
        raise AvrinError(f"--out '{out.name}' is no kind of ladder", advice=f"It ends in {', '.join(ENDS)}")
    path: Path = arguments.project
    project = loaded(path)
    traces = _traces(project, path, arguments.trace)
    bound = checked(project, path, traces)
    if arguments.widget is not None and arguments.widget not in bound.widgets:
        close = nearest(arguments.widget, bound.widgets)
        raise AvrinError(f"there is no widget '{arguments.widget}'" + (f": did you mean '{close}'?" if close else ""))
    tracks = [Tracks(bound, trace) for trace in traces]
    frame = traces[0].frame_at(arguments.at)
    wanted = [w for ident, w in bound.widgets.items() if arguments.widget in (None, ident)]
    if arguments.coverage:
        covered = {widget.widget.id: coverage(tracks, widget) for widget in wanted}
        if out.suffix.lower() == ".csv":
            write(out, coverage_table(covered).encode())
        elif out.suffix.lower() == ".html":
            write(out, states_page(bound, covered).encode())
        else:
            _picture(out, *coverage_sheet(covered, bound, WIDTH))
        return 0
    pairs = [(widget, driver) for widget in wanted for driver in drivers(bound, widget)]
    rows: list[Row] = []
    for widget, driver in pairs:
        rows.append(finish(climb_row(tracks[0], widget, driver, frame, traces)))
        progress(len(rows), len(pairs))
    if arguments.never:
        rows = never_shown(rows)
    held = f"the rest held at {arguments.at:g} s of {traces[0].name}"
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


def _traces(project: Project, path: Path, wanted: list[Path]) -> list[Trace]:
    """The recordings that are searched; without any, one frame in which every variable is at its start."""
    from avrin.trace import Column, Trace, open_listed

    declared = project.all_variables()
    if found := recordings(project, path, wanted or None):
        return [open_listed(file, declared, listed, name) for file, listed, name in found]
    starts = {name: Column.of([v.start]) for name, v in declared.items() if v.start is not None}
    return [Trace.make("no recording", [0.0], starts)]


def _picture(out: Path, shapes: list[Shape], height: float) -> None:
    from avrin.render import save_picture

    save_picture(shapes, WIDTH, height, out, painted)
