"""`avrin screens`: the HUD at one time on every screen, plate, colour vision and size, on one sheet."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec.structs import replace

from avrin.binding.tracks import Tracks
from avrin.commands.arguments import add_trace
from avrin.commands.frame import frames_at
from avrin.commands.shared import checked, drawn_status, loaded, opened, painted, painted_page
from avrin.commands.viewing import add_viewing, chosen_eyes, chosen_plate, chosen_screen, chosen_viewer
from avrin.errors import AvrinError
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.findings.suppression import suppressed
from avrin.findings.views import View
from avrin.i18n.own_language import OWN
from avrin.render.drawing_errors import drawing_faults
from avrin.render.pictures import save_picture
from avrin.screens.axes import FULL, Cell, grid, judged_as, usual_cell
from avrin.screens.sheet import screens_sheet
from avrin.screens.spoken import Spoken
from avrin.storage.files import write

__all__ = ["add_arguments"]

SHEET_WIDTH_PX = 1600  # pixels of a sheet


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_screens)
    parser.add_argument("project", type=Path, metavar="P")
    add_trace(parser)
    parser.add_argument("--at", required=True, metavar="S", help="seconds from the trace's beginning")
    parser.add_argument("--rows", default="plates", metavar="AXIS", help="one of the axes (%(default)s)")
    parser.add_argument("--columns", default="screens", metavar="AXIS", help="another axis (%(default)s)")
    add_viewing(parser, "unless screens are an axis", "unless plates are an axis")
    parser.add_argument("--out", type=Path, required=True, metavar="F", help="a .png, .svg or .pdf file")


def _screens(arguments: argparse.Namespace) -> int:
    project = loaded(arguments.project)
    trace = opened(arguments, project)
    bound = checked(project, arguments.project, [trace])
    rest = replace(usual_cell(project), eyes=chosen_eyes(arguments.eyes) or FULL, language=arguments.language or OWN)
    player, option = chosen_viewer(project, arguments)
    rest = replace(rest, player=player, option=option)
    if arguments.screen is not None or arguments.scale or option:
        rest = replace(rest, screen=chosen_screen(project, arguments))
    if arguments.plate is not None:
        rest = replace(rest, plate=chosen_plate(project, arguments.plate))
    tracks = Tracks(bound, trace)
    frames = frames_at(str(arguments.at), trace)
    if len(frames) != 1:
        raise AvrinError("a sheet is of one moment", advice="Write one --at")
    cells = grid(project, arguments.rows, arguments.columns, rest, bound.folder)
    with drawing_faults() as faults:
        shapes, height = screens_sheet(Spoken(tracks), frames[0], cells, SHEET_WIDTH_PX, _words(tracks))
        if arguments.out.suffix.lower() == ".pdf":
            write(arguments.out, painted_page(shapes, SHEET_WIDTH_PX, round(height)))
        else:
            save_picture(shapes, SHEET_WIDTH_PX, height, arguments.out, painted)
    return drawn_status(faults)


def _words(tracks: Tracks) -> Callable[[Cell], Sequence[str]]:
    """Return a function that gives the findings of each cell over the recording, a line each."""
    bound, inspector = tracks.bound, Inspector(CHECKS)
    titles = {widget.id: f"{widget.title}: " for widget in bound.project.widgets}

    def words(cell: Cell) -> list[str]:
        views = [View(*one) for one in judged_as(cell, bound.slot)]
        found = [one for told in inspector.inspect_views(bound, [tracks], views) for one in told]
        quiet = suppressed(bound.project, found)
        return [f"{titles.get(one.widget, '')}{one.short}" for one in found if one not in quiet]

    return words
