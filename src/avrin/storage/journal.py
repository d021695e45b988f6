"""Journals of unsaved edits in the user's state folder: one per window, written atomically.

Each records the content of the file its edits are based on. A window holds a lock while it is open, so a journal in use
differs from one left by a crash, and two windows on one project can find each other.
"""

from __future__ import annotations

import fcntl
import hashlib
import itertools
import logging
import os
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from functools import partial
from pathlib import Path

import msgspec

from avrin.errors import AvrinError, reason_of
from avrin.project.project import Project
from avrin.storage.atomic import atomic_write
from avrin.storage.drafts import Draft, new_draft, save_draft
from avrin.storage.files import dumps, loads
from avrin.storage.folders import folder_for, state_folder
from avrin.storage.reading import read_whole

__all__ = ["Journal", "Unsaved", "are_left", "content_of", "left_behind", "rescued", "saving"]

log = logging.getLogger(__name__)
VERSION = 1
MOST_BYTES = 64 * 2**20
JOURNAL, ALIVE, TAKEN = ".journal", ".alive", ".taken"
_numbers = itertools.count(1)


def content_of(path: Path) -> str:
    """Return a digest of a file's content, or "" if the file does not exist.

    Raises AvrinError if the file exists but cannot be read; treating it as missing would overwrite it.
    """
    try:
        there = path.exists() or path.is_symlink()
    except OSError:
        there = True
    return hashlib.blake2b(read_whole(path, MOST_BYTES), digest_size=20).hexdigest() if there else ""


class Unsaved(msgspec.Struct, frozen=True):
    """Unsaved edits. path: the project's file; base: the digest of the file they are based on (`content_of`).

    recording: the one in view. when: seconds since 1970. project: the edited project as JSON text.
    """

    path: str
    base: str
    project: str
    recording: str = ""
    when: float = 0.0
    version: int = VERSION

    def opened(self) -> Project:
        """Return the edited project. Raises AvrinError if it cannot be used."""
        return loads(self.project.encode())[0]


class _Sealed(msgspec.Struct, frozen=True):
    """A journal on the disk. check: the digest of `content`, which is an encoded `Unsaved`."""

    check: str
    content: str


class _Alive(msgspec.Struct, frozen=True):
    path: str


class Journal:
    """The journal of one window and its open project. taken: whether another window has taken over the project."""

    def __init__(self) -> None:
        self._handle: int | None = None
        self._name: Path | None = None
        self._path: Path | None = None

    # -- lifetime -----------------------------------------------------------------------------------------------------

    def begin(self, path: Path | None) -> None:
        """Start a journal for a project, None for one without a file, and close the previous one."""
        self.close()
        self._path = path.resolve() if path is not None else None
        if self._path is None:
            return
        stamp = f"{time.strftime('%Y-%m-%d %H.%M.%S')} {os.getpid()}-{next(_numbers)}"
        self._name = _folder() / f"{stamp} {_hash(self._path)}"
        alive = self._name.with_name(self._name.name + ALIVE)
        try:
            begun = folder_for(alive).with_name(f"{alive.name}.begun")
            self._handle = os.open(begun, os.O_CREAT | os.O_RDWR, 0o600)
            fcntl.flock(self._handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            os.write(self._handle, msgspec.json.encode(_Alive(str(self._path))))
            begun.rename(alive)  # locked before other windows can see it
        except (OSError, AvrinError) as error:
            log.warning("other windows will not know of this one: %s", error)

    def close(self) -> None:
        """Stop writing. The journal stays on the disk for the next start to find."""
        if self._handle is not None:
            if self._name is not None:
                for end in (ALIVE, TAKEN):
                    self._name.with_name(self._name.name + end).unlink(missing_ok=True)
            os.close(self._handle)
        self._handle = self._name = None

    def others(self) -> list[str]:
        """Return the names of other open windows on the same project, the first to open it first."""
        if self._path is None:
            return []
        mine = self._name.name if self._name is not None else ""
        return [name for name, path in _living() if path == str(self._path) and name != mine]

    def take_over(self) -> Unsaved | None:
        """Take over the project from all other windows and return their latest unsaved edits."""
        found = None
        for name in self.others():
            try:
                atomic_write(_folder() / (name + TAKEN), b"", lasting=False)
            except (OSError, AvrinError) as error:
                log.warning("cannot notify %s that its project was taken over: %s", name, error)
            found = _read(_folder() / (name + JOURNAL)) or found
        return found

    @property
    def taken(self) -> bool:
        """Return whether another window took over the project since the last call."""
        if self._name is None:
            return False
        told = self._name.with_name(self._name.name + TAKEN)
        if not told.exists():
            return False
        told.unlink(missing_ok=True)
        return True

    # -- writing ------------------------------------------------------------------------------------------------------

    def keep(self, project: Project, base: str, recording: str) -> None:
        """Write the unsaved edits. Raises AvrinError if that fails."""
        self.keeping(project, base, recording)()

    def keeping(self, project: Project, base: str, recording: str) -> Callable[[], None]:
        """Return a function that writes the unsaved edits from any thread. It raises AvrinError."""
        return partial(_keep, self._name, self._path, project, base, recording)

    def forget(self) -> None:
        """Delete the journal: all edits were saved or discarded."""
        self.forgetting()()

    def forgetting(self) -> Callable[[], None]:
        """Return a function that deletes the current project's journal from any thread."""
        return partial(_forget, self._name)


def _keep(name: Path | None, path: Path | None, project: Project, base: str, recording: str) -> None:
    if name is not None and path is not None:
        unsaved = Unsaved(str(path), base, dumps(project), recording, time.time())
        content = msgspec.json.encode(unsaved)
        try:
            file = folder_for(name.with_name(name.name + JOURNAL))
            atomic_write(file, msgspec.json.encode(_Sealed(_check(content), content.decode())))
        except OSError as error:
            why = reason_of(error)
            raise AvrinError(f"unsaved edits cannot be backed up ({why})", advice="Save the project") from None


def _forget(name: Path | None) -> None:
    if name is not None:
        name.with_name(name.name + JOURNAL).unlink(missing_ok=True)


def left_behind(path: Path | None = None) -> list[tuple[Path, Unsaved]]:
    """Return journals no open window writes, of one project or all, latest first; damaged ones stay on the disk untouched."""
    found = ((file, _read(file)) for file in _abandoned(path))
    return sorted(((file, one) for file, one in found if one is not None), key=lambda item: item[0].name, reverse=True)


def are_left(paths: Iterable[Path]) -> set[Path]:
    """Return which of some projects have abandoned journals, judged by file names only."""
    named = {file.name.removesuffix(JOURNAL).rpartition(" ")[2] for file in _abandoned(None)}
    return {path for path in paths if _hash(path.resolve()) in named}


def _abandoned(path: Path | None) -> list[Path]:
    end = f"{_hash(path.resolve())}{JOURNAL}" if path is not None else JOURNAL
    files = _files(end)
    living = {name for name, _ in _living()} if files else set()
    return [file for file in files if file.name.removesuffix(JOURNAL) not in living]


def rescued() -> int:
    """Turn journals whose project no longer exists into drafts for the first page, and return their number."""
    count = 0
    for file, unsaved in left_behind():
        path = Path(unsaved.path)
        if path.exists():
            continue
        project = unsaved.opened()
        elsewhere = {one.path: path.parent / one.path for one in project.traces}
        try:
            save_draft(new_draft(project.title), Draft(project, elsewhere))
        except AvrinError as error:
            log.warning("the journal %s could not be removed: %s", file.name, error)
            continue
        file.unlink(missing_ok=True)
        count += 1
    return count


@contextmanager
def saving(path: Path) -> Iterator[None]:
    """Lock a project file against other windows while saving. Raises AvrinError if another window keeps the lock."""
    lock = _folder() / f"{_hash(path.resolve())}.saving"
    try:
        handle = os.open(folder_for(lock), os.O_CREAT | os.O_RDWR, 0o600)
    except (OSError, AvrinError) as error:
        log.warning("another window may save at the same time: %s", error)
        yield
        return
    try:
        until = time.monotonic() + 3.0
        while True:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except OSError:
                if time.monotonic() > until:
                    raise AvrinError("another window is saving it", place=(path.name,), advice="Save again") from None
                time.sleep(0.02)
        yield
    finally:
        os.close(handle)


def _folder() -> Path:
    return state_folder() / "journals"


def _hash(path: Path) -> str:
    return hashlib.blake2b(str(path).encode("utf-8", "surrogateescape"), digest_size=12).hexdigest()


def _check(content: bytes) -> str:
    return hashlib.blake2b(content, digest_size=16).hexdigest()


def _files(end: str) -> list[Path]:
    try:
        return sorted(path for path in _folder().iterdir() if path.name.endswith(end))
    except OSError:
        return []


def _living() -> list[tuple[str, str]]:
    """Return the names of open windows and the files they have open, and delete the locks of dead ones."""
    found = []
    for file in _files(ALIVE):
        name = file.name.removesuffix(ALIVE)
        try:
            handle = os.open(file, os.O_RDWR)
        except OSError:
            continue
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:  # another process holds the lock
            try:
                found.append((name, msgspec.json.decode(file.read_bytes(), type=_Alive).path))
            except (OSError, msgspec.MsgspecError):
                found.append((name, ""))
        else:
            for end in (ALIVE, TAKEN):
                (file.parent / (name + end)).unlink(missing_ok=True)
        finally:
            os.close(handle)
    return found


def _read(file: Path) -> Unsaved | None:
    """Read a journal, or return None if it cannot be used; the file is not changed."""
    try:
        sealed = msgspec.json.decode(read_whole(file, MOST_BYTES), type=_Sealed)
        if _check(sealed.content.encode()) != sealed.check:
            raise AvrinError("is incomplete")
        version: Mapping[str, object] = msgspec.json.decode(sealed.content, type=dict[str, object])
        if version.get("version") != VERSION:
            raise AvrinError("was written by another version")
        unsaved = msgspec.json.decode(sealed.content, type=Unsaved)
        unsaved.opened()
    except FileNotFoundError:
        return None
    except (OSError, AvrinError, msgspec.MsgspecError) as error:
        log.warning("the journal %s cannot be used and is left unchanged: %s", file.name, error)
        return None
    return unsaved
