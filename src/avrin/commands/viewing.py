"""Arguments for the view of a HUD: screen, plate, colour vision, language."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from avrin.binding.player_options import option_named, scaled
from avrin.errors import AvrinError, nearest
from avrin.project.project import Plate, Project, Screen
from avrin.render.colour import EYES
from avrin.screens.distance import DISTANCE

__all__ = ["add_viewing", "chosen_eyes", "chosen_plate", "chosen_screen", "chosen_viewer"]


def add_viewing(parser: argparse.ArgumentParser, screen: str, plate: str) -> None:
    """Add the arguments. screen, plate: describe the defaults."""
    parser.add_argument(
        "--screen", metavar="WxH", help=f"a size in pixels, or the name of a screen, or of a part of one; {screen}"
    )
    parser.add_argument("--plate", metavar="NAME", help=f"a plate's name; {plate}")
    parser.add_argument("--eyes", default="", metavar="NAME", help="a colour vision deficiency; full colour by default")
    parser.add_argument(
        "--scale",
        type=float,
        default=0.0,
        metavar="N",
        help="the player's own size, 0.25 to 4; the screen's by default",
    )
    parser.add_argument(
        "--as", type=int, dest="player", metavar="N", help="the player whose HUD it is, from 1; the first"
    )
    parser.add_argument("--option", metavar="NAME", help="an option of the player's; none by default")
    parser.add_argument(
        "--language", default="", metavar="L", help="a language that has a catalogue; the project's own by default"
    )


def chosen_screen(project: Project, arguments: argparse.Namespace) -> Screen:
    """Return the screen at the requested size. Raises AvrinError."""
    screen = scaled(_screen(project, arguments.screen), option_named(project, arguments.option or ""))
    if not arguments.scale:
        return screen
    if not 0.25 <= arguments.scale <= 4:
        raise AvrinError(f"--scale {arguments.scale:g} is not a valid HUD scale", advice="Use 0.25 to 4")
    return replace(screen, scale=arguments.scale)


def _screen(project: Project, wanted: str | None) -> Screen:
    """Return a size, or a screen by name; by default the first one."""
    if wanted is None:
        width, height = project.reference
        return project.screens[0] if project.screens else Screen(name="reference", size=(width, height))
    named = {one.name: one for screen in project.screens for one in (screen, *screen.parts)}
    if wanted in named:
        return named[wanted]
    parts = wanted.lower().split("x")
    if len(parts) == 2 and all(part.isdecimal() and 16 <= int(part) <= 16_384 for part in parts):
        return Screen(name=wanted, size=(int(parts[0]), int(parts[1])))
    close = nearest(wanted, named)
    raise AvrinError(
        f"--screen '{wanted}' is neither a size nor a screen of the project"
        + (f": did you mean '{close}'?" if close else ""),
        advice="" if close else "Write for example 1920x1080; sides are 16 to 16384 pixels",
    )


def chosen_viewer(project: Project, arguments: argparse.Namespace) -> tuple[int | None, str | None]:
    """Return the slot of the player whose HUD it is, and the name of an option; None for the usual ones. Raises AvrinError."""
    slot = None if arguments.player is None else arguments.player - 1
    if slot is not None and (not project.players or slot not in project.slots):
        advice = f"There are {len(project.slots)}" if project.players else "Name a roster as `players` in the project"
        raise AvrinError(f"--as {arguments.player}: there is no such player", advice=advice)
    names = [option.name for option in project.options]
    if arguments.option and arguments.option not in names:
        close = nearest(arguments.option, names)
        raise AvrinError(
            f"there is no option '{arguments.option}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else f"There are {', '.join(names)}" if names else "The project has none",
        )
    return slot, arguments.option


def chosen_plate(project: Project, wanted: str | None) -> Plate | None:
    """Return a plate by name. Raises AvrinError."""
    if wanted is None:
        return None
    named = {plate.name: plate for plate in project.plates}
    if wanted not in named:
        close = nearest(wanted, named)
        hint = f"There are {', '.join(named)}" if named else "The project has none"
        raise AvrinError(
            f"there is no plate '{wanted}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else hint,
        )
    return named[wanted]


def chosen_eyes(wanted: str) -> str:
    """Return the colour vision as the axis names it; "" for normal. Raises AvrinError."""
    known = (*EYES, DISTANCE)
    if wanted and wanted not in known:
        close = nearest(wanted, known)
        raise AvrinError(
            f"there are no eyes '{wanted}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else f"There are {', '.join(known)}",
        )
    return wanted
