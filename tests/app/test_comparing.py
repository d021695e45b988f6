"""Before and after in the real window: as saved, a step, a commit, another file; wiped, walked, marked on every desk, kept."""

from __future__ import annotations

import re
import shutil
import subprocess
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.screens_desk.desk import ScreensDesk
from avrin.app.window.window import Window
from avrin.binding.places import RulePlace
from avrin.editor.edits import go_to_step, mark_saved, redo, seal, set_rule, set_widget, undo
from avrin.editor.playback import go_to, go_to_seconds
from avrin.editor.selecting import select_widget
from gestures import ALT, CTRL, LEFT, PLAIN, SHIFT, Hand, Key
from window_fixtures import qapp, window  # noqa: F401

VALUE = RulePlace("widget", "hull_bar", "inputs", "value")


@pytest.fixture
def hand(window: Window) -> Hand:
    return Hand(window)


@pytest.fixture
def compared(hand: Hand) -> Hand:
    """A changed rule compared with the last saved version, at a moment at which that is seen."""
    editor = hand.window.editor
    editor.do(set_rule, VALUE, "hull * 0.5")
    editor.do(go_to_seconds, 118)
    hand.key(Key.Key_B, CTRL)
    hand.menu("the last saved version")
    hand.window.workspace.wait()
    QApplication.processEvents()
    return hand


def observed(hand: Hand) -> QImage:
    hand.window.editor.do(select_widget, "")
    QApplication.processEvents()
    return hand.picture.grab().toImage()


def bar(hand: Hand, image: QImage) -> list[str]:
    """The colours along the hull bar, in the picture."""
    box = hand.picture.box_of("hull_bar")  # type: ignore[attr-defined]
    y = round(box.top() + box.height() * 0.72)
    return [image.pixelColor(round(box.left() + box.width() * share / 40), y).name() for share in range(2, 39)]


def test_the_line_says_what_changed_and_goes_when_one_stops(compared: Hand) -> None:
    line = compared.window.comparing
    assert line.isVisible()
    assert line.source.text() == "as saved"
    assert line.told.text().startswith("1 change in the file;  ")
    assert "hull_bar: rule value" in line.told.toolTip()
    compared.key(Key.Key_B, CTRL | SHIFT)
    assert not line.isVisible()
    assert compared.window.workspace.comparison.found is None


def test_before_is_seen_up_to_the_wipe_which_hands_and_keys_move(compared: Hand) -> None:
    editor, picture = compared.window.editor, compared.picture
    compared.window.workspace.comparison.show("wipe")
    now_shown = compared.window.workspace.comparison
    now_shown.put_line(0.0)
    after = bar(compared, observed(compared))
    now_shown.put_line(1.0)
    before = bar(compared, observed(compared))
    assert before != after
    compared.window.workspace.comparison.end()
    assert bar(compared, observed(compared)) == after
    editor.do(undo)
    assert bar(compared, observed(compared)) == before, "what is wiped in is what the project was"
    editor.do(redo)
    compared.window.comparing.with_saved()
    compared.window.workspace.wait()
    compared.window.workspace.comparison.show("wipe")
    compared.window.workspace.comparison.put_line(0.5)
    area = picture.picture_rect()  # type: ignore[attr-defined]
    start = QPoint(round(area.center().x()), round(area.top() + 20))
    QTest.mousePress(picture, LEFT, PLAIN, start)
    QTest.mouseMove(picture, start + QPoint(100, 0))
    QTest.mouseRelease(picture, LEFT, PLAIN, start + QPoint(100, 0))
    assert compared.window.workspace.comparison.line == pytest.approx(0.5 + 100 / area.width(), abs=0.01)
    assert not editor.now.selection.widget
    at = compared.window.workspace.comparison.line
    compared.key(Key.Key_Left, CTRL | ALT)
    assert compared.window.workspace.comparison.line == pytest.approx(at - 0.05)


def test_side_by_side_both_are_whole_and_the_one_now_is_worked_in(compared: Hand) -> None:
    editor, picture = compared.window.editor, compared.picture
    compared.window.workspace.comparison.show("side by side")
    QApplication.processEvents()
    area = picture.picture_rect()  # type: ignore[attr-defined]
    assert area.left() > picture.width() / 2
    image = observed(compared)
    box = picture.box_of("hull_bar")  # type: ignore[attr-defined]
    y, gap = round(box.top() + box.height() * 0.72), area.width() + 10
    assert image.pixelColor(round(area.center().x()), 1) == image.pixelColor(2, image.height() - 2), (
        "all about it is the desk"
    )
    now = [image.pixelColor(round(box.left() + box.width() * n / 40), y).name() for n in range(2, 39)]
    before = [image.pixelColor(round(box.left() - gap + box.width() * n / 40), y).name() for n in range(2, 39)]
    assert now != before
    compared.press(compared.at("scrap"))
    assert editor.now.selection.widget == "scrap"


def test_only_what_differs_is_left_of_the_picture(compared: Hand) -> None:
    compared.window.workspace.comparison.show("only what differs")
    image = observed(compared)
    compared.window.workspace.comparison.show("wipe")
    compared.window.workspace.comparison.put_line(0.0)
    plain = observed(compared)
    box = compared.picture.box_of("scrap").center().toPoint()  # type: ignore[attr-defined]
    assert image.pixelColor(box).lightness() > plain.pixelColor(box).lightness(), "veiled"
    assert set(bar(compared, image)) & set(bar(compared, plain)), "and where it differs, as it is"


def test_brackets_walk_the_moments_at_which_something_else_is_shown(compared: Hand) -> None:
    editor = compared.window.editor
    found = compared.window.workspace.comparison.found
    assert found is not None
    starts = sorted({one.start for one in found.stretches})
    editor.do(go_to, 0)
    compared.key(Key.Key_BracketRight)
    walked = [editor.now.frame]
    compared.key(Key.Key_BracketRight)
    walked.append(editor.now.frame)
    assert walked == [one for one in starts if one > 0][:2]
    compared.key(Key.Key_BracketLeft)
    assert editor.now.frame == walked[0]
    editor.do(go_to, len(editor.now.trace) - 1)
    compared.key(Key.Key_BracketRight)
    assert editor.now.frame == starts[0], "round at the end"


def test_lanes_show_both_tracks(compared: Hand) -> None:
    lanes = compared.window.desk.lanes
    lane = lanes.lane_rect("hull_bar", sort="widget")

    def rows() -> tuple[set[str], set[str]]:
        QApplication.processEvents()
        image = lanes.viewport().grab(lane).toImage()
        across = range(260, image.width() - 20, 3)
        upper, lower = lane.height() // 3, lane.height() - 13
        return {image.pixelColor(x, upper).name() for x in across}, {image.pixelColor(x, lower).name() for x in across}

    both = rows()
    compared.window.workspace.comparison.end()
    alone = rows()
    assert both[1] != alone[1], "the previous track is drawn under the current one"


def test_cells_of_the_ladder_and_of_the_sheet_that_differ_are_marked(compared: Hand) -> None:
    window, editor = compared.window, compared.window.editor
    window.show_desk("Ladder")
    ladder = window.desks.currentWidget()
    assert isinstance(ladder, LadderDesk)
    ladder.wait()
    marked = {
        row.widget.widget.id for row in ladder.rows.rows for sample in row.samples if id(sample) in ladder.rows.differ
    }
    assert marked == {"hull_bar"}
    assert any("differs" in part.value for part in ladder.rows.assisted_parts())
    window.show_desk("Screens")
    sheet = window.desks.currentWidget()
    assert isinstance(sheet, ScreensDesk)
    QApplication.processEvents()
    assert sheet.cells.grid is not None
    cell = sheet.cells.grid.cells[0][0]
    assert sheet.cells._differs(cell)
    editor.do(undo)
    window.workspace.wait()
    assert not sheet.cells._differs(cell)


def test_findings_say_which_came_and_which_went(compared: Hand) -> None:
    window, editor = compared.window, compared.window.editor
    editor.do(seal)
    depth = editor.now.project.widget("depth")
    editor.do(set_widget, replace(depth, place=replace(depth.place, offset=(-300.0, 0.0))), "depth moved")
    window.workspace.checking.wait()
    window.workspace.comparison.wait()
    window.show_desk("Findings")
    desk = window.desks.currentWidget()
    QApplication.processEvents()
    came = [
        one for one in window.workspace.checking.findings if one.key not in (window.workspace.comparison.findings or {})
    ]
    assert came
    assert {one.widget for one in came} >= {"depth"}
    title = desk.title.text()
    assert re.search(r"findings: \d+ came, \d+ went", title)
    window.comparing.with_step(editor.now.history.at)
    window.workspace.wait()
    assert "0 came, 0 went" in desk.title.text()


def test_a_step_of_the_history_is_seen_gone_back_to_and_compared_with(hand: Hand) -> None:
    window, editor = hand.window, hand.window.editor
    for number, factor in enumerate((0.9, 0.8, 0.7)):
        editor.do(seal)
        editor.do(set_rule, VALUE, f"hull * {factor}")
        assert editor.now.history.at == number + 1
    hand.key(Key.Key_Z, CTRL | ALT)
    strip = window.popups.history.strip
    strip._painting.wait()
    assert strip.isVisible()
    assert len(strip.pictures) == 4
    assert strip.pictures[0] != strip.pictures[3]
    QTest.mouseClick(strip, LEFT, PLAIN, strip.box(1).center().toPoint())
    assert editor.now.project.widget("hull_bar").inputs["value"] == "hull * 0.9"
    assert editor.now.history.at == 1
    hand.key(Key.Key_Z, CTRL | SHIFT)
    assert editor.now.project.widget("hull_bar").inputs["value"] == "hull * 0.8", "and forward again"
    hand.key(Key.Key_B, CTRL)
    hand.menu("a step of the history")
    QTest.keyClick(strip, Key.Key_Home)
    QTest.keyClick(strip, Key.Key_Return)
    window.workspace.wait()
    assert window.comparing.source.text() == "as opened"
    found = window.workspace.comparison.found
    assert found is not None
    assert set(found.widgets) == {"hull_bar"}
    editor.do(go_to_step, 0)
    window.workspace.wait()
    assert not window.workspace.comparison.found.stretches
    assert "no changes in the file" in window.comparing.told.text()


@pytest.mark.skipif(shutil.which("git") is None, reason="git is not installed")
def test_commits_of_the_file_are_listed_and_compared_with(hand: Hand) -> None:
    window, editor = hand.window, hand.window.editor

    def git(*words: str) -> None:
        who = ("-c", "user.name=a", "-c", "user.email=a@b.invalid")
        subprocess.run(("git", "-C", str(editor.now.folder), *who, *words), check=True, capture_output=True)  # noqa: S607

    git("init", "-q")
    git("add", editor.now.path.name)
    git("commit", "-q", "-m", "The hull is whole")
    editor.do(set_rule, VALUE, "hull * 0.5")
    hand.key(Key.Key_S, CTRL)
    git("commit", "-q", "-a", "-m", "The hull counts half & more")
    hand.key(Key.Key_B, CTRL)
    listed = [one.text() for one in QApplication.activePopupWidget().actions()]  # type: ignore[union-attr]
    assert [one.split("\t")[0] for one in listed if "\t" in one] == [
        "The hull counts half && more",
        "The hull is whole",
    ]
    hand.menu("The hull is whole")
    window.workspace.wait()
    assert window.comparing.source.text() == "The hull is whole"
    assert set(window.workspace.comparison.found.widgets) == {"hull_bar"}


def test_another_file_is_compared_with_and_a_broken_one_reported(hand: Hand, tmp_path: Path) -> None:
    window, _editor = hand.window, hand.window.editor
    other = tmp_path / "other.avrin"
    other.write_text(hand.folder.read_text().replace('"HULL"', '"BODY"'))
    window.comparing.with_file(other)
    window.workspace.wait()
    assert set(window.workspace.comparison.found.widgets) == {"hull_bar"}
    (tmp_path / "broken.avrin").write_text("{")
    window.comparing.with_file(tmp_path / "broken.avrin")
    assert "broken.avrin" in window.message.text()
    assert window.workspace.comparison.before is not None
    assert window.workspace.comparison.before.title == "other.avrin", "and what was compared stays"


def test_the_page_has_a_pair_of_pictures_at_each_first_moment(compared: Hand, tmp_path: Path) -> None:
    compared.window.comparing.save(tmp_path / "what.html")
    page = (tmp_path / "what.html").read_text()
    assert page.count("<figure>") >= 2
    assert "hull_bar" in page
    assert "as saved and now" in page


def test_another_project_ends_it(compared: Hand, tmp_path: Path) -> None:
    window = compared.window
    window.editor.do(mark_saved)
    shutil.copytree(window.editor.now.folder, tmp_path / "again")
    window.workspace.files.open(tmp_path / "again" / compared.folder.name)
    assert window.workspace.comparison.before is None
    assert not window.comparing.isVisible()


def test_findings_of_before_are_looked_for_again_when_more_recordings_were_read(compared: Hand) -> None:
    editor = compared.window.editor
    before = compared.window.workspace.comparison.findings
    assert before is not None
    assert {finding.trace for finding in before.values()} <= {"", editor.now.trace.name}
    compared.window.workspace.checking.wait()
    assert compared.window.workspace.comparison.busy
    compared.window.workspace.wait()
    assert compared.window.workspace.comparison.findings is not None
    assert {finding.trace for finding in compared.window.workspace.comparison.findings.values()} - {
        "",
        editor.now.trace.name,
    }
