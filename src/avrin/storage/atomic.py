"""Atomic writes: a file keeps its old content until the new content is on the disk. All files are written by this module.

A temporary file next to the target is named after the writing process, so that leftovers of a killed process can be
distinguished from files being written.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import BinaryIO

from avrin.errors import AvrinError

__all__ = ["atomic_file", "atomic_write", "check_target", "clear_leftovers", "protecting"]

_BEGUN = re.compile(r"^\..*\.(\d+)-[^.]*\.part$")
_inputs: ContextVar[tuple[Path, ...]] = ContextVar("inputs", default=())


@contextmanager
def protecting(inputs: Iterable[Path]) -> Iterator[None]:
    """Refuse to write these files while the context is active: they are the inputs of a command."""
    before = _inputs.set((*_inputs.get(), *inputs))
    try:
        yield
    finally:
        _inputs.reset(before)


@contextmanager
def atomic_file(path: Path, *, lasting: bool = True) -> Iterator[BinaryIO]:
    """Yield a file to write to. It replaces `path` at the end; if the context raises, `path` does not change.

    A symbolic link is followed and stays a link. lasting: wait until the data is on the disk; not needed for data that can
    be computed again. Raises OSError, or AvrinError if the target is an input or is read-only; `path` is then unchanged.
    """
    import tempfile  # late: 6 ms

    target = path.resolve()
    check_target(path)
    prefix = f".{target.name[-80:]}.{os.getpid()}-"
    handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=prefix, suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            yield file
            if lasting:
                file.flush()
                os.fsync(file.fileno())
        Path(temporary).chmod(target.stat().st_mode & 0o777 if target.exists() else 0o644)
        Path(temporary).replace(target)
    except BaseException:
        Path(temporary).unlink(missing_ok=True)
        raise


def atomic_write(path: Path, data: bytes, *, lasting: bool = True) -> None:
    """Write a file atomically: it holds the old or the new content, never a mixture.

    Raises OSError, and AvrinError as `atomic_file` does; the old content then remains.
    """
    with atomic_file(path, lasting=lasting) as file:
        file.write(data)


def check_target(path: Path) -> None:
    """Check that a file may be written. Raises AvrinError if it is an input or is read-only."""
    target = path.resolve()
    if not target.exists():
        return
    if any(one.exists() and one.samefile(target) for one in _inputs.get()):
        raise AvrinError("is an input and would be overwritten", place=(str(path),), advice="Choose another name")
    if not target.stat().st_mode & 0o222 or not os.access(target, os.W_OK):
        raise AvrinError("is read-only", place=(str(path),), advice="Choose another name, or let it be written")


def clear_leftovers(folder: Path) -> int:
    """Delete temporary files of processes that no longer exist, and return their number."""
    gone = 0
    try:
        for path in folder.glob(".*.part"):
            begun = _BEGUN.match(path.name)
            if begun is not None and not _is_alive(int(begun[1])):
                path.unlink(missing_ok=True)
                gone += 1
    except OSError:
        pass  # a failed cleanup is harmless
    return gone


def _is_alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:  # it belongs to another user
        return True
    return True
