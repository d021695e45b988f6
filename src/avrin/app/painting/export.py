"""Pictures of a frame for the command line: PNG through Qt, SVG as text, from one display list."""

from __future__ import annotations

import math
from pathlib import Path

from PySide6.QtGui import QColor, QImage, QPainter

from avrin.app.painting.paint import draw, png_bytes
from avrin.model import AvrinError, Plate, Screen, inside, write
from avrin.render import scene, svg
from avrin.widgets import Box, Picture, Shape, Tracks

__all__ = ["frame_shapes", "save_frame", "save_sheet"]

TALLEST = 16_384  # pixels of a picture that are painted in one piece
UNDER = "#142027"  # under the HUD where there is no plate


def frame_shapes(tracks: Tracks, frame: int, screen: Screen, plate: Plate | None, folder: Path) -> list[Shape]:
    """Everything a screen shows at a frame: the plate, or a plain ground, then the widgets."""
    width, height = screen.size
    ground: list[Shape] = [Box(0, 0, width, height, UNDER)]
    if plate is not None:
        source = inside(folder, plate.picture)
        if not source.is_file():
            raise AvrinError(
                f"there is no file '{plate.picture}'", place=(f"plate '{plate.name}'",), advice="Copy it there"
            )
        ground.append(Picture(0, 0, width, height, str(source)))
    return [*ground, *(placed.group for placed in scene(tracks, frame, screen))]


def save_frame(shapes: list[Shape], screen: Screen, out: Path) -> None:
    """Write the shapes as PNG or SVG, as the file's name ends. Raises AvrinError when it cannot be written."""
    width, height = screen.size
    if out.suffix.lower() == ".svg":
        data = svg(shapes, width, height).encode()
    elif out.suffix.lower() == ".png":
        image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(QColor(UNDER))
        painter = QPainter(image)
        draw(painter, shapes)
        painter.end()
        data = png_bytes(image)
    else:
        raise AvrinError(
            f"'{out.suffix or 'no ending'}' is no kind of picture", place=(out.name,), advice="Use .png or .svg"
        )
    write(out, data)


def save_sheet(shapes: list[Shape], width: int, height: float, out: Path) -> None:
    """Write a sheet that is as high as it must be, as PNG or SVG. Raises AvrinError where it is too high for a PNG."""
    high = max(1, math.ceil(height))
    if high > TALLEST and out.suffix.lower() == ".png":
        raise AvrinError(
            f"the sheet is {high:,} pixels high, and a PNG holds {TALLEST:,}", place=(out.name,),
            advice="Write an .svg or an .html, or fewer widgets",
        )  # fmt: skip
    save_frame(shapes, Screen(name="sheet", size=(width, high)), out)
