"""A sweep over thousands of recordings in a process of its own, with its progress and results."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import signal
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QProcess, Signal

from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs
from avrin.editor.changes import Change
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError, reason_of
from avrin.storage.atomic import atomic_write
from avrin.storage.cache import cache_evict
from avrin.storage.files import dumps
from avrin.storage.folders import cache_folder, folder_for
from avrin.storage.reading import read_whole

if TYPE_CHECKING:
    from avrin.sweep.state_table import Shown

__all__ = ["Sweeps"]

NICE = ["nice", "-n", "10"]  # the window has priority
PATIENCE = 3000  # milliseconds to wait for a stopped process
MOST_BYTES = 1 << 16
MAX_PROJECTS = 20  # whose sweeps are retained


class Sweeps(QObject):
    """One sweep of the project at a time. Announced whenever it started, advanced, ended or was loaded.

    where: a folder, a file or a URL. done, of: recordings; left: seconds, None if unknown. found: the latest complete
    result; faults: its number of unreadable recordings.
    """

    changed = Signal()

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self._process: QProcess | None = None
        self._stopped = False
        self._reading = Jobs(self, editor, "file")
        self._known: Path | None = None  # the folder whose table was loaded
        self.where, self.done, self.of = "", 0, 0
        self.left: float | None = None
        self.found: Shown | None = None
        self.faults = 0
        editor.closing.connect(self.stop)
        editor.follow("sweeps", self)

    @property
    def running(self) -> bool:
        """Whether a sweep is running."""
        return self._process is not None

    @property
    def busy(self) -> bool:
        """Whether a result is pending."""
        return self.running or self._reading.busy

    @property
    def begun(self) -> bool:
        """Whether a sweep was interrupted."""
        return not self.running and 0 < self.done < self.of

    def _folder(self) -> Path:
        """Return the folder of this project's sweep, in the cache."""
        path = self._editor.now.path
        name = str(path.absolute()) if path is not None else f"unsaved {os.getpid()}"
        return cache_folder() / "sweeps" / hashlib.blake2b(name.encode(), digest_size=12).hexdigest()

    def on_change(self, _change: Change) -> None:
        """Stop the sweep of the previous project."""
        self.stop()
        self._known, self.where, self.found, self.done, self.of = None, "", None, 0, 0

    def recall(self) -> None:
        """Load the latest sweep of this project."""
        folder = self._folder()
        if self._known == folder or self.running:
            return
        self._known, self.where, self.found, self.done, self.of = folder, "", None, 0, 0
        try:
            self.where = json.loads(read_whole(folder / "where.json", MOST_BYTES))["where"]
        except (AvrinError, ValueError, KeyError, TypeError):
            self.where = ""
        self._editor.announce("sweep")
        if (folder / "states.parquet").exists():
            self._read(folder)

    @property
    def there(self) -> str:
        """Return the location for the process: a URL, or a path relative to the project's folder."""
        return self.where if "://" in self.where else str(self._editor.now.folder / Path(self.where).expanduser())

    def start(self, where: str) -> None:
        """Sweep all recordings there, except those unchanged since an earlier sweep of the project. Raises AvrinError."""
        self.stop()
        self.where = where.strip()
        if not self.where:
            raise AvrinError("no location of recordings is given", advice="Choose a folder, or type a path or a URL")
        folder, editor = self._folder(), self._editor
        try:
            project = folder_for(folder / "project.avrin")
            atomic_write(project, dumps(editor.now.project).encode())
            atomic_write(folder / "where.json", json.dumps({"where": self.where}).encode())
        except OSError as error:
            raise AvrinError(f"cannot be written ({reason_of(error)})", place=(str(folder),)) from None
        arguments = [
            sys.executable, "-m", "avrin", "sweep", str(project), "--folder", str(editor.now.folder), "--recordings",
            self.there, "--out", str(folder / "states.parquet"), "--resume", "--no-findings", "--progress", "lines",
        ]  # fmt: skip
        cache_evict(folder.parent, max_files=MAX_PROJECTS, spare=folder)
        if shutil.which(NICE[0]):
            arguments = [*NICE, *arguments]
        self._known = folder
        self._stopped, self.done, self.of, self.left = False, 0, 0, None
        self._process = process = QProcess(self)
        process.setProgram(arguments[0])
        process.setArguments(arguments[1:])
        process.readyReadStandardOutput.connect(self._hear)
        process.finished.connect(self._ended)
        process.errorOccurred.connect(self._failed)
        process.start()
        self._editor.announce("sweep")

    def stop(self) -> None:
        """Stop; finished recordings are retained for the next time."""
        process = self._process
        if process is None:
            return
        self._stopped = True
        if process.processId():
            os.kill(process.processId(), signal.SIGINT)
        if not process.waitForFinished(PATIENCE):
            process.kill()
            process.waitForFinished(PATIENCE)

    def wait(self) -> None:
        """Wait for the result, for tests and pictures."""
        if self._process is not None:
            self._process.waitForFinished(-1)
        self._reading.wait()

    def _hear(self) -> None:
        assert self._process is not None
        for line in bytes(self._process.readAllStandardOutput().data()).splitlines():
            try:
                told = json.loads(line)
                self.done, self.of, self.left = int(told["done"]), int(told["of"]), told["left"]
            except (ValueError, KeyError, TypeError):
                continue  # the last line is for people
        self._editor.announce("sweep")

    def _failed(self, error: QProcess.ProcessError) -> None:
        """Report that the process could not be started; other errors are handled by `_ended`."""
        if error == QProcess.ProcessError.FailedToStart:
            self._ended(2)

    def _ended(self, status: int) -> None:
        process, self._process = self._process, None
        assert process is not None
        told = bytes(process.readAllStandardError().data()).decode(errors="replace").splitlines()
        process.deleteLater()
        self.left = None
        if status in (0, 1) and not self._stopped:
            self.done = self.of
            if self._known is not None:
                self._read(self._known)
        elif self._stopped:
            self._editor.say(f"Stopped: {self.done:,} of {self.of:,} recordings are processed")
        else:
            self._editor.say(told[-1].removeprefix("avrin: ") if told else "the sweep crashed", error=True)
        self._editor.announce("sweep")

    def _read(self, folder: Path) -> None:
        path = folder / "states.parquet"

        def work(_: object) -> tuple[Shown, int]:
            import pyarrow.parquet as pq  # late: 117 ms

            from avrin.sweep.results import outputs
            from avrin.sweep.state_table import Shown

            return Shown.read(path), int(pq.read_metadata(outputs(path)[1]).num_rows)

        def done(result: tuple[Shown, int], _: Snapshot) -> None:
            self.found, self.faults = result
            self._editor.announce("sweep")

        self._reading.submit(work, done)
