"""Journals of unsaved edits: complete or absent, distinct from those of open windows, whatever happens to the project."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import msgspec
import pytest

from avrin.errors import AvrinError
from avrin.project.project import Project, Recording
from avrin.storage.drafts import drafts, load_draft
from avrin.storage.files import save
from avrin.storage.journal import Journal, content_of, left_behind, rescued, saving


@pytest.fixture
def project(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("AVRIN_STATE", str(tmp_path / "state"))
    (tmp_path / "game").mkdir()
    save(Project(title="as saved"), tmp_path / "game" / "p.avrin")
    return tmp_path / "game" / "p.avrin"


EDITED = Project(title="edited")


def abandoned(path: Path, title: str = "edited") -> None:
    """What a program that was killed left."""
    script = (
        "import os, sys; from pathlib import Path; from avrin.storage.journal import Journal, content_of\n"
        "from avrin.project.project import Project\n"
        "path = Path(sys.argv[1]); journal = Journal(); journal.begin(path)\n"
        "journal.keep(Project(title=sys.argv[2]), content_of(path), 'a.csv'); os._exit(9)"
    )
    subprocess.run([sys.executable, "-c", script, str(path), title], check=False)


def test_what_a_killed_program_had_not_saved_is_found_whatever_happened_to_the_file(project: Path) -> None:
    base = content_of(project)
    abandoned(project)
    happenings: list[Callable[[], object]] = [
        lambda: None, project.touch, lambda: save(Project(title="other"), project), project.unlink,
    ]  # fmt: skip
    for happens in happenings:
        happens()
        ((_, unsaved),) = left_behind(project)
        assert (unsaved.opened(), unsaved.base, unsaved.recording) == (EDITED, base, "a.csv")


def test_a_living_windows_journal_is_not_left_behind_and_is_forgotten_when_saved(project: Path) -> None:
    journal = Journal()
    journal.begin(project)
    journal.keep(EDITED, "", "")
    assert left_behind() == []
    journal.close()
    assert [unsaved.opened() for _, unsaved in left_behind()] == [EDITED]
    again = Journal()
    again.begin(project)
    again.keep(EDITED, "", "")
    again.forget()
    again.close()
    assert len(left_behind()) == 1


def test_ten_windows_know_of_each_other_and_two_projects_of_one_name_do_not(project: Path, tmp_path: Path) -> None:
    windows = [Journal() for _ in range(10)]
    for one in windows:
        one.begin(project)
    assert [len(one.others()) for one in windows] == [9] * 10
    other = Journal()
    (tmp_path / "other").mkdir()
    save(Project(), tmp_path / "other" / "p.avrin")
    other.begin(tmp_path / "other" / "p.avrin")
    assert other.others() == []
    link = tmp_path / "link.avrin"
    link.symlink_to(project)
    other.begin(link)
    assert len(other.others()) == 10, "through a link it is the same project"
    for one in windows:
        one.close()
    assert other.others() == []


def test_taking_over_tells_the_other_and_brings_what_it_had_not_saved(project: Path) -> None:
    first, second = Journal(), Journal()
    first.begin(project)
    first.keep(EDITED, content_of(project), "a.csv")
    second.begin(project)
    assert not first.taken
    unsaved = second.take_over()
    assert unsaved is not None
    assert unsaved.opened() == EDITED
    assert (first.taken, first.taken, second.taken) == (True, False, False)


@pytest.mark.parametrize("spoilt", [b"", b"{", b'{"check": "x", "content": "{}"}', b"\xff" * 100, b"half"])
def test_a_damaged_journal_is_passed_over_and_kept(project: Path, spoilt: bytes) -> None:
    abandoned(project)
    abandoned(project, "later")
    (file, _), (other, _) = left_behind(project)
    whole = file.read_bytes()
    file.write_bytes(whole[: len(whole) // 2] if spoilt == b"half" else spoilt)
    assert [found for found, _ in left_behind(project)] == [other]
    assert file.exists()


def test_a_journal_of_a_newer_version_is_left_for_it(project: Path) -> None:
    from avrin.storage import journal

    abandoned(project)
    ((file, unsaved),) = left_behind(project)
    content = msgspec.json.encode(msgspec.structs.replace(unsaved, version=2)).decode()
    file.write_bytes(msgspec.json.encode({"check": journal._check(content.encode()), "content": content}))
    assert left_behind(project) == []
    assert file.exists()


def test_a_state_folder_that_cannot_be_written_is_said_and_stops_nothing(
    project: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "no").write_text("")
    monkeypatch.setenv("AVRIN_STATE", str(tmp_path / "no"))
    journal = Journal()
    journal.begin(project)
    assert journal.others() == []
    with pytest.raises(AvrinError):
        journal.keep(EDITED, "", "")
    with saving(project):
        pass
    journal.close()


def test_two_that_save_at_once_go_one_after_the_other(project: Path) -> None:
    script = (
        "import sys, time; from pathlib import Path; from avrin.storage.journal import saving\n"
        "with saving(Path(sys.argv[1])):\n    print('in', flush=True); time.sleep(0.5)\n    print('out', flush=True)"
    )
    with subprocess.Popen([sys.executable, "-c", script, str(project)], stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout is not None
        assert other.stdout.readline() == "in\n"
        with saving(project):
            assert other.stdout.readline() == "out\n"


def test_a_journal_whose_project_is_gone_becomes_a_draft_that_knows_its_recordings(project: Path) -> None:
    save(Project(traces=(Recording(path="traces/a.csv"),)), project)
    script = (
        "import os, sys; from pathlib import Path; from avrin.storage.journal import Journal\n"
        "from avrin.storage.files import load\n"
        "path = Path(sys.argv[1]); journal = Journal(); journal.begin(path)\n"
        "journal.keep(load(path)[0], '', ''); os._exit(9)"
    )
    subprocess.run([sys.executable, "-c", script, str(project)], check=False)
    assert rescued() == 0
    project.unlink()
    assert (rescued(), rescued()) == (1, 0)
    (draft,) = drafts()
    assert load_draft(draft).elsewhere == {"traces/a.csv": project.parent / "traces" / "a.csv"}
    assert left_behind() == []
