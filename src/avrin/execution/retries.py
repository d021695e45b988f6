"""Retry parts whose worker died, split until the responsible recording is found."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TypeVar

from avrin.execution.interface import WorkerLost
from avrin.execution.locations import Location

__all__ = ["ENDED", "each_part"]

ENDED = "crashed the process that read it, or ran it out of memory"

Answer = TypeVar("Answer")
Part = tuple[Location, ...]


def each_part(
    each: Callable[[Sequence[Part]], Iterator[tuple[int, Answer | WorkerLost]]], parts: Sequence[Part]
) -> Iterator[tuple[Part, Answer | WorkerLost]]:
    """Yield every part with its result as it finishes. Only parts of one recording are ever lost.

    each: runs some parts, and yields their indexes with their results.
    """
    lost: list[Location] = []
    for number, answer in each(parts):
        if isinstance(answer, WorkerLost) and len(parts[number]) > 1:
            lost += parts[number]
        else:
            yield parts[number], answer
    alone = [(place,) for place in lost]
    for number, answer in each(alone) if alone else ():
        yield alone[number], answer
