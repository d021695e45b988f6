"""The interface of executors."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, Protocol, TypeVar

from msgspec import Struct

__all__ = ["Executor", "WorkerLost"]

Part = TypeVar("Part")
Answer = TypeVar("Answer")


class WorkerLost(Struct, frozen=True):
    """The result of a part whose worker died."""


class Executor(Protocol):
    """An executor. workers: parts run at once. is_here: whether it runs in this process."""

    workers: int
    is_here: bool

    def each(
        self, task: Callable[[Any, Part], Answer], given: object, parts: Sequence[Part]
    ) -> Iterator[tuple[int, Answer | WorkerLost]]:
        """Yield a task's result for each part, with the part's index, as they finish.

        task: a module-level function, called with `given` and a part. Raises AvrinError once all workers are lost.
        """
        ...
