"""Files a project uses (pictures, fonts, films) are copied into its folder, so the folder can be moved and shared."""

from __future__ import annotations

import filecmp
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from avrin.errors import AvrinError, reason_of
from avrin.storage.atomic import atomic_file
from avrin.storage.reading import plain_file

__all__ = ["FILM", "FONT", "PICTURE", "FileSort", "take_in"]

AT_ONCE = 4 * 2**20  # bytes copied between two checks for cancellation


class FileSort(NamedTuple):
    """A type of file Avrin can draw with. ends: file endings, lower case. folder: where it goes inside the project's.

    most: the largest accepted size in bytes.
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


def take_in(
    source: Path, folder: Path, sort: FileSort = PICTURE, progress: Callable[[int], None] = lambda _: None
) -> str:
    """Copy a file into a project's folder unless it is already there, and return its path relative to the folder.

    If another file has the same name, the new one gets a number. progress: called repeatedly with the number of bytes copied;
    it may raise to cancel, which removes the partial copy.
    Raises AvrinError if the file has the wrong type or cannot be copied.
    """
    if source.suffix.lower() not in sort.ends:
        raise AvrinError(f"the file {source.name} is not a {sort.name} Avrin can draw", advice=sort.advice)
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
                with source.open("rb") as reading, atomic_file(goal) as writing:
                    while part := reading.read(AT_ONCE):
                        writing.write(part)
                        progress(len(part))
                break
            if filecmp.cmp(source, goal, shallow=False):
                break
            number += 1
    except OSError as error:
        raise AvrinError(
            f"the file {source.name} cannot be copied into the project's folder: {reason_of(error)}"
        ) from None
    return goal.relative_to(folder).as_posix()
