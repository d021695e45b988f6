"""What can be made again, kept in the user's cache: whatever happens to it costs time and nothing else.

It is sealed, so that what is cut, spoilt or half written is told from what is good; and stamped by the code that made it.
"""

from __future__ import annotations

import functools
import hashlib
import logging
import time
import zlib
from collections.abc import Callable
from pathlib import Path

import msgspec

from avrin.model.errors import AvrinError
from avrin.model.whole import write_whole

__all__ = ["code_stamp", "keep", "kept", "kept_into"]

log = logging.getLogger(__name__)
MAGIC = b"avrin-2\n"
SEAL = 4  # bytes
OUTDATED = 14 * 86400  # seconds


def keep(path: Path, data: bytes, instead: str = "") -> bool:
    """Keep what can be made again; whether it was kept.

    instead: a pattern of names beside it, of which it is the newest: those that were not written for long are taken away.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, MAGIC + _seal(path, data) + data, lasting=False)
    except (OSError, AvrinError) as error:
        log.warning("%s was not kept: %s", path.name, error)
        return False
    if instead:
        _clear(path, instead)
    return True


def _clear(path: Path, pattern: str) -> None:
    """Of what earlier versions of the program kept; not at once, as another version may be in use beside this one."""
    try:
        for old in path.parent.glob(pattern):
            if old != path and old.stat().st_mtime < time.time() - OUTDATED:
                old.unlink(missing_ok=True)
    except OSError as error:
        log.warning("what is outdated in %s was not taken away: %s", path.parent, error)


def kept(path: Path) -> bytes | None:
    """What was kept; None where nothing was, or what lies there is not whole."""
    try:
        with path.open("rb", buffering=0) as file:
            begin, data = file.read(len(MAGIC) + SEAL), file.read()
    except FileNotFoundError:
        return None
    except OSError as error:
        log.warning("%s cannot be used and is made anew: %s", path.name, error)
        return None
    if begin != MAGIC + _seal(path, data):
        log.warning("%s is not whole and is made anew", path.name)
        return None
    return data


def kept_into(path: Path, head: int, place: Callable[[bytes, int], memoryview | None]) -> bool:
    """What was kept, read where it is wanted, as copying what is large takes longer than reading it.

    head: how many bytes come first. place: gets those and how many follow, and tells where they go, shape (that many,);
    None where such a head cannot be. Returns whether all is there, and whole.
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
        log.warning("%s cannot be used and is made anew: %s", path.name, error)
        return False
    if target is None or read != len(target) or not begin.startswith(MAGIC + _seal(path, first, target)):
        log.warning("%s is not whole and is made anew", path.name)
        return False
    return True


def _seal(path: Path, *parts: bytes | memoryview) -> bytes:
    """Of what is kept under a name: what was kept under another one is not taken for it, whoever put it there.

    A check sum: pictures as large as the window are read before it is seen, and a hash would take five times as long.
    """
    sum_ = zlib.crc32(path.name.encode("utf-8", "surrogateescape") + b"\n")
    for part in parts:
        sum_ = zlib.crc32(part, sum_)
    return sum_.to_bytes(SEAL, "big")


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
