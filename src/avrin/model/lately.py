"""Which projects were opened lately, and how each looked: a list in the user's state folder, pictures in the cache."""

from __future__ import annotations

import hashlib
import logging
from pathlib import Path

import msgspec

from avrin.model.errors import AvrinError
from avrin.model.folders import cache_folder, folder_for, state_folder
from avrin.model.whole import write_whole

__all__ = ["face_file", "lately", "not_lately", "opened_now"]

log = logging.getLogger(__name__)
MOST = 24


def lately() -> list[Path]:
    """Projects opened lately, the latest first; those that are gone are left out."""
    return [path for path in _listed() if path.exists()]


def opened_now(project: Path) -> None:
    """A project was opened. Nothing is lost but comfort when that cannot be written down."""
    mine = project.absolute()
    _write([mine, *(path for path in _listed() if path != mine)][:MOST])


def not_lately(project: Path) -> None:
    """A project is to be listed no more."""
    _write([path for path in _listed() if path != project.absolute()])


def face_file(project: Path) -> Path:
    """Where the picture of a project's HUD is kept."""
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
        log.warning("the list of projects opened lately cannot be used: %s", error)
        return []


def _write(paths: list[Path]) -> None:
    try:
        write_whole(folder_for(_list_file()), msgspec.json.encode([str(path) for path in paths]))
    except (OSError, AvrinError) as error:
        log.warning("the list of projects opened lately was not kept: %s", error)
