"""Pictures and other files that a project uses lie in its folder, so that it can be moved and shared as one."""

from __future__ import annotations

import filecmp
import shutil
from pathlib import Path

from avrin.model.errors import AvrinError

__all__ = ["PICTURES", "take_in"]

PICTURES = (".png", ".svg")
ART = "art"  # the folder for them, beside the project file


def take_in(source: Path, folder: Path) -> str:
    """Copy a picture file into a project's folder, where it is not there already; returns its path from there.

    A file of the same name with another content keeps its name; the new one gets a number.
    Raises AvrinError when it is no PNG or SVG file, or cannot be copied.
    """
    if source.suffix.lower() not in PICTURES:
        raise AvrinError(f"the file {source.name} is no picture Avrin draws", advice="Choose a PNG or an SVG file")
    try:
        source = source.resolve(strict=True)
        if source.is_relative_to(folder.resolve()):
            return source.relative_to(folder.resolve()).as_posix()
        (folder / ART).mkdir(exist_ok=True)
        number = 1
        while True:
            goal = folder / ART / (source.stem + (f"-{number}" if number > 1 else "") + source.suffix.lower())
            if not goal.exists():
                shutil.copyfile(source, goal)
                break
            if filecmp.cmp(source, goal, shallow=False):
                break
            number += 1
    except OSError as error:
        raise AvrinError(
            f"the file {source.name} cannot be copied into the project's folder: {error.strerror}"
        ) from None
    return goal.relative_to(folder).as_posix()
