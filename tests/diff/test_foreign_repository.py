"""A project's repository is not trusted: nothing that it configures is run, and its objects are still read."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

from avrin.cli import main
from avrin.diff.revisions import project_at, revisions
from avrin.errors import AvrinError
from avrin.project.project import Project
from avrin.storage.files import save

AUTHOR = {"GIT_AUTHOR_NAME": "a", "GIT_AUTHOR_EMAIL": "a@b", "GIT_COMMITTER_NAME": "a", "GIT_COMMITTER_EMAIL": "a@b"}


def git(folder: Path, *words: str) -> None:
    subprocess.run(["git", "-C", str(folder), *words], check=True, env={**os.environ, **AUTHOR}, capture_output=True)  # noqa: S607


@pytest.fixture
def file(tmp_path: Path) -> Path:
    """A project with two commits."""
    folder = tmp_path / "game"
    folder.mkdir()
    git(folder, "init", "-q", "-b", "main")
    for title in ("first", "second"):
        save(Project(title=title), folder / "g.avrin")
        git(folder, "add", "-A")
        git(folder, "commit", "-q", "-m", title)
    return folder / "g.avrin"


def read(file: Path) -> None:
    """All that is ever read of a repository."""
    assert project_at(f"{file}@HEAD~1")[0].title == "first"
    assert project_at(f"{file}@main")[0].title == "second"
    assert [one.subject for one in revisions(file)] == ["second", "first"]


def config(*pairs: tuple[str, str]) -> Callable[[Path, str], None]:
    def lay(folder: Path, trap: str) -> None:
        for key, value in pairs:
            git(folder, "config", key, value.replace("TRAP", trap))

    return lay


def attributes(folder: Path, trap: str) -> None:
    git(folder, "config", "diff.x.textconv", trap)
    git(folder, "config", "filter.x.smudge", trap)
    for path in (folder / ".gitattributes", folder / ".git/info/attributes"):
        path.parent.mkdir(exist_ok=True)
        path.write_text("*.avrin diff=x filter=x\n")


def hooks(folder: Path, trap: str) -> None:
    for name in ("post-checkout", "reference-transaction", "post-index-change", "fsmonitor-watchman"):
        path = folder / ".git/hooks" / name
        path.parent.mkdir(exist_ok=True)
        path.write_text(f"#!/bin/sh\n{trap}\n")
        path.chmod(0o755)


def promised(folder: Path, trap: str) -> None:
    """A partial clone fetches what is not there from where it was cloned, by a program that is configured."""
    for key, value in (
        ("extensions.partialClone", "origin"), ("remote.origin.promisor", "true"), ("remote.origin.url", f"ext::{trap}"),
        ("remote.origin.uploadpack", trap), ("protocol.ext.allow", "always"), ("core.sshCommand", trap),
    ):  # fmt: skip
        git(folder, "config", key, value)


def included(folder: Path, trap: str) -> None:
    (folder / ".git/more").write_text(f"[core]\n\tpager = {trap}\n\tfsmonitor = {trap}\n[gpg]\n\tprogram = {trap}\n")
    git(folder, "config", "include.path", "more")


TRAPS: dict[str, Callable[[Path, str], None]] = {
    "gpg.program": config(("log.showSignature", "true"), ("gpg.program", "TRAP"), ("gpg.ssh.program", "TRAP")),
    "core.fsmonitor": config(("core.fsmonitor", "TRAP")),
    "pagers": config(("core.pager", "TRAP"), ("pager.log", "TRAP"), ("pager.cat-file", "TRAP"), ("pager.show", "TRAP")),
    "aliases": config(("alias.log", "!TRAP"), ("alias.cat-file", "!TRAP"), ("alias.rev-parse", "!TRAP")),
    "external diff": config(("diff.external", "TRAP"), ("core.editor", "TRAP"), ("core.askPass", "TRAP")),
    "alternate refs": config(("core.alternateRefsCommand", "TRAP"), ("uploadpack.packObjectsHook", "TRAP")),
    "hooks path": config(("core.hooksPath", "TRAP")),
    "textconv": attributes, "hooks": hooks, "uploadpack": promised, "include": included,
}  # fmt: skip


@pytest.mark.parametrize("trap", TRAPS)
def test_nothing_that_it_configures_is_run(file: Path, tmp_path: Path, trap: str) -> None:
    sprung = tmp_path / "sprung"
    program = tmp_path / "trap.sh"
    program.write_text(f"#!/bin/sh\ntouch {sprung}\ncat\n")
    program.chmod(0o755)
    TRAPS[trap](file.parent, str(program))
    read(file)
    assert not sprung.exists()


def test_it_leads_nowhere_by_the_callers_environment(
    file: Path, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    for name in ("GIT_DIR", "GIT_WORK_TREE", "GIT_OBJECT_DIRECTORY", "GIT_CONFIG"):
        monkeypatch.setenv(name, str(tmp_path / "nowhere"))
    monkeypatch.setenv("GIT_EXTERNAL_DIFF", "false")
    read(file)


def test_packed_names_further_work_trees_and_folders_within_are_read(file: Path, tmp_path: Path) -> None:
    git(file.parent, "pack-refs", "--all")
    git(file.parent, "gc", "-q")
    read(file)
    git(file.parent, "worktree", "add", "-q", "--detach", str(tmp_path / "tree"), "HEAD")
    read_there = tmp_path / "tree/g.avrin"
    assert project_at(f"{read_there}@HEAD~1")[0].title == "first"
    inner = file.parent / "hud"
    inner.mkdir()
    save(Project(title="inner"), inner / "h.avrin")
    git(file.parent, "add", "-A")
    git(file.parent, "commit", "-q", "-m", "third")
    assert project_at(f"{inner / 'h.avrin'}@HEAD")[0].title == "inner"


@pytest.mark.parametrize(
    ("text", "why"),
    [("", "has no revision after the @"), ("-p", "'-p' is not a revision"), ("gone", "git cannot read it")],
)
def test_what_is_no_revision_is_one_line(file: Path, text: str, why: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["diff", f"{file}@{text}", str(file)]) == 2
    told = capsys.readouterr().err
    assert why in told
    assert told.count("\n") == 1


def test_a_folder_without_a_repository_is_reported(tmp_path: Path) -> None:
    save(Project(title="alone"), tmp_path / "g.avrin")
    with pytest.raises(AvrinError, match="git cannot read it"):
        project_at(f"{tmp_path / 'g.avrin'}@HEAD")
