"""Work in a pool of this machine's own processes, by the standard library.

Processes are spawned, not forked: this one may have threads. One that dies breaks the whole pool, and the library does not
say which part it was working on. So every part that was under way is tried again in a new pool, and what was under way in
two pools that broke is run alone: only a part that ends a process all by itself is lost.
"""

from __future__ import annotations

import contextlib
import logging
import multiprocessing
import os
import signal
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from types import TracebackType
from typing import Any, TypeVar

from avrin.model import AvrinError
from avrin.spread.work import Lost

__all__ = ["ProcessPool"]

log = logging.getLogger(__name__)
Part = TypeVar("Part")
Answer = TypeVar("Answer")
QUEUED_PER_WORKER = 2  # parts submitted for each process, so that none waits for this one to hand over the next
MAX_BREAKS = 2  # pools that break under a part before it is run alone
# One thread in each: the processors are taken by the processes. And where an interrupt ends this process, the standard
# library's own helper tidies up; it would say so on the terminal.
ENVIRONMENT = {
    **dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"), "1"),
    "PYTHONWARNINGS": "ignore::UserWarning:multiprocessing.resource_tracker",
}


class ProcessPool:
    """A `Crew` of `jobs` processes, used as a context. Leaving it by an error ends the processes at once."""

    is_here = False

    def __init__(self, jobs: int) -> None:
        self.hands = jobs
        self._executor: ProcessPoolExecutor | None = None

    def __enter__(self) -> ProcessPool:
        self._before = {key: os.environ.get(key) for key in ENVIRONMENT}
        os.environ.update(ENVIRONMENT)  # a spawned process has no other way to get it
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
    ) -> Iterator[tuple[int, Answer | Lost]]:
        """As of any crew. Raises what the task raises, and AvrinError where no process can be started."""
        breaks: Counter[int] = Counter()
        waiting = list(range(len(parts)))
        while waiting:
            finished: set[int] = set()
            under_way: set[int] = set()
            for number, answer in self._until_broken(task, given, parts, waiting, self.hands, under_way):
                finished.add(number)
                yield number, answer
            breaks.update(under_way)
            waiting = [number for number in waiting if number not in finished and breaks[number] < MAX_BREAKS]
        for number in sorted(number for number, count in breaks.items() if count >= MAX_BREAKS):
            under_way = set()
            alone = dict(self._until_broken(task, given, parts, [number], 1, under_way))
            yield number, alone.get(number, Lost())

    def _until_broken(
        self,
        task: Callable[[Any, Part], Answer],
        given: object,
        parts: Sequence[Part],
        numbers: Sequence[int],
        jobs: int,
        under_way: set[int],
    ) -> Iterator[tuple[int, Answer]]:
        """Parts with their answers, until all are done or the pool breaks; `under_way` then has what it broke under."""
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
            self._executor = ProcessPoolExecutor(jobs, mp_context=context, initializer=_ignore_interrupts)
        try:
            with _interrupts_ignored():
                return self._executor.submit(task, given, part)
        except OSError as error:
            raise AvrinError(
                f"processes could not be started ({error})", advice="Use one process", command="Say --jobs 1"
            ) from None

    def _end(self, *, at_once: bool) -> None:
        executor, self._executor = self._executor, None
        if executor is None:
            return
        if at_once:
            for process in list((executor._processes or {}).values()):  # noqa: SLF001  (`terminate_workers` from 3.14 on)
                process.terminate()
        executor.shutdown(wait=True, cancel_futures=True)


def _ignore_interrupts() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)


@contextlib.contextmanager
def _interrupts_ignored() -> Iterator[None]:
    """Processes started in it inherit that an interrupt at the terminal is not for them: this process ends them."""
    try:
        before = signal.signal(signal.SIGINT, signal.SIG_IGN)
    except ValueError:  # only the main thread may set it
        yield
        return
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, before)
