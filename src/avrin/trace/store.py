"""Open a trace by its path, with a columnar cache that makes the second time fast.

A columnar copy of each table is stored in the user's cache, keyed by the content and by the declarations that
define its columns. It can be deleted at any time.
"""

from __future__ import annotations

import hashlib
import logging
import time
from collections.abc import Mapping
from importlib import import_module
from pathlib import Path
from typing import BinaryIO, Protocol, cast

import numpy as np
from msgspec.structs import replace

from avrin.errors import AvrinError, reason_of
from avrin.project.project import Recording, Variable
from avrin.storage.atomic import atomic_file
from avrin.storage.cache import cache_evict, cache_get, cache_put, code_stamp
from avrin.storage.folders import cache_folder
from avrin.storage.reading import plain_file
from avrin.trace.clock import UNSAID, Clock, NoTimeError
from avrin.trace.columnar_cache import cache_trace, cached_trace
from avrin.trace.copying import beside as events_of
from avrin.trace.formats import ENDINGS, FORMATS, Format
from avrin.trace.frames import KIND_OF, ColumnKind, Trace
from avrin.trace.naming import with_project_names
from avrin.trace.start_values import with_start_values

__all__ = ["open_guessing", "open_listed", "open_trace", "save_trace", "write_table"]

MAX_DIGESTS = 1000
log = logging.getLogger(__name__)


class _Codec(Protocol):
    """What the module of a format has."""

    def read(self, path: Path, kinds: Mapping[str, ColumnKind], clock: Clock) -> Trace: ...
    def write(self, trace: Trace, file: BinaryIO, *, runs: bool = True) -> None: ...


def _codec(form: Format) -> _Codec:
    """Return a format's module, which is loaded only if there is no cached copy."""
    return cast(_Codec, import_module(form.module))


def _format(path: Path) -> Format:
    made = FORMATS.get(path.suffix.lower())
    if made is None:
        raise AvrinError(
            f"'{path.suffix or 'no ending'}' is not a trace format", place=(path.name or str(path),),
            advice=f"A trace is a {', '.join(ENDINGS)} file",
        )  # fmt: skip
    return made


def open_listed(
    path: Path, declared: Mapping[str, Variable], listed: Recording, name: str = "", *, copied: bool = True
) -> Trace:
    """Read a recording as a project lists it: with its clock, names and start values.

    Otherwise like `open_trace`. Raises AvrinError.
    """
    trace = open_trace(path, declared, Clock.of(listed), name, listed.names, copied=copied)
    return with_start_values(trace, listed.starts, declared) if listed.starts else trace


def open_trace(
    path: Path,
    declared: Mapping[str, Variable] | None = None,
    clock: Clock = UNSAID,
    name: str = "",
    names: Mapping[str, str] | None = None,
    *,
    copied: bool = True,
) -> Trace:
    """Read a trace file, from its columnar copy if there is one.

    declared: variables by name, which define the columns' kinds. clock: what is known of its time and runs.
    name: its title, by default the file's name. names: project name by column name.
    copied: whether to use and write a cached copy; pointless when thousands of files are read once.
    Raises AvrinError with the file's name, row and column.
    """
    form = _format(path)
    plain_file(path)
    kinds = {name: KIND_OF[variable.type] for name, variable in (declared or {}).items()}
    for own, new in (names or {}).items():
        kinds.pop(own, None)
        if declared is not None and new in declared:
            kinds[own] = KIND_OF[declared[new].type]
    try:
        copy = None
        if copied:
            copy = cache_folder() / "traces" / f"{_key(path, kinds, clock, beside=form.is_table)}.bin"
        if copy is not None and (known := cached_trace(copy, name or path.stem)) is not None:
            return with_project_names(known, names or {})
        if form.is_table:
            from avrin.trace.log_file import read_beside  # late: 2 ms

            more = read_beside(path)
            trace = _codec(form).read(path, {**more.kinds, **kinds}, clock)
            trace = replace(trace, events=more.events)
        else:
            trace = _codec(form).read(path, kinds, clock)
    except AvrinError as error:
        raise error.within(path.name) from None
    except OSError as error:
        raise _unreadable(path, error) from None
    except MemoryError:
        raise AvrinError("is too large for this machine's memory", place=(path.name,), advice="Cut it") from None
    trace = replace(trace, name=name or path.stem)
    if copy is None:
        return with_project_names(trace, names or {})
    cache_trace(copy, trace)
    # From here on the pages of the copy are mapped, and the system can reclaim them.
    return with_project_names(cached_trace(copy, trace.name) or trace, names or {})


def open_guessing(path: Path) -> tuple[Trace, tuple[Clock, ...]]:
    """Read a trace file without any settings; if no column is recognised as the time, use the most likely clock.

    Returns: the trace, and the possible clocks, the one in use first; empty if the time column is certain.
    Raises AvrinError.
    """
    try:
        return open_trace(path), ()
    except NoTimeError as error:
        return open_trace(path, clock=error.choices[0]), error.choices


def save_trace(trace: Trace, path: Path, *, runs: bool = True) -> None:
    """Write a trace in the format of its file ending, with a second file for what the format cannot hold.

    runs: whether to write the run column. Raises AvrinError.
    """
    form = _format(path)
    trace = _finite(trace)
    try:
        untold = _untold(trace) if path.suffix.lower() == ".csv" else {}
        told = True
        if form.is_table:
            from avrin.trace.log_file import is_told_beside  # late: 2 ms

            told = is_told_beside(trace, path, untold)
        with atomic_file(path) as file:
            _codec(form).write(trace, file, runs=runs)
        if not told:
            from avrin.trace.log_file import write_beside  # late: 2 ms

            write_beside(trace, path, untold)
    except OSError as error:
        raise AvrinError(
            f"cannot be written ({reason_of(error)})", place=(str(path),),
            advice="Check the folder",
        ) from None  # fmt: skip


def write_table(trace: Trace, file: BinaryIO, *, runs: bool = True) -> None:
    """Write a trace as CSV to an open file, without an events file. Raises OSError."""
    _codec(FORMATS[".csv"]).write(trace, file, runs=runs)


def _untold(trace: Trace) -> dict[str, ColumnKind]:
    """Return the kinds of columns whose cells would be misread as plain text."""
    return {
        name: column.kind
        for name, column in trace.columns.items()
        if column.kind != "number"
        and (column.is_missing().all() or (column.kind == "text" and any(map(_odd, column.words))))
    }


def _odd(word: str) -> bool:
    return not word or not word.isidentifier() or word.lower() in ("true", "false", "nan", "inf", "infinity")


def _finite(trace: Trace) -> Trace:
    """Return the trace with infinities replaced by missing: games cannot show them and readers reject them."""
    infinite = {n: c for n, c in trace.columns.items() if c.kind == "number" and np.isinf(c.data).any()}
    if not infinite:
        return trace
    log.warning("infinite values of %s are written as missing", ", ".join(infinite))
    mended = {n: replace(c, data=np.where(np.isinf(c.data), np.nan, c.data)) for n, c in infinite.items()}
    return replace(trace, columns={**trace.columns, **mended})


def _unreadable(path: Path, error: OSError) -> AvrinError:
    return AvrinError(f"cannot be read ({reason_of(error)})", place=(str(path),), advice="Check the path")


def _key(path: Path, kinds: Mapping[str, ColumnKind], clock: Clock, *, beside: bool) -> str:
    """Return a copy's cache key: the content of the file and its events, and how both are interpreted."""
    digest = hashlib.blake2b(f"{code_stamp('trace')}{path.suffix.lower()}{sorted(kinds.items())}{clock!r}".encode())
    digest.update(_content(path).encode())
    if beside and (more := events_of(path)).exists():
        digest.update(_content(more).encode())
    return digest.hexdigest()[:40]


def _content(path: Path) -> str:
    """Return the digest of a file's content, cached while the file is unchanged."""
    known = path.stat()
    told = f"{path.resolve()}\n{known.st_ino} {known.st_size} {known.st_mtime_ns} {known.st_ctime_ns}"
    note = cache_folder() / "traces" / (hashlib.blake2b(told.encode(), digest_size=20).hexdigest() + ".is")
    if (said := cache_get(note)) is not None:
        return said.decode("ascii", "replace")
    with path.open("rb") as file:
        content = hashlib.file_digest(file, "blake2b").hexdigest()
    # A file changed just now may change again within one tick of the file system's clock.
    if time.time_ns() - known.st_mtime_ns > 2_000_000_000:
        cache_put(note, content.encode("ascii"))
        cache_evict(note.parent, "*.is", max_files=MAX_DIGESTS, spare=note)
    return content
