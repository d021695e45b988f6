"""Map a function over many recordings, keeping their order."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, Generic, TypeVar

from msgspec import Struct

from avrin.errors import AvrinError
from avrin.execution.interface import Executor, WorkerLost
from avrin.execution.locations import Location
from avrin.execution.partitioning import in_parts
from avrin.execution.retries import ENDED, each_part
from avrin.execution.task import Task, opened
from avrin.trace.frames import Trace

__all__ = ["Mapped", "map_recordings"]

Answer = TypeVar("Answer")


class _Asked(Struct, frozen=True):
    task: Task
    look: Callable[[Task, Any, Trace], Any]
    extra: Any
    faulty: bool


class Mapped(Generic[Answer]):
    """answers: of readable recordings, in order. faults: errors of the others, by name."""

    def __init__(self, answers: list[tuple[Location, Answer]], faults: dict[str, str]) -> None:
        self.answers = answers
        self.faults = faults


def map_recordings(
    who: Executor,
    given: Task,
    places: Sequence[Location],
    look: Callable[[Task, Any, Trace], Answer],
    extra: object = None,
    *,
    faulty: bool,
    progress: Callable[[int, int], None] = lambda _done, _of: None,
) -> Mapped[Answer]:
    """Return the results of `look`, a module-level function called with the work, `extra` and each recording.

    faulty: skip unreadable recordings. progress: called with the number of finished and of all recordings.
    Raises AvrinError for unreadable ones otherwise, and without workers.
    """
    known: dict[str, Answer] = {}
    faults: dict[str, str] = {}
    asked = _Asked(given, look, extra, faulty)
    for part, answer in each_part(partial(who.each, _looked, asked), in_parts(places, who.workers)):
        if isinstance(answer, WorkerLost):
            if not faulty:
                raise AvrinError(ENDED, place=(part[0].name,), advice="Leave this recording out")
            faults[part[0].name] = ENDED
        else:
            known.update(answer[0])
            faults.update(answer[1])
        progress(len(known) + len(faults), len(places))
    answers = [(place, known[place.name]) for place in places if place.name in known]
    return Mapped(answers, dict(sorted(faults.items())))


def _looked(asked: _Asked, part: Sequence[Location]) -> tuple[dict[str, Any], dict[str, str]]:
    known, faults = dict[str, Any](), dict[str, str]()
    for place in part:
        try:
            if place.why:
                raise AvrinError(place.why, place=(place.name,))
            known[place.name] = asked.look(asked.task, asked.extra, opened(asked.task, place))
        except AvrinError as error:
            if not asked.faulty:
                raise
            faults[place.name] = str(error)
    return known, faults
