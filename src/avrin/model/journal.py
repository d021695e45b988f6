"""Unsaved edits, kept in the user's state folder: one journal a window, written whole, based on what the file held.

A window holds a lock for as long as it lives, so that a journal somebody writes is told from one that was left behind, and two
windows on one project know of each other.
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

from avrin.model.drafts import Draft, keep_draft, new_draft
from avrin.model.errors import AvrinError
from avrin.model.files import dumps, loads
from avrin.model.folders import folder_for, state_folder
from avrin.model.project import Project
from avrin.model.reading import read_whole
from avrin.model.whole import write_whole

__all__ = ["Journal", "Unsaved", "are_left", "content_of", "left_behind", "rescued", "saving"]

log = logging.getLogger(__name__)
VERSION = 1
MOST_BYTES = 64 * 2**20
JOURNAL, ALIVE, TAKEN = ".journal", ".alive", ".taken"
_numbers = itertools.count(1)


def content_of(path: Path) -> str:
    """What tells a file's content from any other; "" where there is none.

    Raises AvrinError where something is there that cannot be read: that is not taken for nothing, and written over.
    """
    try:
        there = path.exists() or path.is_symlink()
    except OSError:
        there = True
    return hashlib.blake2b(read_whole(path, MOST_BYTES), digest_size=20).hexdigest() if there else ""


class Unsaved(msgspec.Struct, frozen=True):
    """Edits that were not saved. path: the project's file; base: what it held when they were made (`content_of`).

    recording: which one was looked at. when: seconds since 1970, as the clock had it. project: as JSON text.
    """

    path: str
    base: str
    project: str
    recording: str = ""
    when: float = 0.0
    version: int = VERSION

    def opened(self) -> Project:
        """The project as it was edited. Raises AvrinError where it cannot be used."""
        return loads(self.project.encode())[0]


class _Sealed(msgspec.Struct, frozen=True):
    """A journal as it lies on the disk. check: the digest of `content`, which is an `Unsaved`."""

    check: str
    content: str


class _Alive(msgspec.Struct, frozen=True):
    path: str


class Journal:
    """One window's journal, of the project it has open. taken: whether another window has taken the project over."""

    def __init__(self) -> None:
        self._handle: int | None = None
        self._name: Path | None = None
        self._path: Path | None = None

    # -- living -------------------------------------------------------------------------------------------------------

    def begin(self, path: Path | None) -> None:
        """A project is open from now on, None for one without a file; what was kept of the one before is closed."""
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
            begun.rename(alive)  # locked already when others first see it
        except (OSError, AvrinError) as error:
            log.warning("other windows will not know of this one: %s", error)

    def close(self) -> None:
        """The window looks at it no more. What is kept stays, and is found by the next start."""
        if self._handle is not None:
            if self._name is not None:
                for end in (ALIVE, TAKEN):
                    self._name.with_name(self._name.name + end).unlink(missing_ok=True)
            os.close(self._handle)
        self._handle = self._name = None

    def others(self) -> list[str]:
        """The names of other living windows that have the same project open, the first to open it first."""
        if self._path is None:
            return []
        mine = self._name.name if self._name is not None else ""
        return [name for name, path in _living() if path == str(self._path) and name != mine]

    def take_over(self) -> Unsaved | None:
        """Take the project over from all other windows; returns the latest of what they have not saved."""
        found = None
        for name in self.others():
            try:
                write_whole(_folder() / (name + TAKEN), b"", lasting=False)
            except (OSError, AvrinError) as error:
                log.warning("%s was not told that it is taken over: %s", name, error)
            found = _read(_folder() / (name + JOURNAL)) or found
        return found

    @property
    def taken(self) -> bool:
        """Whether another window took the project over since this was last asked."""
        if self._name is None:
            return False
        told = self._name.with_name(self._name.name + TAKEN)
        if not told.exists():
            return False
        told.unlink(missing_ok=True)
        return True

    # -- keeping ------------------------------------------------------------------------------------------------------

    def keep(self, project: Project, base: str, recording: str) -> None:
        """Write what is not saved. Raises AvrinError when it cannot be kept."""
        self.keeping(project, base, recording)()

    def keeping(self, project: Project, base: str, recording: str) -> Callable[[], None]:
        """What writes it, in the journal of the project that is open now, on any thread. It raises AvrinError."""
        return partial(_keep, self._name, self._path, project, base, recording)

    def forget(self) -> None:
        """All is saved, or was let go."""
        self.forgetting()()

    def forgetting(self) -> Callable[[], None]:
        """What takes the journal of the project that is open now away, on any thread."""
        return partial(_forget, self._name)


def _keep(name: Path | None, path: Path | None, project: Project, base: str, recording: str) -> None:
    if name is not None and path is not None:
        unsaved = Unsaved(str(path), base, dumps(project), recording, time.time())
        content = msgspec.json.encode(unsaved)
        try:
            file = folder_for(name.with_name(name.name + JOURNAL))
            write_whole(file, msgspec.json.encode(_Sealed(_check(content), content.decode())))
        except OSError as error:
            why = (error.strerror or str(error)).lower()
            raise AvrinError(
                f"unsaved edits cannot be kept against a crash ({why})", advice="Save the project"
            ) from None


def _forget(name: Path | None) -> None:
    if name is not None:
        name.with_name(name.name + JOURNAL).unlink(missing_ok=True)


def left_behind(path: Path | None = None) -> list[tuple[Path, Unsaved]]:
    """Journals that no living window writes, of one project or of all, the latest first; damaged ones are left as they are."""
    found = ((file, _read(file)) for file in _left(path))
    return sorted(((file, one) for file, one in found if one is not None), key=lambda one: one[0].name, reverse=True)


def are_left(paths: Iterable[Path]) -> set[Path]:
    """Those of some projects that have journals which were left behind; by their names, none is read."""
    named = {file.name.removesuffix(JOURNAL).rpartition(" ")[2] for file in _left(None)}
    return {path for path in paths if _hash(path.resolve()) in named}


def _left(path: Path | None) -> list[Path]:
    end = f"{_hash(path.resolve())}{JOURNAL}" if path is not None else JOURNAL
    files = _files(end)
    living = {name for name, _ in _living()} if files else set()
    return [file for file in files if file.name.removesuffix(JOURNAL) not in living]


def rescued() -> int:
    """Journals whose project is gone become drafts, which the first page shows; returns how many."""
    count = 0
    for file, unsaved in left_behind():
        path = Path(unsaved.path)
        if path.exists():
            continue
        project = unsaved.opened()
        elsewhere = {one.path: path.parent / one.path for one in project.traces}
        try:
            keep_draft(new_draft(project.title), Draft(project, elsewhere))
        except AvrinError as error:
            log.warning("%s stays a journal: %s", file.name, error)
            continue
        file.unlink(missing_ok=True)
        count += 1
    return count


@contextmanager
def saving(path: Path) -> Iterator[None]:
    """Meanwhile no other window of this machine writes that project. Raises AvrinError where one goes on doing so."""
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
    """Names of living windows with the files they have open. What dead ones left is taken away."""
    found = []
    for file in _files(ALIVE):
        name = file.name.removesuffix(ALIVE)
        try:
            handle = os.open(file, os.O_RDWR)
        except OSError:
            continue
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:  # somebody holds it
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
    """A journal, None where it is none that can be used; it stays where it lies."""
    try:
        sealed = msgspec.json.decode(read_whole(file, MOST_BYTES), type=_Sealed)
        if _check(sealed.content.encode()) != sealed.check:
            raise AvrinError("is not whole")
        version: Mapping[str, object] = msgspec.json.decode(sealed.content, type=dict[str, object])
        if version.get("version") != VERSION:
            raise AvrinError("was written by another version")
        unsaved = msgspec.json.decode(sealed.content, type=Unsaved)
        unsaved.opened()
    except FileNotFoundError:
        return None
    except (OSError, AvrinError, msgspec.MsgspecError) as error:
        log.warning("the journal %s cannot be used and is left as it is: %s", file.name, error)
        return None
    return unsaved
