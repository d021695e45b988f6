"""`avrin screens`: the HUD at a moment on every screen, over every plate, by every eye, at every size, on one sheet."""

from __future__ import annotations

import argparse
from pathlib import Path

from avrin.commands.frame import chosen_plate, chosen_screen, frames_at
from avrin.commands.shared import add_trace, checked, loaded, opened, painted, painted_page
from avrin.model import AvrinError, nearest, write

__all__ = ["add_screens"]

WIDE = 1600  # pixels of a sheet


def add_screens(parser: argparse.ArgumentParser) -> None:
    """The command's arguments."""
    parser.set_defaults(run=_screens)
    parser.add_argument("project", type=Path, metavar="P")
    add_trace(parser)
    parser.add_argument("--at", required=True, metavar="S", help="seconds from the trace's beginning")
    parser.add_argument("--rows", default="plates", metavar="AXIS", help="screens, plates, eyes or sizes (%(default)s)")
    parser.add_argument("--columns", default="screens", metavar="AXIS", help="another of them (%(default)s)")
    parser.add_argument("--screen", metavar="WxH", help="where screens are no axis: a size, or a screen's name")
    parser.add_argument("--plate", metavar="NAME", help="where plates are no axis: a plate's name")
    parser.add_argument("--eyes", default="", metavar="NAME", help="where eyes are no axis: by which it is seen")
    parser.add_argument("--scale", type=float, default=0.0, metavar="N", help="where sizes are no axis: 0.25 to 4")
    parser.add_argument("--out", type=Path, required=True, metavar="F", help="a .png, .svg or .pdf file")


def _screens(arguments: argparse.Namespace) -> int:
    from msgspec.structs import replace

    from avrin.render import EYES, save_picture
    from avrin.screens import grid, screens_sheet, usual_cell
    from avrin.widgets import Tracks

    project = loaded(arguments.project)
    trace = opened(arguments, project)
    bound = checked(project, arguments.project, [trace])
    rest = usual_cell(project)
    if arguments.screen is not None:
        rest = replace(rest, screen=chosen_screen(project, arguments.screen))
    if arguments.plate is not None:
        rest = replace(rest, plate=chosen_plate(project, arguments.plate))
    if arguments.eyes:
        if arguments.eyes not in EYES:
            close = nearest(arguments.eyes, EYES)
            hint = f": did you mean '{close}'?" if close else ""
            raise AvrinError(
                f"there are no eyes '{arguments.eyes}'{hint}", advice="" if close else f"There are {', '.join(EYES)}"
            )
        rest = replace(rest, eyes=arguments.eyes)
    if arguments.scale:
        if not 0.25 <= arguments.scale <= 4:
            raise AvrinError(f"--scale {arguments.scale:g} is no size a player can set", advice="Write 0.25 to 4")
        rest = replace(rest, screen=replace(rest.screen, scale=arguments.scale))
    tracks = Tracks(bound, trace)
    frames = frames_at(str(arguments.at), trace)
    if len(frames) != 1:
        raise AvrinError("a sheet is of one moment", advice="Write one --at")
    cells = grid(project, arguments.rows, arguments.columns, rest)
    shapes, height = screens_sheet(tracks, frames[0], cells, WIDE)
    if arguments.out.suffix.lower() == ".pdf":
        write(arguments.out, painted_page(shapes, WIDE, round(height)))
    else:
        save_picture(shapes, WIDE, height, arguments.out, painted)
    return 0
