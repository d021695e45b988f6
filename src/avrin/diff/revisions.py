"""A project at a revision of the git repository that contains its file.

Git reads its objects through an empty repository of our own: a project may come from any source, and git would otherwise
obey the configuration, attributes and hooks of its repository.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from avrin.errors import AvrinError
from avrin.project.project import Project
from avrin.storage.files import load, loads
from avrin.storage.reading import read_whole

__all__ = ["Revision", "project_at", "revisions"]

WAITS = 30  # seconds to wait for git
MAX_COMMITS = 200  # commits listed
MOST_BYTES = 1 << 20  # read from a repository's own files


def project_at(location: str) -> tuple[Project, Path]:
    """Return the project of a file, or of `FILE@REVISION`, and the file. An existing file named with @ takes precedence.

    Raises AvrinError if there is none.
    """
    name, sign, revision = location.rpartition("@")
    path = Path(location)
    if path.exists() or not sign:
        return load(path)[0], path
    file = Path(name)
    if not revision or revision.startswith("-"):
        raise AvrinError(
            f"'{revision}' is not a revision" if revision else "has no revision after the @", place=(location,),
            advice="Write FILE@HEAD~1, FILE@main or FILE@a1b2c3d",
        )  # fmt: skip
    data = _git(file, lambda inside: ("cat-file", "blob", f"{revision}:{inside}"))
    try:
        return loads(data)[0], file
    except AvrinError as error:
        raise error.within(location) from None


class Revision(Struct, frozen=True):
    """A commit that changed a file. name: its full hash. when: seconds since 1970. subject: the first line of its message."""

    name: str
    when: float
    subject: str


def revisions(file: Path) -> list[Revision]:
    """Return commits that changed a file, newest first, at most `MOST`. Raises AvrinError if git knows none."""
    told = _git(file, lambda inside: ("log", f"-{MAX_COMMITS}", "--format=%H%x00%at%x00%s", "HEAD", "--", inside))
    lines = [line.split("\0") for line in told.decode("utf-8", "replace").splitlines() if line]
    if not lines:
        raise AvrinError(
            "the repository has no commits", place=(file.name,), advice="Commit the project, or compare with a file"
        )
    return [Revision(name, float(when), said) for name, when, said in lines]


def _git(file: Path, words: Callable[[str], tuple[str, ...]]) -> bytes:
    """Run a git command on a file and return its output. words: of the command, given the file's path in the repository.

    Raises AvrinError with git's own reason.
    """
    git = shutil.which("git")
    if git is None:
        raise AvrinError("git is not installed, and FILE@REVISION is read through it", advice="Install git")
    top, own = _repository(file)
    inside = file.absolute().resolve().relative_to(top.resolve()).as_posix()
    with tempfile.TemporaryDirectory(prefix="avrin-git-") as made:
        borrowed = Path(made)
        try:
            _borrow(own, borrowed)
            # Only variables that locate programs and files: GIT_DIR and similar would redirect git.
            environment = {key: value for key, value in os.environ.items() if not key.startswith("GIT_")}
            told = subprocess.run(  # noqa: S603  (no option is a revision)
                [git, f"--git-dir={borrowed}", "--no-pager", "--literal-pathspecs", *words(inside)], capture_output=True,
                timeout=WAITS, check=False, env={**environment, **QUIET}, stdin=subprocess.DEVNULL, cwd=borrowed,
            )  # fmt: skip
        except (OSError, subprocess.TimeoutExpired) as error:
            raise AvrinError(f"git does not answer ({error})", place=(str(file),)) from None
    if told.returncode:
        lines = told.stderr.decode("utf-8", "replace").strip().splitlines()
        why = lines[0].removeprefix("fatal: ") if lines else "no message"
        raise AvrinError(f"git cannot read it: {why}", place=(str(file),), advice="Check the file and the revision")
    return told.stdout


QUIET = {
    "GIT_CONFIG_NOSYSTEM": "1", "GIT_CONFIG_GLOBAL": os.devnull, "GIT_ATTR_NOSYSTEM": "1", "GIT_TERMINAL_PROMPT": "0",
    "GIT_OPTIONAL_LOCKS": "0", "GIT_NO_REPLACE_OBJECTS": "1", "GIT_NO_LAZY_FETCH": "1",
}  # fmt: skip


def _repository(file: Path) -> tuple[Path, Path]:
    """Return a file's work tree and its repository's own folder. Raises AvrinError."""
    folder = file.absolute().parent
    if not folder.is_dir():
        raise AvrinError("the folder does not exist", place=(str(folder),), advice="Check the path")
    for top in (folder.resolve(), *folder.resolve().parents):
        own = top / ".git"
        if own.is_file():  # a linked work tree, or a submodule
            said = read_whole(own, MOST_BYTES).decode("utf-8", "replace").strip()
            own = top / said.removeprefix("gitdir:").strip()
        if (own / "HEAD").is_file():
            return top, own
    raise AvrinError(
        "git cannot read it: not a git repository", place=(str(file),), advice="Check the file and the revision"
    )


def _borrow(own: Path, borrowed: Path) -> None:
    """Initialise a repository in an empty folder with the objects and refs of another one, and nothing else of it."""
    common = own
    if (own / "commondir").is_file():
        common = own / read_whole(own / "commondir", MOST_BYTES).decode("utf-8", "replace").strip()
    said = read_whole(common / "config", MOST_BYTES) if (common / "config").is_file() else b""
    sha256 = re.search(rb"^\s*objectformat\s*=\s*sha256", said, re.IGNORECASE | re.MULTILINE) is not None
    format_ = "\trepositoryformatversion = 1\n[extensions]\n\tobjectformat = sha256\n" if sha256 else ""
    (borrowed / "config").write_text(f"[core]\n\tbare = true\n{format_}", encoding="utf-8")
    (borrowed / "objects/info").mkdir(parents=True)
    alternates = str((common / "objects").resolve())
    (borrowed / "objects/info/alternates").write_text(f"{alternates}\n", encoding="utf-8", errors="surrogateescape")
    (borrowed / "HEAD").write_bytes(read_whole(own / "HEAD", MOST_BYTES))
    (borrowed / "refs").symlink_to((common / "refs").resolve())
    for name in ("packed-refs", "shallow"):
        if (common / name).is_file():
            (borrowed / name).symlink_to((common / name).resolve())
