"""Pictures, fonts and other files that a project uses lie in its folder, so that it can be moved and shared as one."""

from __future__ import annotations

import filecmp
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from avrin.model.errors import AvrinError
from avrin.model.reading import plain_file
from avrin.model.whole import whole_file

__all__ = ["FILM", "FONT", "PICTURE", "FileSort", "take_in"]

AT_ONCE = 4 * 2**20  # bytes that are copied between two looks at whether anybody still waits


class FileSort(NamedTuple):
    """A sort of file that Avrin draws with. ends: of its name, in small letters. folder: for it, in the project's.

    most: bytes of one that is taken in.
    """

    name: str
    ends: tuple[str, ...]
    folder: str
    advice: str
    most: int = 64 * 2**20


PICTURE = FileSort("picture", (".png", ".svg"), "art", "Choose a PNG or an SVG file")
FONT = FileSort("font", (".ttf", ".otf", ".ttc"), "fonts", "Choose a TrueType or an OpenType file")


FILM = FileSort(
    "film", (".mp4", ".mkv", ".webm", ".mov", ".avi", ".m4v", ".ogv", ".mpg", ".gif"), "films",
    "Choose a film, such as an .mp4", 8 * 2**30,
)  # fmt: skip


def take_in(source: Path, folder: Path, sort: FileSort = PICTURE, told: Callable[[int], None] = lambda _: None) -> str:
    """Copy a file into a project's folder, where it is not there already; returns its path from there.

    A file of the same name with another content keeps its name; the new one gets a number. told: hears how many bytes were
    copied, again and again; it may raise to stop, and then nothing is left behind.
    Raises AvrinError when it is none of that sort, or cannot be copied.
    """
    if source.suffix.lower() not in sort.ends:
        raise AvrinError(f"the file {source.name} is no {sort.name} Avrin draws", advice=sort.advice)
    try:
        source = source.resolve(strict=True)
        if plain_file(source) > sort.most:
            raise AvrinError(f"the file {source.name} is larger than {sort.most // 2**20:,} MiB", advice=sort.advice)
        if source.is_relative_to(folder.resolve()):
            return source.relative_to(folder.resolve()).as_posix()
        (folder / sort.folder).mkdir(exist_ok=True)
        number = 1
        while True:
            goal = folder / sort.folder / (source.stem + (f"-{number}" if number > 1 else "") + source.suffix.lower())
            if not goal.exists():
                with source.open("rb") as reading, whole_file(goal) as writing:
                    while part := reading.read(AT_ONCE):
                        writing.write(part)
                        told(len(part))
                break
            if filecmp.cmp(source, goal, shallow=False):
                break
            number += 1
    except OSError as error:
        raise AvrinError(
            f"the file {source.name} cannot be copied into the project's folder: {error.strerror}"
        ) from None
    return goal.relative_to(folder).as_posix()
