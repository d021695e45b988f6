"""What people made is kept: the three conversations, by mouse and keys in the real window."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot
from shiboken6 import isValid

from avrin.app import main
from avrin.app.main import make_window
from avrin.app.services.workspace import Workspace
from avrin.app.window.window import Window
from avrin.editor.edits import edit, mark_saved, set_widget
from avrin.storage.drafts import drafts
from avrin.storage.files import dumps, load
from avrin.storage.journal import Journal, content_of, left_behind
from gestures import CTRL, Hand, Key
from window_fixtures import handle_deletions, qapp, window  # noqa: F401


@pytest.fixture
def hand(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Hand]:
    monkeypatch.setenv("AVRIN_STATE", str(tmp_path / "state"))
    assert window.editor.now.path is not None
    window.open(window.editor.now.path)
    yield Hand(window)
    if isValid(window):
        window.workspace.files.journaling.close()


def edited(hand: Hand, caption: str) -> None:
    """By hand, in the window."""
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    hand.paste_into(hand.window.desk.card.rows[2].edit, caption)


def caption(hand: Hand) -> str:
    told: str = hand.window.editor.now.project.widget("hull_bar").inputs["caption"]
    return told


def outside(hand: Hand, **changes: Any) -> None:
    """Another program writes the file."""
    file = json.loads(hand.folder.read_text("utf-8"))
    hand.folder.write_text(json.dumps({**file, **changes}), encoding="utf-8")
    hand.window.workspace.files.journaling.look()
    QApplication.processEvents()


def asked(hand: Hand) -> list[str]:
    lines = hand.window.notices.lines.values()
    return [label.text() for line in lines for label in line.findChildren(QLabel)]


def saved(hand: Hand) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(hand.folder.read_text("utf-8"))
    return found


# -- changed outside ----------------------------------------------------------------------------------------------------


def test_what_changed_outside_is_shown_at_once_where_nothing_was_edited(hand: Hand) -> None:
    outside(hand, title="Theirs")
    assert hand.window.editor.now.project.title == "Theirs"
    assert "was changed by another program: title" in hand.window.message.text()
    assert not hand.window.editor.now.history.edited
    hand.key(Key.Key_Z, CTRL)
    assert hand.window.editor.now.project.title == "Brinehook"


def test_a_save_writes_over_nothing_that_was_not_seen(hand: Hand) -> None:
    edited(hand, "MINE")
    file = saved(hand)
    hand.folder.write_text(json.dumps({**file, "title": "Theirs"}), encoding="utf-8")
    hand.key(Key.Key_S, CTRL)  # before the next look at the file
    assert saved(hand)["title"] == "Theirs"
    assert "changed by another program" in hand.window.message.text()
    assert asked(hand) == [
        "brinehook.avrin was changed by another program and differs from your edits: 1 widget changed (hull_bar), title"
    ]
    hand.pressed("keep mine")
    assert asked(hand) == []
    assert caption(hand) == "MINE"
    hand.key(Key.Key_S, CTRL)
    assert saved(hand)["title"] == "Brinehook"
    assert caption(hand) == "MINE"


def test_theirs_is_taken_and_undo_brings_mine_back(hand: Hand) -> None:
    edited(hand, "MINE")
    outside(hand, title="Theirs")
    hand.pressed("take theirs")
    assert (hand.window.editor.now.project.title, caption(hand)) == ("Theirs", "HULL")
    assert not hand.window.editor.now.history.edited
    hand.key(Key.Key_Z, CTRL)
    assert (hand.window.editor.now.project.title, caption(hand)) == ("Brinehook", "MINE")


def test_a_file_that_was_spoilt_or_is_gone_loses_nothing(hand: Hand) -> None:
    edited(hand, "MINE")
    hand.folder.write_text('{"format": "avr', encoding="utf-8")
    hand.window.workspace.files.journaling.look()
    assert "cannot be read now" in asked(hand)[0]
    assert caption(hand) == "MINE"
    hand.folder.unlink()
    hand.window.workspace.files.journaling.look()
    assert "was deleted" in asked(hand)[0]
    hand.key(Key.Key_S, CTRL)
    assert saved(hand)["title"] == "Brinehook"
    assert asked(hand) == []


def test_a_file_that_is_only_touched_or_written_alike_asks_nothing(hand: Hand) -> None:
    edited(hand, "MINE")
    hand.folder.touch()
    hand.window.workspace.files.journaling.look()
    hand.folder.write_bytes(hand.folder.read_bytes())
    hand.window.workspace.files.journaling.look()
    assert asked(hand) == []


# -- not saved ----------------------------------------------------------------------------------------------------------

CRASHED = (
    "import os, sys; from pathlib import Path; from msgspec.structs import replace\n"
    "from avrin.storage.journal import Journal, content_of; from avrin.storage.files import load\n"
    "path = Path(sys.argv[1]); project, _ = load(path); journal = Journal(); journal.begin(path)\n"
    "journal.keep(replace(project, title=sys.argv[2]), content_of(path), 'traces/calm-dive.csv'); os._exit(9)"
)


def crash(path: Path, title: str) -> None:
    """A window on the project was killed, with edits that were not saved."""
    subprocess.run([sys.executable, "-c", CRASHED, str(path), title], check=False)


def test_edits_a_killed_window_had_come_back_with_the_recording_it_showed(hand: Hand) -> None:
    crash(hand.folder, "Not saved")
    hand.window.open(hand.folder)
    editor = hand.window.editor
    hand.window.workspace.wait()
    assert (editor.now.project.title, editor.now.history.edited) == ("Not saved", True)
    assert editor.now.trace_name == "traces/calm-dive.csv"
    assert len(left_behind()) == 0, "they are in the window's own journal now"
    hand.window.workspace.files.journaling.journal.close()
    assert [one.opened().title for _, one in left_behind(hand.folder)] == ["Not saved"]
    hand.window.workspace.files.journaling.begin(hand.folder, content_of(hand.folder))


@pytest.mark.parametrize("answer", ["restore them", "discard them"])
def test_edits_on_another_state_of_the_file_are_offered(hand: Hand, answer: str) -> None:
    crash(hand.folder, "Not saved")
    project, _ = load(hand.folder)
    hand.folder.write_text(dumps(project).replace('"HULL"', '"BOAT"'), encoding="utf-8")
    hand.window.open(hand.folder)
    assert (hand.window.editor.now.project.title, caption(hand)) == ("Brinehook", "BOAT")
    (line,) = asked(hand)
    assert "were not saved, and the file has changed since: 1 widget changed (hull_bar), title" in line
    hand.pressed(answer)
    brought = answer.startswith("restore")
    assert hand.window.editor.now.project.title == ("Not saved" if brought else "Brinehook")
    assert left_behind(hand.folder) == []
    assert asked(hand) == []


def test_what_several_windows_left_is_offered_one_after_the_other(hand: Hand) -> None:
    for title in ("First", "Second", "Third"):
        crash(hand.folder, title)
    hand.window.open(hand.folder)
    assert hand.window.editor.now.project.title == "Third", "the latest comes back by itself"
    told = []
    for _ in range(2):
        told += asked(hand)
        hand.pressed("discard them")
    assert [line.partition(" were")[2] for line in told] == [" not saved: title", " not saved: title"]
    assert asked(hand) == []
    assert left_behind(hand.folder) == []


def test_a_draft_that_two_windows_open_becomes_two(hand: Hand, qtbot: QtBot) -> None:
    files = hand.window.workspace.files
    files.begin_empty()
    hand.window.editor.do(edit, replace(hand.window.editor.now.project, title="Begun", placeholder="?"), "edit")
    files.keep_unsaved()
    (draft,) = drafts()
    files.open_draft(draft)
    assert files.draft == draft
    other = Workspace()
    other.files.open_draft(draft)
    assert other.files.draft not in (draft, None)
    assert other.editor.now.project.title == "Begun"
    other.close()
    assert len(drafts()) == 2
    qtbot.wait(1)
    files.forget_unsaved()


def full(*_: object, **__: object) -> None:
    raise OSError(28, "No space left on device")


def test_a_disk_without_room_is_said_until_there_is_some(
    hand: Hand, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    editor = hand.window.editor
    with monkeypatch.context() as patch:
        patch.setattr("avrin.storage.journal.atomic_write", full)
        editor.do(edit, replace(editor.now.project, title="Not kept"), "edit")
        hand.window.workspace.files.journaling.keep()
        qtbot.waitUntil(lambda: bool(asked(hand)), timeout=60_000)
        (line,) = asked(hand)
        assert line.startswith("Unsaved edits cannot be backed up (no space left on device)")
        hand.pressed("try again")
        hand.window.workspace.files.journaling.flush()
        assert asked(hand) == [line], "it stays for as long as that lasts"
        main._failed(hand.window, ValueError, ValueError("spoilt"), None)
        assert "your edits cannot be written" in hand.window.message.text()
    hand.pressed("try again")
    hand.window.workspace.files.journaling.flush()
    assert asked(hand) == []
    main._failed(hand.window, ValueError, ValueError("spoilt"), None)
    assert "your edits are safe" in hand.window.message.text()


def test_what_can_be_kept_nowhere_is_asked_about_before_it_is_lost(
    hand: Hand, monkeypatch: pytest.MonkeyPatch, demo: Path
) -> None:
    window = hand.window
    with monkeypatch.context() as patch:
        patch.setattr("avrin.storage.journal.atomic_write", full)
        edited(hand, "MINE")
        window.close()
        assert isValid(window)
        assert any(line.startswith("Closing now loses unsaved edits: ") for line in asked(hand))
        window.open(demo)
        assert window.editor.now.path == hand.folder, "the project stays open"
        assert any(line.startswith("Opening something else now loses unsaved edits") for line in asked(hand))
        hand.pressed("save")
        assert not window.editor.now.history.edited
    window.open(demo)
    assert window.editor.now.path == demo
    assert asked(hand) == []


def test_a_draft_that_cannot_be_kept_is_said_as_well(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    window = hand.window
    window.begin_empty()
    with monkeypatch.context() as patch:
        patch.setattr(sys.modules["avrin.storage.drafts"], "atomic_write", full)
        window.editor.do(edit, replace(window.editor.now.project, title="Begun", placeholder="?"), "edit")
        window.close()
        assert isValid(window)
        assert any("cannot be kept (no space left on device)" in line for line in asked(hand))
        hand.pressed("close anyway")
    handle_deletions()
    assert not isValid(window)


def test_saved_under_another_name_the_old_file_is_as_it_was_last_saved(hand: Hand, tmp_path: Path) -> None:
    before = hand.folder.read_bytes()
    edited(hand, "MINE")
    hand.window.workspace.files.journaling.keep()
    target = tmp_path / "other-dive.avrin"
    hand.window.workspace.files.save(target)
    assert hand.window.editor.now.path == target
    assert "other-dive.avrin" in hand.window.header.title._state
    assert hand.folder.read_bytes() == before
    hand.window.open(hand.folder)
    assert not hand.window.editor.now.history.edited, "no edits wait for the old file"
    assert "MINE" not in hand.window.editor.now.project.widget("hull_bar").inputs["caption"]


@pytest.mark.parametrize("there", ["a pipe", "more than is read"])
def test_what_cannot_be_read_is_not_written_over(hand: Hand, there: str) -> None:
    edited(hand, "MINE")
    hand.folder.unlink()
    if there == "a pipe":
        os.mkfifo(hand.folder)
    else:
        with hand.folder.open("wb") as file:
            file.truncate(65 * 2**20)
    status = hand.folder.stat()
    hand.window.workspace.files.journaling.look()
    assert "cannot be read now, and is not overwritten" in asked(hand)[0]
    hand.window.save()
    assert "cannot be overwritten" in hand.window.message.text()
    assert (hand.folder.stat().st_ino, hand.folder.stat().st_size) == (status.st_ino, status.st_size)


# -- open elsewhere -----------------------------------------------------------------------------------------------------


def test_a_second_window_is_reported_looks_and_takes_over(hand: Hand, qtbot: QtBot) -> None:
    edited(hand, "MINE")
    first = hand.window.workspace.files.journaling
    first.keep()
    first.flush()
    second = Hand.__new__(Hand)
    second.window = make_window(hand.folder)
    second.window.show()
    qtbot.addWidget(second.window)
    second.picture, second.folder = second.window.desk.hud, hand.folder
    QApplication.processEvents()
    assert asked(second) == ["This project is open in another window, too"]
    assert second.window.header.title._state == "open in another window too"
    second.window.editor.do(set_widget, second.window.editor.now.project.widgets[0], "nothing")
    second.window.activateWindow()
    QApplication.processEvents()
    second.key(Key.Key_S, CTRL)
    assert "is open in another window" in second.window.message.text()
    second.pressed("take it over")
    assert asked(second) == []
    assert second.window.editor.now.project.widget("hull_bar").inputs["caption"] == "MINE"
    first.look()
    assert asked(hand) == ["Another window has taken over this project; your edits here are safe"]
    hand.window.activateWindow()
    QApplication.processEvents()
    hand.key(Key.Key_S, CTRL)
    assert "is open in another window" in hand.window.message.text()
    second.window.activateWindow()
    QApplication.processEvents()
    second.key(Key.Key_S, CTRL)
    widgets = {one["id"]: one for one in saved(hand)["widgets"]}
    assert widgets["hull_bar"]["inputs"]["caption"] == "MINE"
    second.window.workspace.files.journaling.close()
    first.look()
    assert not first.read_only, "the other one has gone"
    second.window.editor.do(mark_saved)


def test_a_window_that_was_closed_holds_nothing(hand: Hand) -> None:
    journal = Journal()
    journal.begin(hand.folder)
    assert len(journal.others()) == 1
    hand.window.workspace.files.journaling.close()
    assert journal.others() == []
    journal.close()


# -- saving -------------------------------------------------------------------------------------------------------------


def test_a_read_only_project_is_said_and_nothing_is_lost(hand: Hand) -> None:
    before = hand.folder.read_bytes()
    hand.folder.chmod(0o444)
    edited(hand, "MINE")
    hand.key(Key.Key_S, CTRL)
    assert "read-only" in hand.window.message.text()
    assert hand.folder.read_bytes() == before
    assert hand.window.editor.now.history.edited
    hand.folder.chmod(0o644)


def test_a_save_goes_through_a_link(hand: Hand) -> None:
    link = hand.folder.with_name("link.avrin")
    link.symlink_to(hand.folder)
    hand.window.open(link)
    edited(hand, "MINE")
    hand.key(Key.Key_S, CTRL)
    assert link.is_symlink()
    assert load(hand.folder)[0].widget("hull_bar").inputs["caption"] == "MINE"


def test_saved_in_another_folder_all_that_it_draws_with_goes_along(hand: Hand, tmp_path: Path) -> None:
    art = hand.folder.parent / "art"
    art.mkdir()
    (art / "coin.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"/>')
    edited(hand, "HULL {@art/coin.svg}")
    other = tmp_path / "other"
    (other / "plates").mkdir(parents=True)
    (other / "plates" / "wreck.svg").write_text("something else")
    hand.window.workspace.files.save(other / "copy.avrin")
    assert sorted(path.name for path in (other / "plates").iterdir()) == ["shelf.svg", "trench.svg", "wreck.svg"]
    assert (other / "art" / "coin.svg").exists()
    assert (other / "traces" / "leaky-dive.csv").exists()
    assert (other / "plates" / "wreck.svg").read_text() == "something else"
    assert "Not copied: plates/wreck.svg" in hand.window.message.text()
