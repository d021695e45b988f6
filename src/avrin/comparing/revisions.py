"""A project as it was at a revision of the git repository that its file is in, read through git itself."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

from msgspec import Struct

from avrin.model import AvrinError, Project, load, loads

__all__ = ["Revision", "project_at", "revisions"]

WAITS = 30  # seconds for git to answer
MOST = 200  # commits that are listed


def project_at(said: str) -> tuple[Project, Path]:
    """The project of a file, or of `FILE@REVISION`, and the file. A file whose own name has that sign goes first.

    Raises AvrinError where there is none.
    """
    name, sign, revision = said.rpartition("@")
    path = Path(said)
    if path.exists() or not sign:
        return load(path)[0], path
    file = Path(name)
    top = _git(file, "rev-parse", "--show-toplevel").decode().strip()
    inside = file.absolute().resolve().relative_to(Path(top).resolve()).as_posix()
    if revision.startswith("-"):
        raise AvrinError(
            f"'{revision}' is no revision", place=(said,), advice="Write FILE@HEAD~1, FILE@main or FILE@a1b2c3d"
        )
    data = _git(file, "show", f"{revision}:{inside}")
    try:
        return loads(data)[0], file
    except AvrinError as error:
        raise error.within(said) from None


class Revision(Struct, frozen=True):
    """A commit that touched a file. name: its whole hash. when: in seconds since 1970. said: the first line of its message."""

    name: str
    when: float
    said: str


def revisions(file: Path) -> list[Revision]:
    """The commits that touched a file, the newest first, at most `MOST`. Raises AvrinError where git knows none of it."""
    told = _git(file, "log", f"-{MOST}", "--format=%H%x00%at%x00%s", "--", str(file.absolute()))
    lines = [line.split("\0") for line in told.decode("utf-8", "replace").splitlines() if line]
    if not lines:
        raise AvrinError(
            "git knows no commit of it", place=(file.name,), advice="Commit the project, or compare with a file"
        )
    return [Revision(name, float(when), said) for name, when, said in lines]


def _git(file: Path, *words: str) -> bytes:
    """What git says beside a file. Raises AvrinError with its own reason."""
    folder = file.absolute().parent
    if not folder.is_dir():
        raise AvrinError("there is no such folder", place=(str(folder),), advice="Check the path")
    git = shutil.which("git")
    if git is None:
        raise AvrinError("git is not installed, and FILE@REVISION is read through it", advice="Install git")
    asked = [git, "-C", str(folder), *words]
    try:
        told = subprocess.run(asked, capture_output=True, timeout=WAITS, check=False)  # noqa: S603  (no option is a revision)
    except (OSError, subprocess.TimeoutExpired) as error:
        raise AvrinError(f"git does not answer ({error})", place=(str(file),)) from None
    if told.returncode:
        lines = told.stderr.decode("utf-8", "replace").strip().splitlines()
        why = lines[0].removeprefix("fatal: ") if lines else "it says nothing"
        raise AvrinError(f"git cannot read it: {why}", place=(str(file),), advice="Check the file and the revision")
    return told.stdout
