"""The user's folders outside projects: one for cached data, one for state such as unsaved edits."""

from __future__ import annotations

import os
from pathlib import Path

from avrin.errors import AvrinError, reason_of

__all__ = ["cache_folder", "folder_for", "state_folder"]


def cache_folder() -> Path:
    """Return the cache folder. Its content can be deleted at any time."""
    if own := os.environ.get("AVRIN_CACHE"):
        return Path(own)
    import platformdirs  # late: 10 ms

    return platformdirs.user_cache_path("avrin")


def state_folder() -> Path:
    """Return the state folder, for logs and unsaved edits. Its content cannot be computed again."""
    if own := os.environ.get("AVRIN_STATE"):
        return Path(own)
    import platformdirs  # late: 10 ms

    return platformdirs.user_state_path("avrin")


def folder_for(path: Path) -> Path:
    """Create the parent folder of a file and return the file's path. Raises AvrinError if that fails."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        why = reason_of(error)
        raise AvrinError(f"cannot be made ({why})", place=(str(path.parent),), advice="Choose another folder") from None
    return path
