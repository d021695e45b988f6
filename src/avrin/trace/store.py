"""Open a trace by its path, quickly the second time.

A columnar copy of each table read lies in the user's cache, named by the content (and by the declarations that say
what its columns mean). It can be deleted at any time.
"""

from __future__ import annotations

import hashlib
import logging
import os
import tempfile
from collections.abc import Mapping
from pathlib import Path

import msgspec
import numpy as np

from avrin.model import AvrinError, Variable, cache_folder
from avrin.trace.csv_file import read_csv
from avrin.trace.frames import Column, ColumnKind, Trace

__all__ = ["open_trace"]

VERSION = 1  # of the copies' layout; raise it when a reader's result changes
MOST_COPIES = 64
log = logging.getLogger(__name__)


class _Part(msgspec.Struct, frozen=True):
    name: str
    kind: ColumnKind
    dtype: str
    words: tuple[str, ...] = ()


class _Head(msgspec.Struct, frozen=True):
    frames: int
    parts: tuple[_Part, ...]


def open_trace(path: Path, declared: Mapping[str, Variable] | None = None) -> Trace:
    """Read a trace file, from its columnar copy when there is one.

    declared: variables by name, which say what each column is.
    Raises AvrinError with the file's name, row and column.
    """
    if path.suffix.lower() != ".csv":
        raise AvrinError(
            f"'{path.suffix or 'no ending'}' is no kind of trace",
            place=(path.name or str(path),),
            advice="A trace is a .csv file",
        )
    try:
        copy = cache_folder() / "traces" / f"{_key(path, declared or {})}.bin"
        if (known := _read_copy(copy, path.stem)) is not None:
            return known
        trace = read_csv(path, declared)
    except AvrinError as error:
        raise error.within(path.name) from None
    except OSError as error:
        raise AvrinError(
            f"cannot be read ({(error.strerror or str(error)).lower()})", place=(str(path),), advice="Check the path"
        ) from None
    _write_copy(copy, trace)
    return trace


def _key(path: Path, declared: Mapping[str, Variable]) -> str:
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "blake2b")
    digest.update(f"{VERSION}{sorted((name, v.type) for name, v in declared.items())}".encode())
    return digest.hexdigest()[:40]


def _read_copy(copy: Path, name: str) -> Trace | None:
    try:
        data = copy.read_bytes()
        size = int.from_bytes(data[:8], "little")
        head = msgspec.msgpack.decode(data[8 : 8 + size], type=_Head)
        at = 8 + size
        arrays = []
        for part in head.parts:
            kind = np.dtype(part.dtype)
            arrays.append(np.frombuffer(data, kind, head.frames, at))
            at += head.frames * kind.itemsize
    except FileNotFoundError:
        return None
    except (OSError, ValueError, TypeError, msgspec.MsgspecError) as error:
        log.warning("the copy %s cannot be used (%s); reading the trace itself", copy.name, error)
        return None
    columns = {p.name: Column(p.kind, a, p.words) for p, a in zip(head.parts[2:], arrays[2:], strict=True)}
    return Trace(name, arrays[0], arrays[1], columns)


def _write_copy(copy: Path, trace: Trace) -> None:
    parts = [_Part("t", "number", trace.t.dtype.str), _Part("run", "number", trace.run.dtype.str)]
    parts += [_Part(name, c.kind, c.data.dtype.str, c.words) for name, c in trace.columns.items()]
    head = msgspec.msgpack.encode(_Head(len(trace), tuple(parts)))
    try:
        copy.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=copy.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(len(head).to_bytes(8, "little"))
            file.write(head)
            for array in (trace.t, trace.run, *(c.data for c in trace.columns.values())):
                file.write(np.ascontiguousarray(array).data)
        Path(temporary).replace(copy)
        oldest_first = sorted(copy.parent.glob("*.bin"), key=lambda p: p.stat().st_mtime)
        for old in oldest_first[:-MOST_COPIES]:
            old.unlink(missing_ok=True)
    except OSError as error:
        log.warning("no copy of %s was kept: %s", trace.name, error)
