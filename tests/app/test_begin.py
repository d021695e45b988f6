"""From an empty home to a saved project with a HUD, by mouse and keys in the real window."""

from __future__ import annotations

import csv
import re
import shutil
import threading
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, QSettings, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu, QWidget
from pytestqt.qtbot import QtBot

from avrin.app.bind_desk.picture.hints import beginning_line
from avrin.app.controls.link import Link
from avrin.app.main import application, make_window
from avrin.app.services import checking, files, traces
from avrin.app.window import window as window_module
from avrin.app.window.window import SIZE, Window
from avrin.editor.edits import mark_saved, undo
from avrin.editor.selecting import select_widget
from avrin.storage.drafts import Draft, drafts, load_draft, save_draft
from avrin.storage.files import load
from avrin.storage.recent import recent_projects
from avrin.trace import copying, csv_cells, line_blocks, progress
from window_fixtures import close_window, messages, qapp  # noqa: F401

LEFT, PLAIN = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """An empty home: nothing was ever opened."""
    for name in ("STATE", "CACHE", "DATA"):
        monkeypatch.setenv(f"AVRIN_{name}", str(tmp_path / name.lower()))
    monkeypatch.setenv("HOME", str(tmp_path))
    monkeypatch.setattr(checking, "REST_MS", 2_000_000_000)
    return tmp_path


@pytest.fixture
def window(home: Path, qapp: object) -> Iterator[Window]:
    """A window on its first page."""
    del home, qapp
    QSettings().clear()
    made = make_window()
    made.resize(*SIZE)
    made.show()
    application().processEvents()
    yield made
    close_window(made)


def recorded(path: Path, frames: int = 600, **more: Sequence[object]) -> Path:
    """A made-up game: health that falls and is healed, three lives, a score, four players, and much besides."""
    at = np.arange(frames)
    life = 1 + at // 200
    columns: dict[str, Sequence[object]] = {
        "time": (at / 10).tolist(), "life_no": life.tolist(),
        "Player Health": np.where(at % 200 < 150, 100 - at % 200 // 2, 100).tolist(), "score": (at % 200 // 9 * 10).tolist(),
        "ammo": (30 - at % 200 // 7).tolist(), "time_left": (60 - at / 10).round(2).tolist(),
        "stage": [("cave", "hall", "roof")[number // 200 % 3] for number in range(frames)],
        "x": np.sin(at / 30).round(3).tolist(),
        **{f"p{n}_frags": (at % 200 // (20 + n)).tolist() for n in (1, 2, 3, 4)},
        **{f"p{n}_name": [f"No {n}"] * frames for n in (1, 2, 3, 4)},
        **{f"dbg_{letter}": np.random.default_rng(1).normal(size=frames).round(3).tolist() for letter in "abcdefghijkl"},
        **more,
    }  # fmt: skip
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(columns)
        writer.writerows(zip(*columns.values(), strict=True))
    return path


def settle(window: Window) -> None:
    window.workspace.suggestions.wait()
    window.workspace.wait()
    application().processEvents()


def drop(window: Window, *paths: Path) -> None:
    """Carry files over the window and let them go there."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    where, copy = QPoint(300, 300), Qt.DropAction.CopyAction
    enter = QDragEnterEvent(where, copy, data, LEFT, PLAIN)
    application().sendEvent(window, enter)
    assert enter.isAccepted()
    application().sendEvent(window, QDropEvent(QPointF(where), copy, data, LEFT, PLAIN))
    if window.is_alive:
        settle(window)


def press(link: QWidget) -> None:
    QTest.mouseClick(link, LEFT)
    application().processEvents()


def line(window: Window, text: str) -> Link:
    """A link beside a line of what was recorded."""
    recorded_card = window.desk.card.recorded
    assert recorded_card is not None
    return next(link for name, link in recorded_card.links.items() if text in name)


def begun(window: Window, home: Path) -> Path:
    path = recorded(home / "arena.csv")
    drop(window, path)
    return path


def test_the_first_page_needs_nothing_slow_and_says_what_to_do(window: Window) -> None:
    assert window.on_first_page
    assert not window.is_alive
    assert window.windowTitle() == "Avrin"
    page = window.centralWidget()
    assert page is not None
    names = [way.accessibleName() for way in page.findChildren(QWidget) if way.accessibleName()]
    assert names[:2] == ["Open a recording …", "Open a project …"]


def test_a_dropped_recording_is_a_project_in_one_gesture(window: Window, home: Path) -> None:
    begun(window, home)
    editor = window.editor
    assert not window.on_first_page
    assert editor.now.path is None
    assert [v.name for v in editor.now.project.variables][:5] == [
        "life_no",
        "player_health",
        "score",
        "ammo",
        "time_left",
    ]
    assert all(v.guessed for v in editor.now.project.variables)
    assert [(r.name, r.slots, [f.name for f in r.fields]) for r in editor.now.project.rosters] == [
        ("p", 4, ["frags", "name"])
    ]
    lanes = window.desk.lanes.lanes
    assert next(lane for lane in lanes if lane.sort == "fold").count >= 9
    shown = [one.offer.widget.kind for one in window.desk.shelf.offers]
    assert window.desk.shelf.isVisible()
    assert shown[0] == "bar"
    editor.do(undo)
    assert editor.now.project.variables == ()
    assert [one.path for one in editor.now.project.traces] == ["traces/arena.csv"]


def test_after_a_first_save_a_drive_leads_back_to_the_recording(window: Window, home: Path) -> None:
    begun(window, home)
    window.workspace.files.save(home / "arena.avrin")
    for _ in range(2):
        QTest.keyClick(window.desk.hud, Qt.Key.Key_D)
    assert window.editor.now.unkept
    back = next(link for link in window.desk.footer.findChildren(Link) if link.text() == "back to the recording")
    press(back)
    assert not window.editor.now.message.error, window.editor.now.message.text
    assert window.editor.now.trace_name == "arena.csv"
    assert not window.editor.now.unkept


def test_nothing_is_opened_by_what_is_no_recording(window: Window, home: Path) -> None:
    (home / "notes.csv").write_bytes(b"\xff\xfe\x00")
    (home / "empty.csv").write_text("")
    for name in ("notes.csv", "empty.csv"):
        drop(window, home / name)
        assert window.on_first_page
        assert "\n" not in window.message.text()
        assert name in window.message.text()
    drop(window, home / "gone.csv")
    assert "gone.csv" in window.message.text()


def test_a_project_without_recordings_says_what_to_do(window: Window) -> None:
    page = window.centralWidget()
    assert page is not None
    way = next(way for way in page.findChildren(QWidget) if way.accessibleName() == "Start without a recording")
    press(way)
    assert not window.on_first_page
    assert window.editor.now.project.variables == ()
    QTest.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert window.on_first_page
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not window.on_first_page


def test_a_first_hud_is_one_press_and_one_step(window: Window, home: Path) -> None:
    begun(window, home)
    hud = window.desk.hud
    QTest.mouseClick(hud, LEFT, PLAIN, beginning_line(hud.picture_rect()).center().toPoint())
    editor = window.editor
    assert len(editor.now.project.widgets) == 6
    assert not editor.now.bound.errors
    assert editor.now.project.widgets[0].inputs["value"] == "player_health"
    assert editor.now.project.widgets[0].inputs["full"] == "100"
    editor.do(undo)
    assert not editor.now.project.widgets
    QTest.keyClick(window, Qt.Key.Key_H, Qt.KeyboardModifier.ControlModifier)  # as soon as it is known what is best
    assert not editor.now.project.widgets
    settle(window)
    assert len(editor.now.project.widgets) == 6


def test_an_offer_is_dragged_or_pressed_into_place(window: Window, home: Path) -> None:
    begun(window, home)
    shelf, hud, editor = window.desk.shelf, window.desk.hud, window.editor
    start = shelf._cell(0).center().toPoint()
    goal = shelf.mapFromGlobal(hud.mapToGlobal(hud.picture_rect().center().toPoint()))
    QTest.mousePress(shelf, LEFT, PLAIN, start)
    for part in range(1, 6):
        QTest.mouseMove(shelf, start + (goal - start) * part / 5)
    assert hud._coming is not None
    QTest.mouseRelease(shelf, LEFT, PLAIN, goal)
    (widget,) = editor.now.project.widgets
    assert widget.place.anchor == "center"
    settle(window)
    first = shelf.offers[0].offer.widget
    QTest.mouseClick(shelf, LEFT, PLAIN, shelf._cell(0).center().toPoint())
    assert editor.now.project.widgets[1].inputs == first.inputs
    assert editor.now.project.widgets[1].place.anchor == "top-left"
    settle(window)
    assert first.inputs not in [one.offer.widget.inputs for one in shelf.offers]
    shelf.setFocus()
    QTest.keyClick(shelf, Qt.Key.Key_Right)
    QTest.keyClick(shelf, Qt.Key.Key_Return)
    assert len(editor.now.project.widgets) == 3
    QTest.mouseClick(shelf, LEFT, PLAIN, shelf._close_box().center().toPoint())
    assert not shelf.isVisible()
    QTest.keyClick(window, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    assert shelf.isVisible()


def test_runs_that_only_behaviour_tells_are_taken_by_one_press_and_undone_by_one(window: Window, home: Path) -> None:
    begun(window, home)
    editor = window.editor
    assert len(editor.now.trace.run_starts) == 1
    press(line(window, "runs by life_no"))
    assert len(editor.now.trace.run_starts) == 3
    assert editor.now.project.traces[0].run == "life_no"
    assert editor.now.variable("life_no") is not None, "it stays a name for rules"
    settle(window)
    press(line(window, "one run only"))
    assert len(editor.now.trace.run_starts) == 1
    assert editor.now.variable("life_no") is not None
    editor.do(undo)
    editor.do(undo)
    assert editor.now.project.traces[0].run == ""
    assert len(editor.now.trace.run_starts) == 1


def test_a_roster_is_left_apart_and_made_again(window: Window, home: Path) -> None:
    begun(window, home)
    editor = window.editor
    press(line(window, "keep separate"))
    assert not editor.now.project.rosters
    assert {"p1_frags", "p4_name"} <= {v.name for v in editor.now.project.variables}
    assert "p1_frags" in editor.now.trace.columns
    settle(window)
    press(line(window, "roster p"))
    assert [(r.name, r.slots) for r in editor.now.project.rosters] == [("p", 4)]
    assert "p[0].frags" in editor.now.trace.columns
    settle(window)
    press(line(window, "name, slots"))
    edit = window.desk.roster_edit
    edit.fields["name"].selectAll()
    QTest.keyClicks(edit.fields["name"], "player")
    QTest.keyClick(edit.fields["name"], Qt.Key.Key_Return)
    assert [one.name for one in editor.now.project.rosters] == ["player"]
    edit.fields["slots"].setFocus()
    edit.fields["slots"].selectAll()
    QTest.keyClicks(edit.fields["slots"], "6")
    QTest.keyClick(edit.fields["slots"], Qt.Key.Key_Return)
    assert [one.slots for one in editor.now.project.rosters] == [6]
    assert editor.now.value("player[0].name") == "No 1"


def test_a_roster_is_made_by_hand_from_columns_that_are_too_far_apart(window: Window, home: Path) -> None:
    path = recorded(home / "arena.csv", ammo_9mm=[9.0] * 600, ammo_45mm=[45.0] * 600)
    drop(window, path)
    window.desk.footer.roster_wanted.emit()
    edit = window.desk.roster_edit
    QTest.keyClicks(edit.fields["name"], "shells")
    QTest.keyClicks(edit.fields["columns"], "ammo_#mm")
    press(edit._make)
    assert window.editor.now.project.rosters[-1].name == "shells"
    assert window.editor.now.value("shells[0].value") == 9.0
    assert window.editor.now.value("shells[36].value") == 45.0


def test_saved_it_lies_beside_its_recording_and_opens_again(
    window: Window, home: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    path = begun(window, home)
    window.desk.first_hud()
    (home / "game").mkdir()
    monkeypatch.setattr(window_module, "ask_target", lambda *_: home / "game/arena")
    QTest.keyClick(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    saved = home / "game/arena.avrin"
    assert window.editor.now.path == saved
    assert (home / "game/traces/arena.csv").read_bytes() == path.read_bytes()
    assert drafts() == []
    assert recent_projects()[0] == saved
    project, _ = load(saved)
    assert project.title == "arena"
    assert len(project.widgets) == 6
    path.unlink()
    again = make_window(saved)
    qtbot.addWidget(again)
    assert again.editor.now.value("player_health") == 100.0
    assert len(again.editor.now.bound.widgets) == 6


def test_what_is_not_saved_waits_on_the_first_page(window: Window, home: Path, qtbot: QtBot) -> None:
    begun(window, home)
    window.desk.first_hud()
    window.close()
    assert len(drafts()) == 1
    again = make_window()
    qtbot.addWidget(again)
    again.resize(*SIZE)
    again.show()
    application().processEvents()
    page = again.centralWidget()
    assert page is not None
    card = next(c for c in page.findChildren(QWidget) if c.accessibleName().startswith("Draft"))
    press(card)
    assert len(again.editor.now.project.widgets) == 6
    assert again.editor.now.value("player_health") == 100.0
    again.editor.do(undo)
    assert not again.editor.now.project.widgets
    again.workspace.files.forget_unsaved()
    again.editor.do(mark_saved)
    assert drafts() == []


def test_a_draft_that_is_damaged_is_reported(window: Window, home: Path) -> None:
    kept = home / "state/drafts/x.draft"
    kept.parent.mkdir(parents=True)
    kept.write_bytes(b"{")
    window.open_draft(kept)
    assert "is damaged" in window.message.text()
    save_draft(kept, Draft(window.editor.now.project, {"traces/a.csv": home / "a.csv"}))
    assert load_draft(kept).elsewhere == {"traces/a.csv": home / "a.csv"}


def test_more_recordings_are_dropped_and_two_of_one_name_are_reported_apart(window: Window, home: Path) -> None:
    begun(window, home)
    (home / "later").mkdir()
    other = recorded(home / "later/arena.csv", 200, depth=[3.0] * 200)
    drop(window, other)
    editor = window.editor
    assert [one.path for one in editor.now.project.traces] == ["traces/arena.csv", "traces/arena-2.csv"]
    assert editor.now.trace_name == "traces/arena-2.csv"
    assert editor.now.variable("depth") is not None
    assert len(editor.now.trace) == 200
    editor.do(undo)
    assert [one.path for one in editor.now.project.traces] == ["traces/arena.csv"]


def test_a_recording_is_copied_into_a_saved_project(window: Window, home: Path) -> None:
    begun(window, home)
    (home / "game").mkdir()
    window.workspace.files.save(home / "game/arena.avrin")
    other = recorded(home / "second.csv", 200)
    (home / "second.events.jsonl").write_text('{"t": 3, "event": "hit"}\n')
    drop(window, other)
    assert (home / "game/traces/second.csv").exists()
    assert window.editor.now.trace.event_kinds == {"hit": {}}
    assert window.editor.now.trace_name == "traces/second.csv"


def test_another_builds_names_are_put_right_in_one_place(window: Window, home: Path) -> None:
    path = begun(window, home)
    window.desk.first_hud()
    text = path.read_text().replace("Player Health", "hp").replace("score", "points_total")
    (home / "build2.csv").write_text(text)
    drop(window, home / "build2.csv")
    editor = window.editor
    window.editor.do(select_widget, "")
    settle(window)
    assert editor.now.value("player_health") is None
    press(line(window, "change"))
    edit = window.desk.matching_edit
    press(next(link for name, link in edit.links.items() if name.startswith("player_health: is its")))
    if (menu := next((m for m in edit.findChildren(QMenu) if m.isVisible()), None)) is not None:
        next(a for a in menu.actions() if a.text() == "hp").trigger()
        menu.close()
    assert editor.now.project.recording("traces/build2.csv").names["hp"] == "player_health"  # type: ignore[union-attr]
    assert editor.now.value("player_health") == 100.0
    assert editor.now.variable("hp") is None  # it was declared for this name alone
    editor.do(undo)
    assert editor.now.variable("hp") is not None
    assert editor.now.value("player_health") is None


def test_what_a_run_begins_with_is_a_case_one_can_return_to(window: Window, home: Path) -> None:
    begun(window, home)
    editor = window.editor
    edit = window.popups.recording
    window.edit_recording()
    press(next(link for link in edit.findChildren(Link) if link.text() == "add a variant"))
    assert editor.now.trace_name == "traces/arena.csv#case 2"
    edit.fields["starts"].setFocus()
    QTest.keyClicks(edit.fields["starts"], "player_health 60, nobody 3")
    QTest.keyClick(edit.fields["starts"], Qt.Key.Key_Return)
    assert "no variable 'nobody'" in window.message.text()
    edit.fields["starts"].selectAll()
    QTest.keyClicks(edit.fields["starts"], "player_health 60")
    QTest.keyClick(edit.fields["starts"], Qt.Key.Key_Return)
    assert editor.now.value("player_health") == 60.0
    assert [one.starts for one in editor.now.project.traces] == [{}, {"player_health": 60.0}]
    window.workspace.traces.show("traces/arena.csv")
    assert editor.now.value("player_health") == 100.0
    press(next(link for link in edit.findChildren(Link) if link.text() == "later"))
    assert [one.case for one in editor.now.project.traces] == ["case 2", ""]
    press(next(link for link in edit.findChildren(Link) if link.text() == "remove"))
    assert [one.case for one in editor.now.project.traces] == ["case 2"]
    assert editor.now.trace_name == "traces/arena.csv#case 2"


def test_a_recording_that_is_gone_is_found_again(window: Window, home: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from avrin.app.window import header

    path = begun(window, home)
    (home / "game").mkdir()
    window.workspace.files.save(home / "game/arena.avrin")
    shutil.move(home / "game/traces/arena.csv", home / "elsewhere.csv")
    path.unlink()
    monkeypatch.setattr(header, "ask_file", lambda *_: home / "elsewhere.csv")
    window.header.pick_trace()
    menu = next(m for m in window.header.findChildren(QMenu) if m.isVisible())
    entry = next(a for a in menu.actions() if "locate it" in a.text())
    entry.trigger()
    menu.close()
    assert (home / "game/traces/arena.csv").exists()
    assert window.editor.now.value("player_health") == 100.0


def test_a_rule_declares_what_it_names(window: Window, home: Path) -> None:
    begun(window, home)
    editor = window.editor
    editor.do(undo)  # nothing is declared
    window.desk.add_widget("label")
    edit = window.desk.card.rows[0].edit
    QTest.keyClicks(edit, "{score | 0}")
    assert [v.name for v in editor.now.project.variables] == ["score"]
    assert not editor.now.bound.errors
    assert editor.now.variable("score").guessed  # type: ignore[union-attr]


def test_a_large_recording_is_copied_in_the_background(
    window: Window, home: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    begun(window, home)
    monkeypatch.setattr(files, "COPY_AT_ONCE", 0)
    monkeypatch.setattr(copying, "COPIED", 4096)
    (home / "game").mkdir()
    window.workspace.files.save(home / "game/arena.avrin")
    qtbot.waitUntil(lambda: window.editor.now.path is not None, timeout=60_000)
    assert (home / "game/traces/arena.csv").exists()
    other = recorded(home / "big.csv", 2000)
    monkeypatch.setattr(traces, "READ_AT_ONCE", 0)
    drop(window, other)
    qtbot.waitUntil(lambda: window.editor.now.trace_name == "traces/big.csv", timeout=60_000)


def test_a_long_reading_tells_how_far_it_is_and_is_stopped_by_escape(
    window: Window, home: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    begun(window, home)
    big = recorded(home / "big.csv", 3000)
    monkeypatch.setattr(traces, "READ_AT_ONCE", 0)
    monkeypatch.setattr(csv_cells, "PIECE", 20_000)
    gate, whole = threading.Event(), progress.tell
    monkeypatch.setattr(line_blocks, "tell", lambda share: (gate.wait(10), whole(share)))
    said = messages(window)
    window.open_files([big])
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert [one.text for one in said] == ["Opening big.csv …  Esc stops it", "Stopped"]
    gate.set()
    window.workspace.traces.jobs.wait()
    assert window.editor.now.trace_name == "traces/arena.csv"
    assert len(window.editor.now.project.traces) == 1
    window.open_files([big])
    qtbot.waitUntil(lambda: window.editor.now.trace_name == "traces/big.csv", timeout=60_000)
    assert any(re.fullmatch(r"Opening big.csv, \d\d% …  Esc stops it", one.text) for one in said)


BAD = {
    "one column": "t\n0\n1\n",
    "one frame": "t,hull\n0,5\n",
    "no number": "t,word\n0,a\n1,b\n",
    "words of the language": "t,if,then,run_,now,slot\n0,1,2,3,4,5\n1,2,3,4,5,6\n",
    "dots and unicode": "t,a.b,größe,血量,x y,%\n0,1,2,3,4,5\n1,2,3,4,5,6\n",
    "nothing there": "t,a,b\n0,,\n1,,\n",
    "holes": "t,p1_x,p2_x,p4_x\n0,1,2,3\n1,2,3,4\n",
    "padded": "t,p01_x,p02_x,p1_x\n0,1,2,3\n1,2,3,4\n",
    "many players": "t," + ",".join(f"p{n}_x" for n in range(500)) + "\n"
                    + "\n".join(f"{t}" + ",1" * 500 for t in range(3)) + "\n",
    "a thousand columns": "t," + ",".join(f"c{chr(97 + n % 26)}x{n}" for n in range(1000)) + "\n"
                          + "\n".join(f"{t}" + f",{t}" * 1000 for t in range(4)) + "\n",
}  # fmt: skip


@pytest.mark.parametrize("sort", BAD)
def test_odd_recordings_become_projects_all_the_same(window: Window, home: Path, sort: str) -> None:
    path = home / "odd.csv"
    path.write_text(BAD[sort], encoding="utf-8")
    drop(window, path)
    assert not window.on_first_page
    window.desk.first_hud()
    assert not window.editor.now.bound.errors
    (home / "game").mkdir()
    window.workspace.files.save(home / "game/odd.avrin")
    load(home / "game/odd.avrin")


def test_a_folder_that_cannot_be_written_is_reported_and_nothing_is_lost(window: Window, home: Path) -> None:
    begun(window, home)
    before = window.editor.now.project
    (home / "full").write_text("a file, not a folder")
    assert not window._try(lambda: window.workspace.files.save(home / "full/arena.avrin"))
    assert "full" in window.message.text()
    assert window.editor.now.project is before
    assert window.editor.now.path is None
