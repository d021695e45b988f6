"""Background jobs: on worker threads, or in time slices on the interface thread.

A job starts with a snapshot and names the parts it reads. Its result is delivered only while those
parts are unchanged; a newer job of the same kind replaces it. Selecting something else, or moving the playhead,
cancels no job that does not read them; nor does a growing recording, of which a result covers the snapshot's frames.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Generator
from typing import Any, TypeVar

from msgspec import Struct
from PySide6.QtCore import QCoreApplication, QObject, QRunnable, QThreadPool, QTimer, Signal

from avrin.app.services.editor import Editor
from avrin.editor.changes import Change, StatePart
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.logs import log_file

__all__ = ["CancelledError", "Jobs", "Started", "TimeSlices"]

log = logging.getLogger(__name__)
T = TypeVar("T")
PAUSE = 0.02  # seconds between two checks for the end of playback


class CancelledError(Exception):
    """A job was cancelled; raised to unwind it, never shown."""


class Started(Struct, frozen=True):
    """A job's view of its start. snapshot: all it may read. wanted: returns False once it is cancelled.

    emit: calls a function that emits a signal, while its objects exist.
    """

    snapshot: Snapshot
    wanted: Callable[[], bool]
    waits: Callable[[], bool]
    emit: Callable[[Callable[[], object]], None]

    def breathe(self) -> None:
        """Yield to the interface thread; wait during playback. Raises OvertakenError if the job is cancelled."""
        while self.wanted() and self.waits():
            time.sleep(PAUSE)
        if not self.wanted():
            raise CancelledError
        time.sleep(0)


class Jobs(QObject):
    """Jobs of one kind, one at a time on a worker thread. The latest request wins.

    reads: the parts of the snapshot that these jobs read. failed: called when a job fails; by default the error is shown in
    the message line. failure: the latest job's error, None while one runs and after a success.
    """

    _finished = Signal(int, object, bool)

    def __init__(
        self, parent: QObject, editor: Editor, *reads: StatePart, failed: Callable[[AvrinError], None] | None = None
    ) -> None:
        super().__init__(parent)
        self.reads = frozenset(reads)
        self._editor = editor
        self._failed = failed or self._say
        self.failure: AvrinError | None = None
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._ticket = 0
        self._done: Callable[[Any, Snapshot], None] | None = None
        self._snapshot = editor.now
        self._hurried = False
        self._emitting = threading.Lock()
        self._closed = False
        self._finished.connect(self._hear)
        editor.follow("jobs", self)
        editor.closing.connect(self._end)

    @property
    def busy(self) -> bool:
        """Whether a result is pending."""
        return self._done is not None

    def submit(self, work: Callable[[Started], T], done: Callable[[T, Snapshot], None]) -> None:
        """Run `work` in the background; `done` gets its result and the initial snapshot, on this thread."""
        self.cancel()
        ticket, snapshot, editor = self._ticket, self._editor.now, self._editor

        def wanted() -> bool:
            return self._ticket == ticket and editor.now.agrees(snapshot, self.reads)

        self._done, self._snapshot, self.failure = done, snapshot, None
        started = Started(snapshot, wanted, lambda: editor.now.playing and not self._hurried, self._emit)

        def tell(result: object, good: bool) -> None:
            self._emit(lambda: self._finished.emit(ticket, result, good))

        self._pool.clear()
        self._pool.start(_Job(lambda: work(started), tell))

    def cancel(self) -> None:
        """Cancel the current job."""
        self._ticket += 1
        self._done = None

    def _end(self) -> None:
        """Cancel the current job, and let its thread emit nothing more; see `_emit`."""
        self.cancel()
        with self._emitting:
            self._closed = True

    def _emit(self, emission: Callable[[], object]) -> None:
        """Emit a signal on the worker thread, unless the window was closed.

        Closing takes the lock too: a signal emitted while its object is deleted ends the program.
        """
        with self._emitting:
            if not self._closed:
                emission()

    def wait(self) -> None:
        """Wait until the current job has finished and its result is delivered, for tests and pictures."""
        self._hurried = True
        self._pool.waitForDone()
        self._hurried = False
        QCoreApplication.sendPostedEvents(self)

    def on_change(self, change: Change) -> None:
        """Cancel the current job if it read something that changed."""
        if self._done is not None and change.parts & self.reads:
            self.cancel()

    def _hear(self, ticket: int, result: object, good: bool) -> None:
        if ticket != self._ticket or self._done is None:
            return
        done, self._done = self._done, None
        if good:
            done(result, self._snapshot)
        elif isinstance(result, AvrinError):
            self.failure = result
            self._failed(result)

    def _say(self, error: AvrinError) -> None:
        self._editor.say(str(error), error=True)


class _Job(QRunnable):
    def __init__(self, work: Callable[[], Any], tell: Callable[[Any, bool], None]) -> None:
        super().__init__()
        self._work, self._tell = work, tell

    def run(self) -> None:
        """Run the job; called by Qt on the worker thread."""
        result: Any
        try:
            result, good = self._work(), True
        except CancelledError:
            return
        except AvrinError as error:
            result, good = error, False
        except Exception as error:  # noqa: BLE001  (logged, and said where the result would be)
            result, good = _inner_fault(error), False
        self._tell(result, good)


def _inner_fault(error: Exception) -> AvrinError:
    """Return the user's message for an internal error; the log has the traceback."""
    log.error("an internal error in the background", exc_info=error)
    return AvrinError(f"an internal error ({type(error).__name__}: {error})", advice=f"Details: {log_file()}")


class TimeSlices(QObject):
    """Work in time slices on the interface thread, for work that shares the painter's caches.

    reads, failed, failure: see `Jobs`. turn: milliseconds per time slice; 0 for a single step.
    """

    def __init__(
        self, parent: QObject, editor: Editor, *reads: StatePart, turn: float = 0.0,
        failed: Callable[[AvrinError], None] | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.reads = frozenset(reads)
        self._editor = editor
        self._failed = failed or self._say
        self.failure: AvrinError | None = None
        self._turn = turn / 1000
        self._work: Generator[None, None, Any] | None = None
        self._done: Callable[[Any, Snapshot], None] | None = None
        self._snapshot = editor.now
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._go_on)
        editor.follow("jobs", self)
        editor.closing.connect(self.cancel)

    @property
    def busy(self) -> bool:
        """Whether there is more to do."""
        return self._work is not None

    def submit(self, work: Callable[[Snapshot], Generator[None, None, T]], done: Callable[[T, Snapshot], None]) -> None:
        """Do `work` in time slices; `done` gets its result and the initial snapshot."""
        self._snapshot = self._editor.now
        self._work, self._done, self.failure = work(self._snapshot), done, None
        self._timer.start(0)

    def cancel(self) -> None:
        """Cancel the current work."""
        self._work = self._done = None
        self._timer.stop()

    def wait(self) -> None:
        """Finish the current work at once."""
        while self._work is not None:
            self._go_on()

    def on_change(self, change: Change) -> None:
        """Cancel the current work if it read something that changed."""
        if change.parts & self.reads:
            self.cancel()

    def _go_on(self) -> None:
        until = time.monotonic() + self._turn
        while self._work is not None:
            try:
                next(self._work)
            except StopIteration as over:
                done, snapshot = self._done, self._snapshot
                self.cancel()
                if done is not None:
                    done(over.value, snapshot)
            except AvrinError as error:
                self._fail(error)
            except Exception as error:  # noqa: BLE001  (logged, and said where the result would be)
                self._fail(_inner_fault(error))
            if time.monotonic() >= until:
                return

    def _fail(self, error: AvrinError) -> None:
        self.cancel()
        self.failure = error
        self._failed(error)

    def _say(self, error: AvrinError) -> None:
        self._editor.say(str(error), error=True)
