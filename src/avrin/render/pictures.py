"""Save pictures: everything a screen shows at a frame, or any sheet of shapes, as SVG or PNG."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path

from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.kinds.shapes import Box, Clip, Group, Picture, Shape
from avrin.kinds.shapes import Path as Path_
from avrin.project.project import Plate, Project, Screen, ScreenPart
from avrin.render.layout import Rect
from avrin.render.plates import plate_rect
from avrin.render.scene import scene
from avrin.render.svg import svg
from avrin.storage.files import inside, write
from avrin.video.stills import still_file
from avrin.video.timing import film_second

__all__ = ["UNDER", "Paint", "SeenBy", "beside_plate", "frame_shapes", "ground_shapes", "hud_shapes", "save_picture"]

TALLEST = 16_384  # pixels painted in one piece
UNDER = "#142027"  # behind the HUD without a plate
PAPER, HATCH = "#2b3338", "#353e44"  # beside a plate that does not fill the screen
HATCHES = 64  # lines along the longer side of a screen
EDGE = 0.01  # pixels: a thinner strip is a rounding error
SeenBy = Callable[[int], Tracks]
Paint = Callable[[Sequence[Shape], int, int], bytes]  # shapes, width and height in pixels -> the PNG's bytes


def frame_shapes(
    tracks: Tracks, frame: int, screen: Screen, plate: Plate | None, folder: Path, seen_by: SeenBy | None = None
) -> list[Shape]:
    """Return everything a screen shows at a frame: the plate or a plain background, then the widgets.

    folder: of the plate's picture or film. seen_by: see `hud_shapes`. Raises AvrinError if the plate's file is missing.
    """
    second = 0.0
    if plate is not None and plate.film and len(tracks.trace):
        seconds = float(tracks.trace.axis[frame])
        second = film_second(tracks.bound.project, plate, tracks.trace.name, seconds) or 0.0
    ground = ground_shapes(tracks.bound.project, screen, plate, folder, second)
    return [*ground, *hud_shapes(tracks, frame, screen, seen_by)]


def hud_shapes(tracks: Tracks, frame: int, screen: Screen, seen_by: SeenBy | None = None) -> list[Shape]:
    """Return the widgets on a screen at a frame; on a split screen those of each part.

    seen_by: tracks by slot for the parts; without it all parts show the same.
    """
    if not screen.parts:
        return [placed.group for placed in scene(tracks, frame, screen)]
    made: list[Shape] = []
    for part in screen.parts:
        placed = scene(seen_by(part.slot) if seen_by is not None else tracks, frame, part)
        made.append(Group(tuple(one.group for one in placed), *part.corner, clip=Clip(0, 0, *part.size)))
    return made


def ground_shapes(
    project: Project, screen: Screen, plate: Plate | None, folder: Path, second: float = 0.0
) -> list[Shape]:
    """Return what is behind the widgets: the plate in each part, or a plain background. second: of the plate's film.

    Raises AvrinError if its picture or film is missing.
    """
    width, height = screen.size
    ground: list[Shape] = [Box(0, 0, width, height, UNDER)]
    if plate is not None:
        path = inside(folder, plate.film or plate.picture)
        source = still_file(path, second, plate.rate) if plate.film else path
        if not source.is_file():
            raise AvrinError(
                f"there is no file '{plate.picture}'",
                place=(f"plate '{plate.name}'",),
                advice="Copy it into the project's folder",
            )
        for part in screen.parts or (screen,):
            rect = plate_rect(project, plate, part, folder)
            drawn = (*beside_plate(rect, part), Picture(*rect, str(source)))
            if isinstance(part, ScreenPart):
                ground.append(Group(drawn, *part.corner, clip=Clip(0, 0, *part.size)))
            else:
                ground += drawn
    return ground


def beside_plate(rect: Rect, screen: Screen) -> tuple[Shape, ...]:
    """Return hatched paper for the strips of a screen that a plate leaves free; nothing where it fills the screen."""
    width, height = screen.size
    left, top = max(0.0, rect.x), max(0.0, rect.y)
    right, bottom = min(width, rect.x + rect.width), min(height, rect.y + rect.height)
    strips = (
        Rect(0.0, 0.0, width, top), Rect(0.0, bottom, width, height - bottom),
        Rect(0.0, top, left, bottom - top), Rect(right, top, width - right, bottom - top),
    )  # fmt: skip
    step = max(width, height) / HATCHES
    return tuple(_hatched(strip, step) for strip in strips if strip.width > EDGE and strip.height > EDGE)


def _hatched(strip: Rect, step: float) -> Group:
    x, y, width, height = strip
    lines: list[tuple[str | float, ...]] = []
    first = math.floor((x + y) / step)  # lines of one pattern over all strips
    for number in range(first, math.ceil((x + width + y + height) / step) + 1):
        along = number * step
        lines += [("M", along - y, y), ("L", along - y - height, y + height)]
    return Group(
        (Box(x, y, width, height, PAPER), Path_(tuple(lines), edge=HATCH, edge_width=step / 6)),
        clip=Clip(x, y, width, height),
    )


def save_picture(shapes: Sequence[Shape], width: int, height: float, out: Path, paint: Paint) -> None:
    """Write shapes as SVG or PNG, by the file's ending. height: pixels, rounded up. paint: renders a PNG.

    Raises AvrinError for another ending, a picture too high for a PNG, or a file that cannot be written.
    """
    high = max(1, math.ceil(height))
    end = out.suffix.lower()
    if end == ".svg":
        write(out, svg(shapes, width, high).encode())
    elif end != ".png":
        raise AvrinError(
            f"'{out.suffix or 'no ending'}' is not a picture format", place=(out.name,), advice="Use .png or .svg"
        )
    elif high > TALLEST:
        raise AvrinError(
            f"the sheet is {high:,} pixels high, and a PNG holds {TALLEST:,}", place=(out.name,),
            advice="Write an .svg or an .html, or fewer widgets",
        )  # fmt: skip
    else:
        write(out, paint(shapes, width, high))
