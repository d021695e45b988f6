"""A disk cache for values that can be computed again: losing an entry costs time and nothing else.

Entries carry a checksum, so truncated or corrupted ones are recognised, and the version of the code that made them.
"""

from __future__ import annotations

import functools
import hashlib
import logging
import os
import time
import zlib
from collections.abc import Callable
from pathlib import Path

import msgspec

from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_write

__all__ = ["cache_get", "cache_put", "cache_read_into", "code_stamp"]

log = logging.getLogger(__name__)
MAGIC = b"avrin-2\n"
SEAL = 4  # bytes
OUTDATED = 14 * 86400  # seconds


def cache_put(path: Path, data: bytes, instead: str = "") -> bool:
    """Write an entry to the cache and return whether that succeeded.

    instead: a glob pattern of older entries next to it; those not written for OUTDATED seconds are deleted.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        atomic_write(path, MAGIC + _seal(path, data) + data, lasting=False)
    except (OSError, AvrinError) as error:
        log.warning("%s was not cached: %s", path.name, error)
        return False
    if instead:
        _clear(path, instead)
    return True


def _clear(path: Path, pattern: str) -> None:
    """Delete entries of earlier versions, but not recent ones: another version may be in use on this machine."""
    try:
        for old in path.parent.glob(pattern):
            if old != path and old.stat().st_mtime < time.time() - OUTDATED:
                old.unlink(missing_ok=True)
    except OSError as error:
        log.warning("outdated entries of %s were not removed: %s", path.parent, error)


def cache_get(path: Path) -> bytes | None:
    """Return a cached entry, or None if it is missing or damaged."""
    try:
        with path.open("rb", buffering=0) as file:
            begin, data = file.read(len(MAGIC) + SEAL), file.read()
    except FileNotFoundError:
        return None
    except OSError as error:
        log.warning("%s cannot be used and is rebuilt: %s", path.name, error)
        return None
    if begin != MAGIC + _seal(path, data):
        log.warning("%s is damaged and is rebuilt", path.name)
        return None
    return data


def cache_read_into(path: Path, head: int, place: Callable[[bytes, int], memoryview | None]) -> bool:
    """Read a cached entry into a buffer of the caller's, because copying a large one takes longer than reading it.

    head: length of the header in bytes. place: called with the header and the number of bytes after it; returns the buffer
    for them, shape (n,), or None for an invalid header. Returns whether the entry is complete and undamaged.
    """
    try:
        with path.open("rb", buffering=0) as file:
            begin = file.read(len(MAGIC) + SEAL + head)
            first, rest = begin[len(MAGIC) + SEAL :], path.stat().st_size - len(begin)
            target = place(first, rest) if begin.startswith(MAGIC) and len(first) == head and rest > 0 else None
            read = file.readinto(target) if target is not None else None
    except FileNotFoundError:
        return False
    except OSError as error:
        log.warning("%s cannot be used and is rebuilt: %s", path.name, error)
        return False
    if target is None or read != len(target) or not begin.startswith(MAGIC + _seal(path, first, target)):
        log.warning("%s is damaged and is rebuilt", path.name)
        return False
    return True


def _seal(path: Path, *parts: bytes | memoryview) -> bytes:
    """Return the checksum of an entry and its name, so that an entry moved to another name is rejected.

    A checksum, not a hash: pictures the size of the window are read before it opens, and a hash takes five times as long.
    """
    sum_ = zlib.crc32(path.name.encode("utf-8", "surrogateescape") + b"\n")
    for part in parts:
        sum_ = zlib.crc32(part, sum_)
    return sum_.to_bytes(SEAL, "big")


@functools.cache
def code_stamp(*parts: str) -> str:
    """Return a string that changes whenever the given program files or an installed library change.

    parts: modules and folders of the program, such as "trace" or "rules/patterns.py".
    """
    here = Path(__file__).parents[1]
    digest = hashlib.blake2b(digest_size=8)
    try:
        for part in (*parts, "storage/cache.py"):
            whole = here / part
            for file in sorted(whole.glob("**/*.py")) if whole.is_dir() else [whole]:
                stat = file.stat()
                digest.update(f"{file.name} {stat.st_size} {stat.st_mtime_ns}\n".encode())
        # Installing a package changes the folder that contains the libraries.
        digest.update(str(Path(msgspec.__file__).parents[1].stat().st_mtime_ns).encode())
    except OSError as error:  # without a readable program folder nothing is cached across starts
        log.warning("the program's own files cannot be read: %s", error)

        digest.update(str(os.getpid()).encode())
    return digest.hexdigest()
