"""Run checks over many recordings on any executor and merge the results."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.execution.bundle import unpacked
from avrin.execution.event_discovery import Happening, discover_events
from avrin.execution.interface import Executor, WorkerLost
from avrin.execution.locations import Location
from avrin.execution.retries import ENDED, each_part
from avrin.execution.task import Task, asks_events, bound, opened
from avrin.findings.causes import caused
from avrin.findings.finding import Check, Finding
from avrin.findings.inspector import Inspector
from avrin.findings.merging import merged

__all__ = ["Checked", "inspect_all"]

AT_ONCE = 4  # recordings per task, whatever the executor


class _Asked(Struct, frozen=True):
    """faulty: unreadable recordings are skipped and reported instead of raising."""

    task: Task
    faulty: bool


class Checked(Struct, frozen=True):
    """Findings, most severe first; and errors of skipped recordings by name. Workers return no fixes."""

    findings: list[Finding]
    faults: dict[str, str]


def inspect_all(
    checks: Sequence[Check],
    given: Task,
    places: Sequence[Location],
    who: Executor,
    progress: Callable[[int, int], None] = lambda _done, _of: None,
    *,
    faulty: bool = False,
) -> Checked:
    """Return all findings of a project over recordings. progress: called with the number of finished and of all recordings.

    faulty: skip unreadable recordings. Raises AvrinError for them otherwise, and without workers.
    """
    seen: Happening = {}
    project, folder = unpacked(given.bundle)
    if asks_events(project, folder):
        discover_events(who, given, places, seen)
    asked = _Asked(replace(given, events=seen), faulty)
    parts = [tuple(places[i : i + AT_ONCE]) for i in range(0, max(1, len(places)), AT_ONCE)]
    order = {place: number for number, place in enumerate(places)}
    answers: list[tuple[int, list[Finding]]] = []
    faults: dict[str, str] = {}
    done = 0
    for part, answer in each_part(partial(who.each, _inspected, asked), parts):
        if isinstance(answer, WorkerLost):
            if not faulty:
                raise AvrinError(ENDED, place=(part[0].name,), advice="Leave this recording out")
            faults[part[0].name] = ENDED
        else:
            findings, left_out = answer
            faults.update(left_out)
            if not part or len(left_out) < len(part):
                answers.append((order[part[0]] if part else 0, findings))
        done += len(part)
        progress(done, len(places))
    every = [findings for _, findings in sorted(answers, key=lambda answer: answer[0])]
    return Checked(caused(checks, merged(checks, every), bound(asked.task)), dict(sorted(faults.items())))


def _inspected(asked: _Asked, part: Sequence[Location]) -> tuple[list[Finding], dict[str, str]]:
    from avrin.findings.registry import CHECKS  # late: 21 ms

    traces, faults = [], dict[str, str]()
    for place in part:
        try:
            if place.why:
                raise AvrinError(place.why, place=(place.name,))
            traces.append(opened(asked.task, place))
        except AvrinError as error:
            if not asked.faulty:
                raise
            faults[place.name] = str(error)
    if part and not traces:
        return [], faults
    project = bound(asked.task)
    found = Inspector(CHECKS).inspect(project, [Tracks(project, trace) for trace in traces])
    return [replace(finding, fix=None) for finding in found], faults
