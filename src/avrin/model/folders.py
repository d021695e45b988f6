"""Folders of the user's that hold what projects do not: what can be made again, and edits that were not saved."""

from __future__ import annotations

import os
from pathlib import Path

from avrin.model.errors import AvrinError

__all__ = ["cache_folder", "folder_for", "state_folder"]


def cache_folder() -> Path:
    """Where things are kept that can be made again. It can be deleted at any time."""
    if own := os.environ.get("AVRIN_CACHE"):
        return Path(own)
    import platformdirs

    return platformdirs.user_cache_path("avrin")


def state_folder() -> Path:
    """Where what happened is kept, and what was not saved. It is not made again."""
    if own := os.environ.get("AVRIN_STATE"):
        return Path(own)
    import platformdirs

    return platformdirs.user_state_path("avrin")


def folder_for(path: Path) -> Path:
    """Make the folder that a file is to lie in; returns the file's path. Raises AvrinError when it cannot be made."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        why = (error.strerror or str(error)).lower()
        raise AvrinError(f"cannot be made ({why})", place=(str(path.parent),), advice="Choose another folder") from None
    return path
