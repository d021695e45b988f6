"""The recordings of a project, read once for whoever looks at all of them. Knows no toolkit."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from pathlib import Path

from avrin.app.session.snapshot import Reading, Snapshot
from avrin.model import AvrinError, Recording, inside
from avrin.trace import Clock, ColumnKind, Trace, open_trace

__all__ = ["opened", "path_of"]

log = logging.getLogger(__name__)


def path_of(folder: Path, recording: Recording) -> Path:
    """Where a recording lies: its absolute path, which two projects share only where they share the file."""
    return (folder / recording.path).absolute()


def opened(now: Snapshot, most: int, breathe: Callable[[], None]) -> tuple[dict[Path, Reading], dict[Path, Trace], int]:
    """All recordings the project lists.

    Returns those that are known now, those to look at, and how many were left out because there are more than `most` frames
    in all. What is shown is looked at in any case, as it was recorded. breathe: called before each is read.
    """
    known = dict(now.recordings)
    kinds, listed = now.kinds, now.project.traces
    shown = next((one for one in listed if one.path == now.trace_name), None)
    if shown is not None and not now.growing:
        path = path_of(now.folder, shown)
        if path not in known or known[path].trace is not now.recorded:
            known[path] = Reading(now.recorded, kinds)
    chosen: dict[Path, Trace] = {}
    frames, left_out = 0, 0
    for one in sorted(listed, key=lambda one: one is not shown):
        path = path_of(now.folder, one)
        if path not in known or not _holds(known[path], kinds):
            breathe()
            known[path] = Reading(_read(now, one), kinds)
        trace = known[path].trace
        if trace is None:
            continue
        if chosen and frames + len(trace) > most:
            left_out += 1
        else:
            chosen[path] = trace
            frames += len(trace)
    return known, chosen, left_out


def _holds(reading: Reading, kinds: Mapping[str, ColumnKind]) -> bool:
    """Whether a recording would be read the same now: its columns are still declared as what they were then."""
    columns = reading.trace.columns if reading.trace is not None else ()
    return all(reading.kinds.get(name) == kinds.get(name) for name in columns)


def _read(now: Snapshot, recording: Recording) -> Trace | None:
    try:
        path = inside(now.folder, recording.path)
        return open_trace(path, now.project.all_variables(), Clock.of(recording), now.project.called(recording.path))
    except AvrinError as error:
        log.info("%s is not looked at by the checks: %s", recording.path, error)
        return None
