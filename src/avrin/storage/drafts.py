"""Drafts: projects without a file, saved in the user's state folder so that no work is lost."""

from __future__ import annotations

import itertools
import os
import re
import time
from collections.abc import Mapping
from pathlib import Path

import msgspec

from avrin.errors import AvrinError, reason_of
from avrin.project.project import Project
from avrin.storage.atomic import atomic_write
from avrin.storage.files import dumps, loads
from avrin.storage.folders import folder_for, state_folder
from avrin.storage.reading import read_whole

__all__ = ["Draft", "delete_draft", "describe_draft", "drafts", "load_draft", "new_draft", "save_draft"]

ENDING = ".draft"
_numbers = itertools.count(1)
MOST_BYTES = 64 * 2**20


class Draft(msgspec.Struct, frozen=True):
    """A project without a file. elsewhere: the location of each recording, by its path in the project."""

    project: Project
    elsewhere: Mapping[str, Path]


class _Kept(msgspec.Struct, frozen=True):
    project: str
    elsewhere: dict[str, str] = {}


def new_draft(title: str) -> Path:
    """Return an unused draft name made of the current time and a title."""
    plain = re.sub(r"[^\w -]", "-", title)[:60]
    return (
        state_folder()
        / "drafts"
        / f"{time.strftime('%Y-%m-%d %H.%M.%S')} {os.getpid()}-{next(_numbers)} {plain}{ENDING}"
    )


def describe_draft(path: Path) -> tuple[str, str]:
    """Return a draft's title and when it was started: day and time."""
    day, hour, _, title = [*path.stem.split(" ", 3), "", "", "", ""][:4]
    return title or path.stem, f"{day} {hour[:5].replace('.', ':')}".strip()


def drafts() -> list[Path]:
    """Return all drafts, the most recent first."""
    try:
        found = [(path.stat().st_mtime, path) for path in (state_folder() / "drafts").glob(f"*{ENDING}")]
    except OSError:
        return []
    return [path for _, path in sorted(found, reverse=True)]


def save_draft(path: Path, draft: Draft) -> None:
    """Write a draft atomically. Raises AvrinError."""
    kept = _Kept(dumps(draft.project), {name: str(file) for name, file in draft.elsewhere.items()})
    try:
        atomic_write(folder_for(path), msgspec.json.encode(kept))
    except OSError as error:
        why = reason_of(error)
        raise AvrinError(f"cannot be kept ({why})", place=(str(path),), advice="Save the project") from None


def load_draft(path: Path) -> Draft:
    """Read a draft. Raises AvrinError."""
    try:
        kept = msgspec.json.decode(read_whole(path, MOST_BYTES), type=_Kept)
    except msgspec.MsgspecError:
        raise AvrinError("is damaged", place=(path.name,), advice="It can no longer be opened") from None
    project, _ = loads(kept.project.encode())
    return Draft(project, {name: Path(file) for name, file in kept.elsewhere.items()})


def delete_draft(path: Path) -> None:
    """Delete a draft that was saved or discarded."""
    path.unlink(missing_ok=True)
