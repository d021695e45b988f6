"""A project as sent to workers: its file, with its assets if the worker cannot read them."""

from __future__ import annotations

import atexit
import functools
import hashlib
import shutil
import tempfile
from pathlib import Path

from msgspec import Struct

from avrin import __version__
from avrin.binding.binding import bind
from avrin.binding.used_files import files_used
from avrin.errors import AvrinError
from avrin.project.project import Project
from avrin.storage.files import dumps, inside, loads

__all__ = ["Bundle", "bundled", "program", "unpacked"]

MAX_BYTES = 512 << 20  # bytes of assets that are sent


class Bundle(Struct, frozen=True):
    """project: its file. folder: of its assets; "" if they are in `art`, by name relative to the project's folder.

    digest: of everything.
    """

    project: bytes
    folder: str
    art: dict[str, bytes]
    digest: str


def bundled(project: Project, folder: Path, *, sent: bool) -> Bundle:
    """Return a project with its assets. sent: whether to include them, for workers that cannot read its folder.

    Raises AvrinError if they are too large.
    """
    told = dumps(project).encode()
    digest, art, left = hashlib.blake2b(told, digest_size=16), dict[str, bytes](), MAX_BYTES
    for name in _names(project, folder):
        path = folder / name
        if not path.is_file():
            continue  # reported by the checks
        with path.open("rb") as file:
            digest.update(f"\n{name}\n".encode())
            digest.update(hashlib.file_digest(file, "blake2b").digest())
        if sent:
            left -= path.stat().st_size
            if left < 0:
                raise AvrinError(
                    f"the project's pictures and films are more than {MAX_BYTES >> 20} MB, too much to send",
                    advice="Sweep on this machine, or without its films",
                )
            art[name] = path.read_bytes()
    return Bundle(told, "" if sent else str(folder.absolute()), art, digest.hexdigest())


def _names(project: Project, folder: Path) -> list[str]:
    """Return the files its widgets and plates use, and its catalogues; inside the folder, without duplicates."""
    named = [*files_used(bind(project, folder=folder)), *(f"texts/{one.code}.po" for one in project.languages)]
    found = dict[str, None]()
    for name in named:
        try:
            inside(folder, name)
        except AvrinError:
            continue  # reported by the checks
        found[name] = None
    return list(found)


_opened: dict[str, tuple[Project, Path]] = {}  # by digest, in the worker's process


def unpacked(bundle: Bundle) -> tuple[Project, Path]:
    """Return the project and the folder that now holds its assets, shared by all work of one process."""
    if bundle.digest not in _opened:
        folder = Path(bundle.folder)
        if not bundle.folder:
            folder = Path(tempfile.mkdtemp(prefix="avrin-"))
            atexit.register(shutil.rmtree, folder, ignore_errors=True)
            for name, data in bundle.art.items():
                (folder / name).parent.mkdir(parents=True, exist_ok=True)
                (folder / name).write_bytes(data)
        _opened[bundle.digest] = loads(bundle.project)[0], folder
    return _opened[bundle.digest]


@functools.cache
def program() -> tuple[str, str]:
    """Return this program's version and a digest of its own files: equal for equal installations."""
    digest, here = hashlib.blake2b(digest_size=8), Path(__file__).parents[1]
    for file in sorted(here.glob("**/*.py")):
        if "app" not in file.relative_to(here).parts[:1]:  # the window does no work on recordings
            digest.update(file.relative_to(here).as_posix().encode() + file.read_bytes())
    return __version__, digest.hexdigest()
