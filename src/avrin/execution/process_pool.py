"""An executor with a standard-library pool of processes.

Processes are spawned, not forked, because this one may have threads. A dying process breaks the whole pool without
saying which part it was working on. So all running parts are retried in a new pool, and parts that were running in
two broken pools are run alone: only a part that kills a process by itself is lost.
"""

from __future__ import annotations

import contextlib
import logging
import multiprocessing
import os
import signal
import threading
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import resource_tracker
from types import TracebackType
from typing import Any, TypeVar

from avrin.errors import AvrinError
from avrin.execution.interface import WorkerLost

__all__ = ["ProcessPool"]

log = logging.getLogger(__name__)
Part = TypeVar("Part")
Answer = TypeVar("Answer")
QUEUED_PER_WORKER = 2  # parts submitted per process, so that none waits for the next
MAX_BREAKS = 2  # broken pools after which a part is run alone
# One thread each, because there is a process per processor. If an interrupt ends this process, the standard library's
# resource tracker cleans up; its warning would appear on the terminal.
ENVIRONMENT = {
    **dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"), "1"),
    "PYTHONWARNINGS": "ignore::UserWarning:multiprocessing.resource_tracker",
}


class ProcessPool:
    """A `Crew` of `jobs` processes and a context manager. Leaving it with an exception kills the processes."""

    is_here = False

    def __init__(self, jobs: int) -> None:
        self.workers = jobs
        self._executor: ProcessPoolExecutor | None = None

    def __enter__(self) -> ProcessPool:
        self._before = {key: os.environ.get(key) for key in ENVIRONMENT}
        os.environ.update(ENVIRONMENT)  # a spawned process inherits it
        return self

    def __exit__(
        self, kind: type[BaseException] | None, _error: BaseException | None, _trace: TracebackType | None
    ) -> None:
        self._end(at_once=kind is not None)
        for key, value in self._before.items():
            if value is None:
                os.environ.pop(key, None)
            else:
                os.environ[key] = value

    def each(
        self, task: Callable[[Any, Part], Answer], given: object, parts: Sequence[Part]
    ) -> Iterator[tuple[int, Answer | WorkerLost]]:
        """Implement `Crew.each`. Raises the task's exceptions, and AvrinError if no process can be started."""
        breaks: Counter[int] = Counter()
        waiting = list(range(len(parts)))
        while waiting:
            finished: set[int] = set()
            under_way: set[int] = set()
            for number, answer in self._until_broken(task, given, parts, waiting, self.workers, under_way):
                finished.add(number)
                yield number, answer
            breaks.update(under_way)
            waiting = [number for number in waiting if number not in finished and breaks[number] < MAX_BREAKS]
        for number in sorted(number for number, count in breaks.items() if count >= MAX_BREAKS):
            under_way = set()
            alone = dict(self._until_broken(task, given, parts, [number], 1, under_way))
            yield number, alone.get(number, WorkerLost())

    def _until_broken(
        self,
        task: Callable[[Any, Part], Answer],
        given: object,
        parts: Sequence[Part],
        numbers: Sequence[int],
        jobs: int,
        under_way: set[int],
    ) -> Iterator[tuple[int, Answer]]:
        """Yield parts with results until all are done or the pool breaks; `under_way` then holds the running parts."""
        waiting = iter(numbers)
        running: dict[Future[Answer], int] = {}
        try:
            while True:
                while len(running) < jobs * QUEUED_PER_WORKER and (number := next(waiting, None)) is not None:
                    running[self._submit(task, given, parts[number], jobs)] = number
                if not running:
                    return
                for future in wait(running, return_when=FIRST_COMPLETED).done:
                    number, answer = running[future], future.result()
                    del running[future]
                    yield number, answer
        except BrokenProcessPool as error:
            log.info("a process of the pool died", exc_info=error)
            under_way.update(running.values())
            self._end(at_once=True)

    def _submit(self, task: Callable[[Any, Part], Answer], given: object, part: Part, jobs: int) -> Future[Answer]:
        if self._executor is None:
            context = multiprocessing.get_context("spawn")
            self._executor = ProcessPoolExecutor(jobs, mp_context=context, initializer=_follow_parent)
        try:
            with _interrupts_deferred():
                return self._executor.submit(task, given, part)
        except OSError as error:
            raise AvrinError(
                f"processes could not be started ({error})", advice="Use one process", command="Use --jobs 1"
            ) from None

    def _end(self, *, at_once: bool) -> None:
        executor, self._executor = self._executor, None
        if executor is None:
            return
        if at_once:
            for process in list((executor._processes or {}).values()):  # noqa: SLF001  (`terminate_workers` from 3.14 on)
                process.terminate()
        executor.shutdown(wait=True, cancel_futures=True)


def _follow_parent() -> None:
    """Let the process end with its parent and by nothing else: not by an interrupt of the terminal."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    threading.Thread(target=_end_with_parent, daemon=True).start()


def _end_with_parent() -> None:
    parent = multiprocessing.parent_process()
    assert parent is not None
    parent.join()  # a killed one cannot end its processes, which would wait for work forever
    os._exit(1)


@contextlib.contextmanager
def _interrupts_deferred() -> Iterator[None]:
    """Defer interrupts of the terminal while processes start: those must not receive them, and none may get lost."""
    resource_tracker.ensure_running()  # which would end the deferral
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
