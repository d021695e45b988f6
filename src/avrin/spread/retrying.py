"""Parts whose work ended a process, cut up until it is known which recording does so."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TypeVar

from avrin.spread.places import Place
from avrin.spread.work import Lost

__all__ = ["ENDED", "each_part"]

ENDED = "ended the process that read it: it crashed, or took more memory than there is"

Answer = TypeVar("Answer")
Part = tuple[Place, ...]


def each_part(
    each: Callable[[Sequence[Part]], Iterator[tuple[int, Answer | Lost]]], parts: Sequence[Part]
) -> Iterator[tuple[Part, Answer | Lost]]:
    """Every part with its answer, as they come. Only parts of one recording are ever lost.

    each: does the work of some parts, and tells their numbers with their answers.
    """
    lost: list[Place] = []
    for number, answer in each(parts):
        if isinstance(answer, Lost) and len(parts[number]) > 1:
            lost += parts[number]
        else:
            yield parts[number], answer
    alone = [(place,) for place in lost]
    for number, answer in each(alone) if alone else ():
        yield alone[number], answer
