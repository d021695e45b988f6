"""Checks over many recordings: in several processes, whose answers are put together as one would have given them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from avrin.audit.finding import SEVERITIES, Check, Finding
from avrin.audit.inspector import Inspector
from avrin.model import load
from avrin.rules import Events
from avrin.trace import Clock, Trace, open_trace
from avrin.widgets import Tracks, bind

__all__ = ["Batch", "Source", "inspect_all", "merged"]

AT_ONCE = 4  # recordings that one process looks at together


@dataclass(frozen=True, slots=True)
class Source:
    """A recording's file, and how it tells the time."""

    path: Path
    clock: Clock = Clock()  # noqa: RUF009  (immutable)


@dataclass(frozen=True, slots=True)
class Batch:
    """What a process is told: a project's file, and the recordings it is looked at over."""

    project: Path
    sources: tuple[Source, ...]


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
    parts = [Batch(project, tuple(sources[i : i + AT_ONCE])) for i in range(0, max(1, len(sources)), AT_ONCE)]
    found = []
    if jobs < 2 or len(parts) < 2:
        for part in parts:
            found.append(_inspected(part))
            told(min(len(sources), len(found) * AT_ONCE), len(sources))
        return merged(checks, found)
    import multiprocessing

    # Processes begun afresh: the numeric libraries' threads do not survive a fork.
    with multiprocessing.get_context("spawn").Pool(min(jobs, len(parts))) as pool:
        for answer in pool.imap(_inspected, parts):
            found.append(answer)
            told(min(len(sources), len(found) * AT_ONCE), len(sources))
    return merged(checks, found)


def _inspected(batch: Batch) -> list[Finding]:
    from avrin.audit import CHECKS

    project, _ = load(batch.project)
    declared = project.all_variables()
    traces = [open_trace(source.path, declared, source.clock) for source in batch.sources]
    bound = bind(project, seen=_events(traces), folder=batch.project.absolute().parent)
    found = Inspector(CHECKS).inspect(bound, [Tracks(bound, trace) for trace in traces])
    return [_plain(finding) for finding in found]


def _plain(finding: Finding) -> Finding:
    from dataclasses import replace

    return replace(finding, fix=None)


def _events(traces: Sequence[Trace]) -> Events:
    """What happens in any of the recordings, with all arguments any of them has."""
    found: dict[str, dict[str, object]] = {}
    for trace in traces:
        for name, args in trace.event_kinds.items():
            found.setdefault(name, {}).update(args)
    return found  # type: ignore[return-value]


def merged(checks: Sequence[Check], parts: Sequence[Sequence[Finding]]) -> list[Finding]:
    """What one look at all recordings would have found, from looks at some of them each, in their order."""
    found: list[Finding] = []
    for check in checks:
        mine = [[finding for finding in part if finding.code == check.code] for part in parts]
        if check.many:
            found += dict.fromkeys(finding for part in mine for finding in part)
            continue
        keys = dict.fromkeys(finding.key for part in mine for finding in part)
        for key in keys:
            same = [finding for part in mine for finding in part if finding.key == key]
            if not check.everywhere or len(same) == len(parts):
                found.append(max(same, key=lambda finding: finding.weight))
    return sorted(found, key=lambda finding: SEVERITIES.index(finding.severity))
