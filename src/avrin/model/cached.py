"""What can be made again, kept in the user's cache: whatever happens to it costs time and nothing else.

It is sealed, so that what is cut, spoilt or half written is told from what is good; and stamped by the code that made it.
"""

from __future__ import annotations

import functools
import hashlib
import logging
import zlib
from pathlib import Path

import msgspec

from avrin.model.errors import AvrinError
from avrin.model.whole import write_whole

__all__ = ["code_stamp", "keep", "kept"]

log = logging.getLogger(__name__)
MAGIC = b"avrin-2\n"
SEAL = 4  # bytes


def keep(path: Path, data: bytes) -> bool:
    """Keep what can be made again; whether it was kept."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, MAGIC + _seal(path, data) + data, lasting=False)
    except (OSError, AvrinError) as error:
        log.warning("%s was not kept: %s", path.name, error)
        return False
    return True


def kept(path: Path) -> bytes | None:
    """What was kept; None where nothing was, or what lies there is not whole."""
    try:
        whole = path.read_bytes()
    except FileNotFoundError:
        return None
    except OSError as error:
        log.warning("%s cannot be used and is made anew: %s", path.name, error)
        return None
    start = len(MAGIC) + SEAL
    if not whole.startswith(MAGIC) or whole[len(MAGIC) : start] != _seal(path, whole[start:]):
        log.warning("%s is not whole and is made anew", path.name)
        return None
    return whole[start:]


def _seal(path: Path, data: bytes) -> bytes:
    """Of what is kept under a name: what was kept under another one is not taken for it, whoever put it there.

    A check sum: pictures as large as the window are read before it is seen, and a hash would take five times as long.
    """
    named = zlib.crc32(path.name.encode("utf-8", "surrogateescape") + b"\n")
    return zlib.crc32(data, named).to_bytes(SEAL, "big")


@functools.cache
def code_stamp(*parts: str) -> str:
    """Changes whenever files of the program change, or an installed library does.

    parts: modules and folders of the program, such as "trace" or "rules/patterns.py".
    """
    here = Path(__file__).parents[1]
    digest = hashlib.blake2b(digest_size=8)
    try:
        for part in (*parts, "model/cached.py"):
            whole = here / part
            for file in sorted(whole.glob("**/*.py")) if whole.is_dir() else [whole]:
                told = file.stat()
                digest.update(f"{file.name} {told.st_size} {told.st_mtime_ns}\n".encode())
        # Whatever is installed beside the program's libraries changes their folder.
        digest.update(str(Path(msgspec.__file__).parents[1].stat().st_mtime_ns).encode())
    except OSError as error:  # a program that cannot be looked at keeps nothing for the next start
        log.warning("the program's own files cannot be looked at: %s", error)
        import os

        digest.update(str(os.getpid()).encode())
    return digest.hexdigest()
