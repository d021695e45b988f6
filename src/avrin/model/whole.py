"""Files written whole or not at all: what was there stays until what is new lies on the disk."""

from __future__ import annotations

import os
from pathlib import Path

__all__ = ["write_whole"]


def write_whole(path: Path, data: bytes) -> None:
    """Write a file so that it is either the old one or the new one, whatever happens. Raises OSError; then it is the old one."""
    import tempfile  # no start waits for it

    handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[-80:]}.", suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        Path(temporary).chmod(path.stat().st_mode & 0o777 if path.exists() else 0o644)
        Path(temporary).replace(path)
    except BaseException:
        Path(temporary).unlink(missing_ok=True)
        raise
