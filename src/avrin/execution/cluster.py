"""An executor on a distributed scheduler. Imported only where it is used."""

from __future__ import annotations

import logging
import queue
import threading
import time
import warnings
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import CancelledError
from types import TracebackType
from typing import Any, TypeVar

import distributed
from distributed import Client, Future, KilledWorker, wait
from distributed.comm.addressing import parse_address, parse_host_port
from distributed.comm.registry import get_backend

from avrin.errors import AvrinError
from avrin.execution.bundle import program
from avrin.execution.interface import WorkerLost
from avrin.execution.worker import done, other_program, quiet, same

__all__ = ["Cluster"]

quiet()
log = logging.getLogger(__name__)
Part = TypeVar("Part")
Answer = TypeVar("Answer")
PATIENCE = 12.0  # seconds to wait for a scheduler, or for a first worker
AHEAD = 2  # queued parts per worker
LOOK = 0.5  # seconds between checks for living workers
KEPT = "Finished recordings are saved: continue later"


class Cluster:
    """A `Crew` of the workers of the scheduler at an address. A context manager."""

    def __init__(self, address: str) -> None:
        self.is_here, self.workers = False, 1
        self._address = address
        self._client: Client = None
        self._since = 0.0  # when the last worker disappeared

    def __enter__(self) -> Cluster:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            try:
                self._client = self._connected()
                self._client.wait_for_workers(1, timeout=PATIENCE)
            except (OSError, TimeoutError, ValueError) as error:
                self._close()
                raise self._unanswered(error) from None
            except Exception as error:
                self._close()
                log.info("the scheduler's answer cannot be understood", exc_info=error)
                raise AvrinError(f"the server at {self._address} is not a scheduler of this version") from None
            self._check_versions()
        self.workers = max(1, sum(self._client.nthreads().values()))
        return self

    def __exit__(
        self, _kind: type[BaseException] | None, _error: BaseException | None, _trace: TracebackType | None
    ) -> None:
        self._close()

    def _connected(self) -> Client:
        """Return a client of the scheduler. Raises ValueError for an invalid address, OSError if nothing answers."""
        scheme, place = parse_address(self._address)
        get_backend(scheme)
        parse_host_port(place)
        return _within(PATIENCE, lambda: Client(self._address, timeout=PATIENCE))

    def _close(self) -> None:
        if self._client is not None:
            try:
                self._client.close(timeout=3)
            except Exception as error:
                log.info("the client did not close", exc_info=error)

    def _unanswered(self, error: Exception) -> AvrinError:
        log.info("no scheduler", exc_info=error)
        if self._client is not None:
            return AvrinError(
                f"the scheduler at {self._address} has no workers",
                advice="Start workers",
                command="Start workers, or omit --on",
            )
        if isinstance(error, ValueError):
            return AvrinError(f"'{self._address}' is not a scheduler address", advice="Write it as tcp://HOST:8786")
        return AvrinError(
            f"the scheduler at {self._address} does not answer",
            advice="Check the address",
            command="Check the address, or omit --on",
        )

    def _check_versions(self) -> None:
        """Check that all workers run the same program."""
        there = self._client.get_versions()["scheduler"]["packages"].get("distributed")
        if there != distributed.__version__:
            self._close()
            raise AvrinError(
                f"the scheduler at {self._address} runs distributed {there}; this machine runs {distributed.__version__}",
                advice="Install the same",
            )
        try:
            told = self._client.run(program)
        except (ImportError, AttributeError):
            self._close()
            raise AvrinError("a worker of the scheduler does not have Avrin", advice="Install it there") from None
        other = {where: one for where, one in told.items() if tuple(one) != program()}
        if other:
            self._close()
            where, (version, _) = next(iter(other.items()))
            raise AvrinError(other_program(where, version, program()[0]), advice="Install the same version there")

    # -- work ---------------------------------------------------------------------------------------------------------

    def each(
        self, task: Callable[[Any, Part], Answer], given: object, parts: Sequence[Part]
    ) -> Iterator[tuple[int, Answer | WorkerLost]]:
        """Implement `Crew.each`. A part is retried if its worker is lost; alone, if that happens again."""
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            # Passed by a task, not scattered: it is recomputed if its worker is lost.
            shared = self._client.submit(same, given, pure=False)
        suspects: list[int] = []
        for number, answer in self._all(task, shared, parts, list(range(len(parts))), self.workers * AHEAD):
            if isinstance(answer, WorkerLost):
                suspects.append(number)
            else:
                yield number, answer
        for number in suspects:  # parts that ran beside the one that killed the process are suspects too
            yield from self._all(task, shared, parts, [number], 1)

    def _all(
        self, task: Callable[[Any, Part], Answer], shared: Future, parts: Sequence[Part], numbers: list[int], most: int
    ) -> Iterator[tuple[int, Answer | WorkerLost]]:
        waiting, running = iter(numbers), dict[Future, int]()
        while True:
            while len(running) < most and (number := next(waiting, None)) is not None:
                future = self._client.submit(done, program(), task, shared, parts[number], pure=False)
                running[future] = number
            if not running:
                return
            for future in self._next(running):
                yield running.pop(future), self._answer(future)

    def _next(self, running: dict[Future, int]) -> list[Future]:
        """Wait for finished futures. Raises AvrinError once all workers are lost."""
        while True:
            try:
                ready = wait(list(running), timeout=LOOK, return_when="FIRST_COMPLETED").done
            except TimeoutError:
                ready = set()
            except (CancelledError, OSError):
                raise AvrinError("the scheduler went away", advice=KEPT) from None
            if self._client.status != "running":
                raise AvrinError("the scheduler went away", advice=KEPT)
            if ready:
                return [future for future in running if future in ready]
            self._see_who_works()

    def _see_who_works(self) -> None:
        try:
            found = self._client.nthreads()
        except (CancelledError, OSError, TimeoutError):
            raise AvrinError("the scheduler went away", advice=KEPT) from None
        if found:
            self.workers, self._since = sum(found.values()), 0.0
            return
        self._since = self._since or time.monotonic()
        if time.monotonic() - self._since > 2 * PATIENCE:
            raise AvrinError("the scheduler has lost all its workers", advice=KEPT)

    def _answer(self, future: Future) -> Any:  # noqa: ANN401  (the task's result type)
        try:
            error = future.exception(timeout=PATIENCE) if future.status == "error" else None
            answer = future.result(timeout=PATIENCE) if error is None else None
        except (CancelledError, OSError, TimeoutError):
            raise AvrinError("the scheduler went away", advice=KEPT) from None
        finally:
            future.release()
        if isinstance(error, KilledWorker):
            return WorkerLost()
        if error is not None:
            raise error  # of the task itself, of any type
        return answer


def _within(seconds: float, make: Callable[[], Client]) -> Client:
    """Return the result of `make`, or raise TimeoutError: a server may accept a connection and never answer."""
    made: queue.SimpleQueue[Client | Exception] = queue.SimpleQueue()

    def work() -> None:
        try:
            made.put(make())
        except Exception as error:  # noqa: BLE001  (raised there where it is asked for)
            made.put(error)

    threading.Thread(target=work, daemon=True, name="connecting").start()
    try:
        found = made.get(timeout=seconds + 1)
    except queue.Empty:
        raise TimeoutError from None
    if isinstance(found, Exception):
        raise found
    return found
