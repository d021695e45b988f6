"""Executors: this process in a plain loop, processes of this machine, or a cluster with a scheduler."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager
from importlib.util import find_spec
from types import TracebackType
from typing import Any, TypeVar

from avrin.errors import AvrinError
from avrin.execution.interface import Executor, WorkerLost

__all__ = ["executor", "usual_jobs"]

Part = TypeVar("Part")
Answer = TypeVar("Answer")


def usual_jobs() -> int:
    """Return the number of processors available."""
    return len(os.sched_getaffinity(0))


def executor(jobs: int, on: str = "") -> AbstractContextManager[Executor]:
    """Return an executor as a context manager. jobs: processes of this machine; on: a scheduler's address instead.

    Raises AvrinError if a scheduler does not answer or runs another version.
    """
    if on:
        if find_spec("distributed") is None:
            raise AvrinError("running on a cluster needs the extra `cluster`", advice="Install avrin[cluster]")
        from avrin.execution.cluster import Cluster  # late: 507 ms

        return Cluster(on)
    if jobs > 1:
        from avrin.execution.process_pool import ProcessPool  # late: 28 ms

        return ProcessPool(jobs)
    return _Loop()


class _Loop:
    """Runs parts one after another in this process."""

    workers, is_here = 1, True

    def __enter__(self) -> _Loop:
        return self

    def __exit__(
        self, _kind: type[BaseException] | None, _error: BaseException | None, _trace: TracebackType | None
    ) -> None:
        pass

    def each(
        self, task: Callable[[Any, Part], Answer], given: object, parts: Sequence[Part]
    ) -> Iterator[tuple[int, Answer | WorkerLost]]:
        for number, part in enumerate(parts):
            yield number, task(given, part)
