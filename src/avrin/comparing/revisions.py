"""A project as it was at a revision of the git repository that its file is in, read through git itself."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

from avrin.model import AvrinError, Project, load, loads

__all__ = ["project_at"]

WAITS = 30  # seconds for git to answer


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
