"""Process one recording: each widget's states, and its findings. Runs on any executor."""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pyarrow as pa
from msgspec import Struct

from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError, reason_of
from avrin.execution.locations import Location, at_hand, stamp
from avrin.execution.task import Task, bound, read, seen_key
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.findings.suppression import suppressed
from avrin.ladder.coverage import Stretches, state_stretches
from avrin.sweep.parts import NEVER, STATES, Entry, Found, Part, encoded
from avrin.trace.copying import beside
from avrin.trace.frames import Trace

__all__ = ["Given", "content", "states_of", "swept"]

log = logging.getLogger(__name__)
EVERYWHERE = {check.code: check.everywhere for check in CHECKS}


class Given(Struct, frozen=True):
    """The common input. key: of everything results depend on besides the recordings.

    findings: whether to run checks. events: whether to report each recording's events.
    """

    task: Task
    key: str
    findings: bool
    events: bool


def swept(given: Given, part: Sequence[Location]) -> bytes:
    """Return the results of recordings, encoded as a part's file. Unreadable ones are recorded as errors."""
    entries, tables, findings = [], [], list[Found]()
    for place in part:
        entry, table, found = _looked_at(given, place)
        entries.append(entry)
        tables.append(table)
        findings += found
    return encoded(Part(given.key, seen_key(given.task.events), tuple(entries)), pa.concat_tables(tables), findings)


def content(path: Path) -> str:
    """Return a digest of a recording's file and its events file. Raises OSError."""
    digest = hashlib.sha256()  # the fastest strong hash: processors support it
    for one in dict.fromkeys((path, beside(path))):
        if one == path or one.exists():
            with one.open("rb") as file:
                digest.update(hashlib.file_digest(file, "sha256").digest())
    return digest.hexdigest()


def _looked_at(given: Given, place: Location) -> tuple[Entry, pa.Table, list[Found]]:
    told, nothing = stamp(place), STATES.empty_table()
    try:
        if place.why:
            raise AvrinError(place.why)
        with at_hand(place) as path:
            trace = read(given.task, place, path)
            digest = content(path)
            if not len(trace):
                raise AvrinError("has no frames")
            states, found = _shown(given, place.name, trace)
        entry = Entry(
            place.name, digest, told, states.num_rows, len(found), "", trace.event_kinds if given.events else {}
        )
        return entry, states, found
    except AvrinError as error:
        why = str(error)
    except MemoryError:
        told, why = NEVER, "does not fit into the worker's memory"
    except OSError as error:
        told = NEVER
        why = f"cannot be read ({reason_of(error)})"
    except Exception as error:  # one recording's failure never ends a sweep
        told = NEVER
        log.exception("an error while processing %s", place.name)
        why = f"an internal error: {type(error).__name__}: {(str(error).splitlines() or [''])[0]}"
    return Entry(place.name, "", told, 0, 0, why, {}), nothing, []


def _shown(given: Given, name: str, trace: Trace) -> tuple[pa.Table, list[Found]]:
    project = bound(given.task)
    tracks = Tracks(project, trace)
    states = states_of(name, tracks)
    if not given.findings:
        return states, []
    found = Inspector(CHECKS).inspect(project, [tracks])
    quiet = suppressed(project.project, found)
    return states, [
        Found(
            name, one.code, one.severity, one.widget, one.input, _second(trace, one.start), one.why, one.key,
            EVERYWHERE[one.code], bool(one.trace),
        )
        for one in found if one not in quiet
    ]  # fmt: skip


def _second(trace: Trace, frame: int | None) -> float | None:
    return None if frame is None else float(trace.axis[min(frame, len(trace) - 1)])


def states_of(name: str, tracks: Tracks) -> pa.Table:
    """Return a row per run, widget and state, in that order; states by first occurrence in the run. name: the recording's."""
    widgets = [copy for widget in tracks.bound.widgets.values() for copy in widget.each()]
    return _in_order(name, tracks.trace, [(copy.track_name, state_stretches(tracks, copy)) for copy in widgets])


def _in_order(name: str, trace: Trace, widgets: Sequence[tuple[str, Stretches]]) -> pa.Table:
    lengths = [len(one.first) for _, one in widgets]
    if not sum(lengths):
        return STATES.empty_table()
    run, state, frames, seconds, first = (
        np.concatenate(part)
        for part in zip(*((o.run, o.state, o.end - o.first, o.seconds, o.first) for _, o in widgets), strict=True)
    )
    widget, most = np.repeat(np.arange(len(widgets)), lengths), int(state.max()) + 1
    # A number for each combination of run, widget and state, with its rows and its first stretch.
    _, came, of = np.unique((run * len(widgets) + widget) * most + state, return_index=True, return_inverse=True)
    longest = np.zeros(len(came))
    np.maximum.at(longest, of, seconds)
    order = np.lexsort((came, widget[came], run[came]))
    came = came[order]
    each = list(zip(widget[came].tolist(), state[came].tolist(), strict=True))
    columns: dict[str, object] = {
        "recording": [name] * len(came), "run": run[came].astype(np.int32), "widget": [widgets[w][0] for w, _ in each],
        "state": [widgets[w][1].names[s] for w, s in each],
        "frames": np.bincount(of, frames)[order].astype(np.int64), "seconds": np.bincount(of, seconds)[order],
        "entries": np.bincount(of)[order], "first": trace.t[first[came]], "longest": longest[order],
    }  # fmt: skip
    return pa.table(columns, schema=STATES)
