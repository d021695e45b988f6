"""A sweep over thousands of recordings, done by a process of its own while one works: its progress, and what it found."""

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

from avrin.app.session.jobs import Jobs
from avrin.app.session.present import Present
from avrin.app.session.snapshot import Snapshot
from avrin.model import AvrinError, cache_folder, dumps, folder_for, read_whole, write_whole

if TYPE_CHECKING:
    from avrin.sweep import Shown

__all__ = ["Sweeps"]

NICE = ["nice", "-n", "10"]  # the window's own work comes first
PATIENCE = 3000  # milliseconds until one that was stopped is gone
MOST_BYTES = 1 << 16
MOST_PROJECTS = 20  # whose sweeps are kept


class Sweeps(QObject):
    """Belongs to a session. changed: it began, went on, ended or was read.

    where: a folder, a file or a URL. done, of: recordings; left: seconds, None while nobody can tell. found: what was found
    when it was last whole; faults: how many recordings could not be read then.
    """

    changed = Signal()

    def __init__(self, present: Present) -> None:
        super().__init__(present)
        self._present = present
        self._process: QProcess | None = None
        self._stopped = False
        self._reading = Jobs(self, present, "file")
        self._known: Path | None = None  # the folder whose table was read
        self.where, self.done, self.of = "", 0, 0
        self.left: float | None = None
        self.found: Shown | None = None
        self.faults = 0
        present.closing.connect(self.stop)
        present.begun.connect(self._another)

    @property
    def running(self) -> bool:
        """Whether recordings are being looked at."""
        return self._process is not None

    @property
    def busy(self) -> bool:
        """Whether anything is to come."""
        return self.running or self._reading.busy

    @property
    def begun(self) -> bool:
        """Whether some of the recordings were looked at, and not all."""
        return not self.running and 0 < self.done < self.of

    def _folder(self) -> Path:
        """Where this project's sweep lies; it can be made again."""
        path = self._present.path
        name = str(path.absolute()) if path is not None else f"unsaved {os.getpid()}"
        return cache_folder() / "sweeps" / hashlib.blake2b(name.encode(), digest_size=12).hexdigest()

    def _another(self) -> None:
        """Another project is open: what is swept is swept for nobody."""
        self.stop()
        self._known, self.where, self.found, self.done, self.of = None, "", None, 0, 0

    def recall(self) -> None:
        """What was swept last of this project, and what was found."""
        folder = self._folder()
        if self._known == folder or self.running:
            return
        self._known, self.where, self.found, self.done, self.of = folder, "", None, 0, 0
        try:
            self.where = json.loads(read_whole(folder / "where.json", MOST_BYTES))["where"]
        except (AvrinError, ValueError, KeyError, TypeError):
            self.where = ""
        self.changed.emit()
        if (folder / "states.parquet").exists():
            self._read(folder)

    @property
    def there(self) -> str:
        """The same as whoever looks for it needs it: what is no URL is a path, from the project's folder on."""
        return self.where if "://" in self.where else str(self._present.folder / Path(self.where).expanduser())

    def start(self, where: str) -> None:
        """Look at all recordings there, but for those that are as before, of the same project. Raises AvrinError."""
        self.stop()
        self.where = where.strip()
        if not self.where:
            raise AvrinError("nothing says where the recordings lie", advice="Choose a folder, or type a path or a URL")
        folder, present = self._folder(), self._present
        try:
            project = folder_for(folder / "project.avrin")
            write_whole(project, dumps(present.project).encode())
            write_whole(folder / "where.json", json.dumps({"where": self.where}).encode())
        except OSError as error:
            raise AvrinError(f"cannot be written ({error.strerror})", place=(str(folder),)) from None
        arguments = [
            sys.executable, "-m", "avrin", "sweep", str(project), "--folder", str(present.folder), "--recordings",
            self.there, "--out", str(folder / "states.parquet"), "--resume", "--no-findings", "--progress", "lines",
        ]  # fmt: skip
        _tidy(folder.parent, folder)
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
        self.changed.emit()

    def stop(self) -> None:
        """Stop; what is done is kept, and gone on with the next time."""
        process = self._process
        if process is None:
            return
        self._stopped = True
        if process.processId():
            os.kill(process.processId(), signal.SIGINT)
        if not process.waitForFinished(PATIENCE):
            process.kill()
            process.waitForFinished(PATIENCE)

    def settle(self) -> None:
        """Wait for all of it, for who must not look before."""
        if self._process is not None:
            self._process.waitForFinished(-1)
        self._reading.settle()

    def _hear(self) -> None:
        assert self._process is not None
        for line in bytes(self._process.readAllStandardOutput().data()).splitlines():
            try:
                told = json.loads(line)
                self.done, self.of, self.left = int(told["done"]), int(told["of"]), told["left"]
            except (ValueError, KeyError, TypeError):
                continue  # the last line is for people
        self.changed.emit()

    def _failed(self, error: QProcess.ProcessError) -> None:
        """It could not be begun; of all else `_ended` hears."""
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
            self._present.said.emit(f"Stopped: {self.done:,} of {self.of:,} recordings are looked at", False)
        else:
            self._present.said.emit(told[-1].removeprefix("avrin: ") if told else "the sweep ended by itself", True)
        self.changed.emit()

    def _read(self, folder: Path) -> None:
        path = folder / "states.parquet"

        def work(_: object) -> tuple[Shown, int]:
            import pyarrow.parquet as pq  # a start need not wait for any of it

            from avrin.sweep import Shown, outputs

            return Shown.read(path), int(pq.read_metadata(outputs(path)[1]).num_rows)

        def done(found: tuple[Shown, int], _: Snapshot) -> None:
            self.found, self.faults = found
            self.changed.emit()

        self._reading.ask(work, done)


def _tidy(kept: Path, but: Path) -> None:
    """Take away the oldest sweeps of other projects, which can be made again."""
    try:
        others = sorted((one for one in kept.iterdir() if one != but), key=lambda one: one.stat().st_mtime)
    except OSError:
        return
    for one in others[: -(MOST_PROJECTS - 1)]:
        shutil.rmtree(one, ignore_errors=True)
