"""Open a plate's film: a film file, or numbered pictures."""

from __future__ import annotations

from pathlib import Path

from avrin.errors import AvrinError
from avrin.video.film import Film, Footage
from avrin.video.numbered import Numbered, files_of

__all__ = ["footage_files", "open_footage", "refusal_of"]


def open_footage(path: Path, rate: float = 0.0) -> Footage:
    """Open a film, or numbered pictures if the name contains `#`. rate: of those, 0 for the default. Raises AvrinError."""
    if "#" in path.name:
        return Numbered(path, rate)
    if not path.is_file():
        raise AvrinError("there is no such film", place=(path.name,), advice="Copy it into the project's folder")
    return Film(path)


def refusal_of(path: Path, rate: float = 0.0) -> str:
    """Return why a film cannot be shown; "" if it can."""
    try:
        open_footage(path, rate).close()
    except AvrinError as error:
        return error.problem
    return ""


def footage_files(path: Path) -> list[Path]:
    """Return the files of a film."""
    return list(files_of(path).values()) if "#" in path.name else [path]
