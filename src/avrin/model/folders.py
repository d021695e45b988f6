"""Folders of the user's that hold what projects do not: what can be made again, and edits that were not saved."""

from __future__ import annotations

import os
from pathlib import Path

__all__ = ["cache_folder", "rescue_file"]


def cache_folder() -> Path:
    """Where things are kept that can be made again. It can be deleted at any time."""
    if own := os.environ.get("AVRIN_CACHE"):
        return Path(own)
    import platformdirs

    return platformdirs.user_cache_path("avrin")


def rescue_file(project: Path) -> Path:
    """Where a project's unsaved edits wait for its next opening."""
    name = project.resolve().as_posix().strip("/").replace("/", "%")
    return cache_folder() / "unsaved" / (name[-200:] + f".{os.getuid()}")
