"""Work off the interface thread: what is asked for last wins, and only its result is heard of."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from avrin.model import AvrinError

__all__ = ["Work"]

log = logging.getLogger(__name__)


class Work(QObject):
    """One thread of work. A job that was overtaken by a newer one may finish, but nobody is told."""

    _finished = Signal(int, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._ticket = 0
        self._done: Callable[[Any], None] | None = None
        self._finished.connect(self._hear)

    @property
    def busy(self) -> bool:
        """Whether a result is still awaited."""
        return self._done is not None

    def ask(self, job: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Run `job` in the background; `done` gets what it returns, or the AvrinError it raised, on this thread."""
        self.forget()
        self._done = done
        self._pool.clear()
        self._pool.start(_Job(self._ticket, job, self._finished.emit))

    def forget(self) -> None:
        """Nobody waits for the present job any more."""
        self._ticket += 1
        self._done = None

    def wait(self) -> None:
        """Stay until the present job is over; its result comes with the next events."""
        self._pool.waitForDone()

    def _hear(self, ticket: int, result: Any) -> None:
        if ticket == self._ticket and self._done is not None:
            done, self._done = self._done, None
            done(result)


class _Job(QRunnable):
    def __init__(self, ticket: int, job: Callable[[], Any], tell: Callable[[int, Any], None]) -> None:
        super().__init__()
        self._ticket, self._job, self._tell = ticket, job, tell

    def run(self) -> None:
        """Qt calls this on the other thread."""
        try:
            result = self._job()
        except AvrinError as error:
            result = error
        except Exception as error:
            log.exception("a fault in the background")
            result = AvrinError(f"a fault inside Avrin: {error}")
        with contextlib.suppress(RuntimeError):  # who asked is gone: the window closed meanwhile
            self._tell(self._ticket, result)
