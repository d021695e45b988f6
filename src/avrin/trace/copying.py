"""Copy a recording and its events file atomically, without overwriting another file."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

from avrin.errors import AvrinError, reason_of
from avrin.storage.atomic import atomic_file
from avrin.storage.folders import folder_for
from avrin.trace.formats import EVENTS_ENDING

__all__ = ["beside", "copy_file", "files_of", "free_place"]

COPIED = 8 * 2**20  # bytes between two progress reports


def files_of(recording: Path) -> list[Path]:
    """Return a recording's files: its own and its events."""
    events = beside(recording)
    return [recording, events] if events != recording and events.exists() else [recording]


def beside(recording: Path) -> Path:
    """Return the path of a table's events file."""
    return recording.with_name(f"{recording.stem}{EVENTS_ENDING}")


def free_place(folder: Path, wanted: str, source: Path) -> str:
    """Return a path for a copy: the wanted one if it is free or already holds the same content."""
    pure, number, name = Path(wanted), 2, wanted
    while (there := folder / name).exists() and not _same(there, source):
        name, number = (pure.parent / f"{pure.stem}-{number}{pure.suffix}").as_posix(), number + 1
    return name


def _same(first: Path, second: Path) -> bool:
    known, its = first.stat(), second.stat()
    return known.st_size == its.st_size and (known.st_ino == its.st_ino or int(known.st_mtime) == int(its.st_mtime))


def copy_file(source: Path, target: Path, progress: Callable[[int], None] = lambda _: None) -> None:
    """Copy a file atomically. progress: called with the number of bytes copied. Raises AvrinError."""
    try:
        with source.open("rb") as reading, atomic_file(folder_for(target)) as writing:
            while block := reading.read(COPIED):
                writing.write(block)
                progress(len(block))
        shutil.copystat(source, target)
    except OSError as error:
        why = reason_of(error)
        raise AvrinError(
            f"cannot be copied into the project's folder ({why})", place=(source.name,), advice="Choose another folder"
        ) from None
