"""Recently opened projects: a list in the user's state folder, with a thumbnail of each in the cache."""

from __future__ import annotations

import hashlib
import logging
from pathlib import Path

import msgspec

from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_write
from avrin.storage.folders import cache_folder, folder_for, state_folder

__all__ = ["add_recent", "recent_projects", "remove_recent", "thumbnail_file"]

log = logging.getLogger(__name__)
MAX_PROJECTS = 24


def recent_projects() -> list[Path]:
    """Return recently opened projects, most recent first, without those that no longer exist."""
    return [path for path in _listed() if path.exists()]


def add_recent(project: Path) -> None:
    """Add a project to the list. A failed write is only logged."""
    mine = project.absolute()
    _write([mine, *(path for path in _listed() if path != mine)][:MAX_PROJECTS])


def remove_recent(project: Path) -> None:
    """Remove a project from the list."""
    _write([path for path in _listed() if path != project.absolute()])


def thumbnail_file(project: Path) -> Path:
    """Return the path of the thumbnail of a project's HUD."""
    named = hashlib.blake2b(str(project.absolute()).encode(), digest_size=12).hexdigest()
    return cache_folder() / "faces" / f"{named}.picture"


def _list_file() -> Path:
    return state_folder() / "lately.json"


def _listed() -> list[Path]:
    try:
        return [Path(path) for path in msgspec.json.decode(_list_file().read_bytes(), type=list[str])]
    except FileNotFoundError:
        return []
    except (OSError, msgspec.MsgspecError) as error:
        log.warning("the list of recent projects cannot be used: %s", error)
        return []


def _write(paths: list[Path]) -> None:
    try:
        atomic_write(folder_for(_list_file()), msgspec.json.encode([str(path) for path in paths]))
    except (OSError, AvrinError) as error:
        log.warning("the list of recent projects was not saved: %s", error)
