"""A project's recordings, each read once for all users."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from pathlib import Path

from msgspec.structs import replace

from avrin.editor.snapshot import Reading, Snapshot
from avrin.errors import AvrinError
from avrin.project.project import Recording
from avrin.trace.frames import ColumnKind, Trace
from avrin.trace.store import open_listed

__all__ = ["as_known", "opened", "read_alike"]

log = logging.getLogger(__name__)


def opened(now: Snapshot, most: int, breathe: Callable[[], None]) -> tuple[dict[Path, Reading], dict[Path, Trace], int]:
    """Return all recordings the project lists.

    Returns the known ones, those to check, and the number skipped because there are more than `most` frames
    in total. The visible one is always included, without pins. breathe: called before each is read.
    """
    known = dict(now.recordings)
    kinds, listed = now.kinds, now.project.traces
    shown = next((one for one in listed if one.key == now.trace_name), None)
    if shown is not None and not now.growing:
        path = now.identity(shown)
        if path not in known or known[path].trace is not now.recorded:
            known[path] = Reading(now.recorded, kinds, shown)
    chosen: dict[Path, Trace] = {}
    frames, left_out = 0, 0
    for one in sorted(listed, key=lambda recording: recording is not shown):
        path = now.identity(one)
        if path not in known or not _holds(known[path], kinds, one):
            breathe()
            known[path] = Reading(_read(now, one), kinds, one)
        trace = known[path].trace
        if trace is None:
            continue
        if chosen and frames + len(trace) > most:
            left_out += 1
        else:
            chosen[path] = trace
            frames += len(trace)
    return known, chosen, left_out


def as_known(now: Snapshot, listed: Recording, trace: Trace) -> Trace:
    """Return the object that was already read for a recording if its content is the same, else `trace`.

    Findings are cached by object: showing another recording would otherwise check all of them again.
    """
    reading = now.recordings.get(now.identity(listed))
    known = reading.trace if reading is not None else None
    return known if known is not None and known.has_content_of(trace) else trace


def read_alike(first: Recording, second: Recording) -> bool:
    """Return whether two entries are read the same: only names and notes, which are for people, may differ."""
    return replace(first, name="", note="", extra={}) == replace(second, name="", note="", extra={})


def _holds(reading: Reading, kinds: Mapping[str, ColumnKind], listed: Recording) -> bool:
    """Return whether a reading is current: its entry and its columns' declarations are unchanged."""
    if reading.listed is not None and not read_alike(reading.listed, listed):
        return False
    columns = reading.trace.columns if reading.trace is not None else ()
    return all(reading.kinds.get(name) == kinds.get(name) for name in columns)


def _read(now: Snapshot, recording: Recording) -> Trace | None:
    try:
        return open_listed(
            now.where(recording), now.project.all_variables(), recording, now.project.recording_name(recording.key)
        )
    except AvrinError as error:
        log.info("%s is not looked at by the checks: %s", recording.path, error)
        return None
