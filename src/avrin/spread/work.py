"""What it is to work on many parts, whoever does it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, Protocol, TypeVar

from msgspec import Struct

__all__ = ["Crew", "Lost"]

Part = TypeVar("Part")
Answer = TypeVar("Answer")


class Lost(Struct, frozen=True):
    """Stands for the answer of a part whose work ended the process that did it."""


class Crew(Protocol):
    """Does the same with many parts. hands: how many at once. is_here: it works in this very process."""

    hands: int
    is_here: bool

    def each(
        self, task: Callable[[Any, Part], Answer], given: object, parts: Sequence[Part]
    ) -> Iterator[tuple[int, Answer | Lost]]:
        """What a task says of each part, with the part's number, as they are done.

        task: a function of a module, called with `given` and a part. Raises AvrinError where nobody can work any more.
        """
        ...
