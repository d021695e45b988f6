"""Columnar copies of recordings in the user's cache: opening one takes a hundredth of the time of parsing the recording."""

from __future__ import annotations

import logging
import mmap
import os
from pathlib import Path

import msgspec
import numpy as np

from avrin.storage.cache import cache_evict, cache_put, cache_read_into
from avrin.trace.clock import UNSAID, Clock
from avrin.trace.frames import Array, Column, ColumnKind, Event, Trace

__all__ = ["cache_trace", "cached_trace"]

MAX_COPIES = 64
MAX_BYTES = 8 << 30  # of all copies
MAX_IN_MEMORY = 32 << 20  # bytes: a larger copy is memory-mapped
LENGTH = 8  # bytes of the head's length, at the start
ALIGNMENT = 8  # bytes: columns start at multiples of it
log = logging.getLogger(__name__)


class _Part(msgspec.Struct, frozen=True):
    name: str
    kind: ColumnKind
    dtype: str
    words: tuple[str, ...] = ()


class _Head(msgspec.Struct, frozen=True):
    frames: int
    parts: tuple[_Part, ...]  # the time, the run, then the columns
    events: tuple[Event, ...]
    clock: Clock


def cache_trace(path: Path, trace: Trace) -> None:
    """Cache a copy of a trace. A failed write is only logged."""
    parts = [_Part("t", "number", trace.t.dtype.str), _Part("run", "number", trace.run.dtype.str)]
    parts += [_Part(name, c.kind, c.data.dtype.str, c.words) for name, c in trace.columns.items()]
    head = msgspec.msgpack.encode(_Head(len(trace), tuple(parts), trace.events, trace.clock or UNSAID))
    blocks: list[bytes | memoryview] = [len(head).to_bytes(LENGTH, "little"), head, bytes(-len(head) % ALIGNMENT)]
    arrays: list[Array] = [trace.t, trace.run, *(c.data for c in trace.columns.values())]
    for array in arrays:
        blocks += [np.ascontiguousarray(array).view(np.uint8).data, bytes(-array.nbytes % ALIGNMENT)]
    if cache_put(path, *blocks):
        cache_evict(path.parent, f"*{path.suffix}", max_files=MAX_COPIES, max_bytes=MAX_BYTES, spare=path)


def cached_trace(path: Path, name: str) -> Trace | None:
    """Return the trace of a cached copy under a name, or None if the copy is missing or damaged. Its arrays are read-only."""
    data: Array = np.empty(0, np.uint8)
    head_bytes = 0

    def place(length: bytes, size: int) -> memoryview | None:
        nonlocal data, head_bytes
        head_bytes = int.from_bytes(length, "little")
        if head_bytes > size:
            return None
        data = _allocate(path.parent, size)
        return data.data

    if not cache_read_into(path, LENGTH, place):
        return None
    data.flags.writeable = False
    try:
        head = msgspec.msgpack.decode(data[:head_bytes].data, type=_Head)
    except msgspec.MsgspecError as error:
        log.warning("the copy %s cannot be used (%s); reading the recording itself", path.name, error)
        return None
    at = head_bytes + -head_bytes % ALIGNMENT
    arrays = []
    for part in head.parts:
        size = head.frames * np.dtype(part.dtype).itemsize
        arrays.append(data[at : at + size].view(part.dtype))
        at += size + -size % ALIGNMENT
    columns = {p.name: Column(p.kind, a, p.words) for p, a in zip(head.parts[2:], arrays[2:], strict=True)}
    return Trace(name, arrays[0], arrays[1], columns, head.events, head.clock)


def _allocate(folder: Path, size: int) -> Array:
    """Return writable bytes, shape (size,): large ones in an unnamed file, whose pages the system can reclaim.

    The cached file itself is not mapped: if another program truncated it, reading it would kill the process.
    """
    if size > MAX_IN_MEMORY and hasattr(os, "O_TMPFILE"):
        try:
            handle = os.open(folder, os.O_TMPFILE | os.O_RDWR, 0o600)
            try:
                # Without space on the disk this raises, where writing to a mapped hole would kill the process.
                os.posix_fallocate(handle, 0, size)
                return np.frombuffer(mmap.mmap(handle, size), np.uint8)
            finally:
                os.close(handle)
        except (OSError, ValueError) as error:
            log.info("the cached copy of a recording stays in memory: %s", error)
    return np.empty(size, np.uint8)
