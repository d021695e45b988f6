"""Pictures kept as files: all that a screen shows at a frame, and any sheet of shapes, as SVG or, painted, as PNG."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path

from avrin.footage import film_second, still_file
from avrin.model import AvrinError, Plate, Screen, inside, write
from avrin.render.scene import scene
from avrin.render.svg import svg
from avrin.widgets import Box, Picture, Shape, Tracks

__all__ = ["UNDER", "Paint", "frame_shapes", "ground_shapes", "save_picture"]

TALLEST = 16_384  # pixels of a picture that are painted in one piece
UNDER = "#142027"  # under the HUD where there is no plate
Paint = Callable[[Sequence[Shape], int, int], bytes]  # shapes, width and height in pixels -> the PNG's bytes


def frame_shapes(tracks: Tracks, frame: int, screen: Screen, plate: Plate | None, folder: Path) -> list[Shape]:
    """Everything a screen shows at a frame: the plate, or a plain ground, then the widgets.

    folder: where the plate's picture or film lies. Raises AvrinError when it is not there.
    """
    second = 0.0
    if plate is not None and plate.film and len(tracks.trace):
        seconds = float(tracks.trace.axis[frame])
        second = film_second(tracks.bound.project, plate, tracks.trace.name, seconds) or 0.0
    ground = ground_shapes(screen, plate, folder, second)
    return [*ground, *(placed.group for placed in scene(tracks, frame, screen))]


def ground_shapes(screen: Screen, plate: Plate | None, folder: Path, second: float = 0.0) -> list[Shape]:
    """What lies under the widgets: the plate, or a plain ground. second: of the plate's film.

    Raises AvrinError when its picture or film is not there.
    """
    width, height = screen.size
    ground: list[Shape] = [Box(0, 0, width, height, UNDER)]
    if plate is not None:
        path = inside(folder, plate.film or plate.picture)
        source = still_file(path, second, plate.rate) if plate.film else path
        if not source.is_file():
            raise AvrinError(
                f"there is no file '{plate.picture}'", place=(f"plate '{plate.name}'",), advice="Copy it there"
            )
        ground.append(Picture(0, 0, width, height, str(source)))
    return ground


def save_picture(shapes: Sequence[Shape], width: int, height: float, out: Path, paint: Paint) -> None:
    """Write shapes as SVG or PNG, as the file's name ends. height: pixels, rounded up. paint: of who has a painter.

    Raises AvrinError where the name ends otherwise, where it is too high for a PNG, and where it cannot be written.
    """
    high = max(1, math.ceil(height))
    end = out.suffix.lower()
    if end == ".svg":
        write(out, svg(shapes, width, high).encode())
    elif end != ".png":
        raise AvrinError(
            f"'{out.suffix or 'no ending'}' is no kind of picture", place=(out.name,), advice="Use .png or .svg"
        )
    elif high > TALLEST:
        raise AvrinError(
            f"the sheet is {high:,} pixels high, and a PNG holds {TALLEST:,}", place=(out.name,),
            advice="Write an .svg or an .html, or fewer widgets",
        )  # fmt: skip
    else:
        write(out, paint(shapes, width, high))
