"""Placement of a plate on a screen of another shape."""

from __future__ import annotations

from pathlib import Path

from avrin.errors import AvrinError
from avrin.kinds.proportions import DrawnBox, drawn_box, in_effect, own_size
from avrin.project.project import Plate, Project, Screen, ScreenPart
from avrin.render.layout import Rect, screen_fit
from avrin.storage.files import inside
from avrin.video.stills import footage_size

__all__ = ["plate_rect", "plate_size"]


def plate_size(plate: Plate, folder: Path) -> tuple[float, float] | None:
    """Return width and height of a plate's picture or film in its own pixels; None if it cannot be read."""
    try:
        path = inside(folder, plate.film or plate.picture)
        return footage_size(path, plate.rate) if plate.film else own_size(str(path))
    except AvrinError:
        return None


def plate_rect(project: Project, plate: Plate | None, screen: Screen, folder: Path) -> Rect:
    """Return where a plate is drawn on a screen, or on a part of a split one, in the screen's pixels.

    It may exceed the screen or leave part of it free. With `auto` it covers a part of a split screen in the
    reference's shape. plate: None for the game's whole picture, which fills the screen.
    """
    width, height = screen.size
    area = DrawnBox(0.0, 0.0, width, height)
    if plate is None or (plate.proportions == "auto" and isinstance(screen, ScreenPart)):
        size: tuple[float, float] | None = project.reference
        return Rect(*drawn_box("cover" if isinstance(screen, ScreenPart) else "stretch", size, area))
    size = plate_size(plate, folder)
    how = in_effect(plate.proportions, size, project.reference)
    return Rect(*drawn_box(how, size, area, screen_fit(project, screen)))
