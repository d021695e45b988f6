"""Files written whole or not at all: what was there stays until what is new lies on the disk. Everything is written by this.

What is begun lies beside the file under a name that says who writes it, so that what a killed program left can be told from
what another one is writing.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import BinaryIO

from avrin.model.errors import AvrinError

__all__ = ["clear_leftovers", "protecting", "whole_file", "write_whole"]

_BEGUN = re.compile(r"^\..*\.(\d+)-[^.]*\.part$")
_inputs: ContextVar[tuple[Path, ...]] = ContextVar("inputs", default=())


@contextmanager
def protecting(inputs: Iterable[Path]) -> Iterator[None]:
    """Meanwhile nothing is written over these files: they are what a command reads."""
    before = _inputs.set((*_inputs.get(), *inputs))
    try:
        yield
    finally:
        _inputs.reset(before)


@contextmanager
def whole_file(path: Path, *, lasting: bool = True) -> Iterator[BinaryIO]:
    """A file to write into; what was written takes the place of `path` at the end, and nothing does if it ends otherwise.

    A link stays one: the file it leads to is written. lasting: wait until it lies on the disk; what can be made again
    need not. Raises OSError, and AvrinError over a file that is read or that may not be written; then it is as it was.
    """
    import tempfile  # no start waits for it

    target = path.resolve()
    _check(path, target)
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


def write_whole(path: Path, data: bytes, *, lasting: bool = True) -> None:
    """Write a file so that it is either the old one or the new one, whatever happens.

    Raises OSError, and AvrinError as `whole_file` does; then it is the old one.
    """
    with whole_file(path, lasting=lasting) as file:
        file.write(data)


def _check(path: Path, target: Path) -> None:
    if not target.exists():
        return
    if any(one.exists() and one.samefile(target) for one in _inputs.get()):
        raise AvrinError("is read here, and would be written over", place=(str(path),), advice="Choose another name")
    if not target.stat().st_mode & 0o222 or not os.access(target, os.W_OK):
        raise AvrinError("is read-only", place=(str(path),), advice="Choose another name, or let it be written")


def clear_leftovers(folder: Path) -> int:
    """Take away what programs that are gone had begun to write in a folder; returns how many files."""
    gone = 0
    try:
        for path in folder.glob(".*.part"):
            begun = _BEGUN.match(path.name)
            if begun is not None and not _is_alive(int(begun[1])):
                path.unlink(missing_ok=True)
                gone += 1
    except OSError:
        pass  # whoever cannot tidy up goes without
    return gone


def _is_alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:  # somebody else's
        return True
    return True
