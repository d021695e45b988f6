"""A project as it travels to who works on it: its file, and the art beside it where that is not at hand there."""

from __future__ import annotations

import atexit
import functools
import hashlib
import shutil
import tempfile
from pathlib import Path

from msgspec import Struct

from avrin import __version__
from avrin.model import AvrinError, Project, dumps, inside, loads
from avrin.widgets import bind, files_used

__all__ = ["Bundle", "bundled", "program", "unpacked"]

MOST = 512 << 20  # bytes of art that is sent


class Bundle(Struct, frozen=True):
    """project: its file. folder: where its art lies; "" where that is in `art`, by its name in the project's folder.

    digest: of all of it.
    """

    project: bytes
    folder: str
    art: dict[str, bytes]
    digest: str


def bundled(project: Project, folder: Path, *, sent: bool) -> Bundle:
    """A project with its art. sent: whether that goes along, for who cannot look into its folder.

    Raises AvrinError where there is too much of it.
    """
    told = dumps(project).encode()
    digest, art, left = hashlib.blake2b(told, digest_size=16), dict[str, bytes](), MOST
    for name in _names(project, folder):
        path = folder / name
        if not path.is_file():
            continue  # told by the checks
        with path.open("rb") as file:
            digest.update(f"\n{name}\n".encode())
            digest.update(hashlib.file_digest(file, "blake2b").digest())
        if sent:
            left -= path.stat().st_size
            if left < 0:
                raise AvrinError(
                    f"the project's pictures and films are more than {MOST >> 20} MB, too much to be sent",
                    advice="Sweep on this machine, or without its films",
                )
            art[name] = path.read_bytes()
    return Bundle(told, "" if sent else str(folder.absolute()), art, digest.hexdigest())


def _names(project: Project, folder: Path) -> list[str]:
    """All that its widgets and plates are drawn with, and its catalogues; each inside the folder, and once."""
    named = [*files_used(bind(project, folder=folder)), *(f"texts/{one.code}.po" for one in project.languages)]
    found = dict[str, None]()
    for name in named:
        try:
            inside(folder, name)
        except AvrinError:
            continue  # told by the checks
        found[name] = None
    return list(found)


_opened: dict[str, tuple[Project, Path]] = {}  # by digest, in the process that works on it


def unpacked(bundle: Bundle) -> tuple[Project, Path]:
    """The project, and the folder in which its art lies now: the same for all work of one process."""
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
    """The version of this program, and a digest of its own files: the same wherever the same is installed."""
    digest, here = hashlib.blake2b(digest_size=8), Path(__file__).parents[1]
    for file in sorted(here.glob("**/*.py")):
        if "app" not in file.relative_to(here).parts[:1]:  # the window works nothing out
            digest.update(file.relative_to(here).as_posix().encode() + file.read_bytes())
    return __version__, digest.hexdigest()
