"""Checks over many recordings: in several processes, whose answers are put together as one would have given them."""

from __future__ import annotations

import signal
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from avrin.audit.causes import caused
from avrin.audit.finding import Check, Finding
from avrin.audit.inspector import Inspector
from avrin.audit.merging import merged
from avrin.model import Project, Recording, load
from avrin.rules import Events
from avrin.trace import ColumnKind, Trace, events_of, open_listed
from avrin.widgets import Tracks, bind

__all__ = ["Batch", "Source", "inspect_all"]

AT_ONCE = 4  # recordings that one process looks at together


class Source(Struct, frozen=True):
    """A recording's file, what its project says of it, and what it is called; by its file where that is not said."""

    path: Path
    listed: Recording = Recording(path="recording")
    name: str = ""


class Batch(Struct, frozen=True):
    """What a process is told: a project's file, the recordings it is looked at over, and what happens in any of all."""

    project: Path
    sources: tuple[Source, ...]
    seen: Events


def inspect_all(
    checks: Sequence[Check],
    project: Path,
    sources: Sequence[Source],
    jobs: int = 1,
    told: Callable[[int, int], None] = lambda _done, _of: None,
) -> list[Finding]:
    """All findings of a project's file over recordings, worst first. told: hears how many recordings are done, of how many.

    Fixes do not come back from other processes. Raises AvrinError where a file cannot be used.
    """
    parts = [tuple(sources[i : i + AT_ONCE]) for i in range(0, max(1, len(sources)), AT_ONCE)]
    if jobs < 2 or len(parts) < 2:
        return _in_turn(map, checks, project, parts, told)
    import multiprocessing

    # Processes begun afresh: the numeric libraries' threads do not survive a fork. They inherit that an interrupt is not
    # for them: who began them ends them.
    before = signal.signal(signal.SIGINT, signal.SIG_IGN)
    try:
        pool = multiprocessing.get_context("spawn").Pool(min(jobs, len(parts)))
    finally:
        signal.signal(signal.SIGINT, before)
    with pool:
        return _in_turn(pool.imap, checks, project, parts, told)


def _in_turn(
    each: Callable[..., Iterable[Any]],
    checks: Sequence[Check],
    project: Path,
    parts: Sequence[tuple[Source, ...]],
    told: Callable[[int, int], None],
) -> list[Finding]:
    """First what happens in any recording, since rules may name it; then the checks. each: `map`, or one over processes."""
    count = sum(map(len, parts))
    seen: dict[str, dict[str, ColumnKind]] = {}
    for kinds in each(_happening, [Batch(project, part, {}) for part in parts]):
        for name, args in kinds.items():
            seen.setdefault(name, {}).update(args)
    found: list[list[Finding]] = []
    for answer in each(_inspected, [Batch(project, part, seen) for part in parts]):
        found.append(answer)
        told(min(count, len(found) * AT_ONCE), count)
    whole, _ = load(project)
    return caused(checks, merged(checks, found), bind(whole, seen=seen, folder=project.absolute().parent))


def _opened(batch: Batch) -> tuple[Project, list[Trace]]:
    project, _ = load(batch.project)
    declared = project.all_variables()
    return project, [open_listed(source.path, declared, source.listed, source.name) for source in batch.sources]


def _happening(batch: Batch) -> dict[str, dict[str, ColumnKind]]:
    """What happens in some recordings, with all arguments any of them has. Reading them leaves columnar copies behind."""
    return events_of(_opened(batch)[1])


def _inspected(batch: Batch) -> list[Finding]:
    from avrin.audit import CHECKS

    project, traces = _opened(batch)
    bound = bind(project, seen=batch.seen, folder=batch.project.absolute().parent)
    found = Inspector(CHECKS).inspect(bound, [Tracks(bound, trace) for trace in traces])
    return [replace(finding, fix=None) for finding in found]
