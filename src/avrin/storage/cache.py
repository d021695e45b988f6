"""A disk cache for values that can be computed again: losing an entry costs time and nothing else.

Entries carry a checksum, so truncated or corrupted ones are recognised, and the version of the code that made them.
"""

from __future__ import annotations

import functools
import hashlib
import io
import logging
import math
import os
import shutil
import sys
import time
import zlib
from collections.abc import Callable
from pathlib import Path

import msgspec

from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_file

__all__ = ["cache_evict", "cache_get", "cache_put", "cache_read_into", "code_stamp"]

log = logging.getLogger(__name__)
MAGIC = b"avrin-2\n"
SEAL = 4  # bytes
MAX_AGE_S = 14 * 86400


def cache_put(path: Path, *parts: bytes | memoryview, outdated: str = "") -> bool:
    """Write an entry to the cache, its parts one after another, and return whether that succeeded.

    outdated: a glob pattern of older entries next to it; those not written for MAX_AGE_S are deleted. Another version of the
    program may use the recent ones.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with atomic_file(path, lasting=False) as file:
            file.write(MAGIC + _seal(path, *parts))
            for part in parts:
                file.write(part)
    except (OSError, AvrinError) as error:
        log.warning("%s was not cached: %s", path.name, error)
        return False
    if outdated:
        cache_evict(path.parent, outdated, max_age_s=MAX_AGE_S, spare=path)
    return True


def cache_evict(
    folder: Path,
    pattern: str = "*",
    *,
    max_files: int = sys.maxsize,
    max_bytes: int = sys.maxsize,
    max_age_s: float = math.inf,
    spare: Path | None = None,
) -> None:
    """Delete the oldest entries of a folder, files or folders, until the others are within all limits.

    spare: an entry that is never deleted; it counts as the newest. A failure is only logged.
    """
    now, used = time.time(), 0
    try:
        entries = [
            (path.stat(), path) for path in folder.glob(pattern) if not path.name.startswith(".")
        ]  # being written
        entries.sort(key=lambda entry: (entry[1] == spare, entry[0].st_mtime), reverse=True)
        for number, (stat, path) in enumerate(entries, 1):
            used += stat.st_size
            outside = number > max_files or used > max_bytes or now - stat.st_mtime > max_age_s
            if not outside or path == spare:
                continue
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)
    except OSError as error:
        log.warning("old entries of %s were not deleted: %s", folder, error)


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
            read = _fill(file, target) if target is not None else 0
    except FileNotFoundError:
        return False
    except OSError as error:
        log.warning("%s cannot be used and is rebuilt: %s", path.name, error)
        return False
    if target is None or read != len(target) or not begin.startswith(MAGIC + _seal(path, first, target)):
        log.warning("%s is damaged and is rebuilt", path.name)
        return False
    return True


def _fill(file: io.FileIO, target: memoryview) -> int:
    """Read until the buffer is full or the file ends, and return the number of bytes: one call reads at most 2 GiB."""
    at = 0
    while at < len(target) and (read := file.readinto(target[at:])):
        at += read
    return at


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
    program = Path(__file__).parents[1]
    digest = hashlib.blake2b(digest_size=8)
    try:
        for part in (*parts, "storage/cache.py"):
            source = program / part
            for file in sorted(source.glob("**/*.py")) if source.is_dir() else [source]:
                stat = file.stat()
                digest.update(f"{file.name} {stat.st_size} {stat.st_mtime_ns}\n".encode())
        # Installing a package changes the folder that contains the libraries.
        digest.update(str(Path(msgspec.__file__).parents[1].stat().st_mtime_ns).encode())
    except OSError as error:  # without a readable program folder nothing is cached across starts
        log.warning("the program's own files cannot be read: %s", error)
        digest.update(str(os.getpid()).encode())
    return digest.hexdigest()
