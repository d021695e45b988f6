"""`avrin frame`: pictures of the HUD at given times of a recording."""

from __future__ import annotations

import argparse
from pathlib import Path

from avrin.binding.tracks import Tracks
from avrin.commands.arguments import add_trace, progress
from avrin.commands.shared import checked, drawn_status, loaded, opened, painted
from avrin.commands.viewing import add_viewing, chosen_eyes, chosen_plate, chosen_screen, chosen_viewer
from avrin.errors import AvrinError
from avrin.i18n.own_language import OWN
from avrin.project.project import ScreenPart
from avrin.render.drawing_errors import drawing_faults
from avrin.render.layout import Rect
from avrin.render.pictures import save_picture
from avrin.screens.axes import FULL, Cell
from avrin.screens.sheet import cell_shapes
from avrin.screens.spoken import Spoken
from avrin.trace.frames import Trace

__all__ = ["add_arguments", "frames_at"]


def add_arguments(frame: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    frame.set_defaults(run=_frame)
    frame.add_argument("project", type=Path, metavar="P")
    add_trace(frame)
    frame.add_argument("--at", metavar="S,S", help="seconds from the trace's beginning; several make one picture each")
    frame.add_argument("--moments", action="store_true", help="a picture of every moment something visible changes")
    add_viewing(frame, "the first by default", "by default the recording's, or a plain background")
    frame.add_argument(
        "--out",
        type=Path,
        required=True,
        metavar="F",
        help="a .png or .svg file; several get their times in the name",
    )


def _frame(arguments: argparse.Namespace) -> int:
    project = loaded(arguments.project)
    trace = opened(arguments, project)
    bound = checked(project, arguments.project, [trace])
    screen, eyes = chosen_screen(project, arguments), chosen_eyes(arguments.eyes)
    plate = chosen_plate(project, arguments.plate)
    spoken, language = Spoken(Tracks(bound, trace)), arguments.language or OWN
    player, option = chosen_viewer(project, arguments)
    tracks = spoken.tracks(language, screen.slot if isinstance(screen, ScreenPart) else player, option)
    frames = _frames(arguments, tracks)
    outs = _names(arguments.out, frames, trace)
    with drawing_faults() as faults:
        for done, (frame, out) in enumerate(zip(frames, outs, strict=True), 1):
            shown = plate if arguments.plate is not None else tracks.plate(frame)
            view = Cell(screen, shown, eyes or FULL, language, player, option)
            cell = cell_shapes(spoken, frame, view, Rect(0, 0, *screen.size))
            save_picture([cell], *screen.size, out, painted)
            progress(done, len(frames))
    return drawn_status(faults)


def _frames(arguments: argparse.Namespace, tracks: Tracks) -> list[int]:
    """Return the frames of the given times, or all at which something visible changes."""
    trace = tracks.trace
    if arguments.moments:
        return [int(frame) for frame in tracks.moments()]
    return frames_at(str(arguments.at or ""), trace)


def frames_at(text: str, trace: Trace) -> list[int]:
    """Return the frames of times in seconds, separated by commas. Raises AvrinError."""
    found = []
    for word in text.split(","):
        try:
            at = float(word)
        except ValueError:
            raise AvrinError(
                f"--at '{word}' is not a number of seconds" if word else "is empty",
                advice="Write --at 12.5, several as --at 1,2.5,9, or --moments",
            ) from None
        if not 0 <= at <= trace.length:
            raise AvrinError(f"--at {at:g} is outside the recording, which ends at {trace.length:g} s")
        found.append(trace.frame_at(at))
    return found


def _names(out: Path, frames: list[int], trace: Trace) -> list[Path]:
    """Return a file per frame: `out` for a single one; otherwise `out` with each frame's time in its name."""
    if len(frames) == 1:
        return [out]
    return [out.with_name(f"{out.stem}-{trace.axis[frame]:09.3f}{out.suffix}") for frame in frames]
