"""The Findings desk: navigated by keys, with findings fixed, ignored and opened, in the real window."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from avrin.app.findings_desk.desk import FindingsDesk
from avrin.app.main import application
from avrin.app.services import checking
from avrin.app.shots import begin_anew
from avrin.app.window.window import Window
from avrin.binding.places import RulePlace
from avrin.demo.install import install_demo
from avrin.editor.edits import set_rule, undo
from avrin.findings.finding import Finding, Fix
from avrin.findings.inspector import Inspector
from avrin.storage.files import load
from window_fixtures import one_window, qapp, window  # noqa: F401


@pytest.fixture(scope="module")
def troubled(one_window: Window, demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Window:
    """The demo with many faults."""
    folder = shutil.copytree(demo.parent, tmp_path_factory.mktemp("troubled") / "b")
    one_window.workspace.files.open(install_demo(folder, troubled=True))
    return one_window


@pytest.fixture
def desk(troubled: Window) -> FindingsDesk:
    window = troubled
    begin_anew(window)
    window.activateWindow()  # other tests have windows of their own
    settle(window)
    QTest.keyClick(window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    found = window.desks.currentWidget()
    assert isinstance(found, FindingsDesk)
    return found


def settle(window: Window) -> None:
    window.workspace.checking.wait()
    application().processEvents()


def chosen(desk: FindingsDesk) -> Finding:
    assert desk.rows.chosen is not None
    return desk.rows.chosen


def test_the_window_counts_them_wherever_one_is(window: Window) -> None:
    settle(window)
    tab = window.header.tabs["Findings"]
    assert tab.count == len(window.workspace.checking.findings) > 0
    assert not tab.bad  # hints alone


def test_the_troubled_demo_shows_a_dozen_different_ones_and_two_keys_walk_through_them(desk: FindingsDesk) -> None:
    every = desk.rows.findings()
    assert len({finding.code for finding in every if finding.severity != "hint"}) >= 12
    assert chosen(desk) is every[0]
    assert chosen(desk).severity == "error"
    QTest.keyClick(desk.rows, Qt.Key.Key_Down)
    QTest.keyClick(desk.rows, Qt.Key.Key_Down)
    assert chosen(desk) is every[2]
    QTest.keyClick(desk.rows, Qt.Key.Key_Up)
    assert chosen(desk) is every[1]
    desk.rows.walk(len(every))
    assert chosen(desk) is every[-1]
    desk.rows.walk(-2 * len(every))
    assert chosen(desk) is every[0]
    desk.rows.walk(1)
    assert desk.why.text().startswith(chosen(desk).why.replace("`", "")[:40])


def test_a_fix_is_one_step_and_the_finding_goes(desk: FindingsDesk) -> None:
    finding = next(finding for finding in desk.rows.findings() if finding.code == "from-middle")
    desk.rows.choose(finding)
    QTest.keyClick(desk.rows, Qt.Key.Key_F)
    assert desk.editor.now.project.widget("hull_bar").options["grow"] == "right"
    desk._checking.wait()
    application().processEvents()
    assert "from-middle" not in {finding.code for finding in desk.rows.findings()}
    desk.editor.do(undo)
    assert desk.editor.now.project.widget("hull_bar").options["grow"] == "middle"


def test_no_fix_is_made_while_it_may_be_out_of_date(desk: FindingsDesk) -> None:
    finding = next(finding for finding in desk.rows.findings() if finding.code == "from-middle")
    desk.rows.choose(finding)
    before = desk.editor.now.project
    desk._checking.look_again()
    QTest.keyClick(desk.rows, Qt.Key.Key_F)
    assert desk.editor.now.project is before
    assert desk.editor.now.message.text == "The checks are running; try again in a moment"


def test_one_is_ignored_with_a_reason_and_reported_again(desk: FindingsDesk) -> None:
    finding = next(finding for finding in desk.rows.findings() if finding.code == "feed-stays")
    desk.rows.choose(finding)
    before = len(desk._checking.findings)
    QTest.keyClick(desk.rows, Qt.Key.Key_H)
    QTest.keyClicks(desk.reason, "a log for testers")
    QTest.keyClick(desk.reason, Qt.Key.Key_Return)
    assert len(desk._checking.findings) == before - 1
    assert desk._checking.quiet == {finding: "a log for testers"}
    window = desk.window()
    assert isinstance(window, Window)
    window.workspace.files.save(desk.editor.now.folder / "kept.avrin")
    assert load(desk.editor.now.folder / "kept.avrin")[0].hush[0]["reason"] == "a log for testers"
    desk.rows.choose(next(f for f in desk.rows.findings() if f.code == "feed-stays"))
    QTest.keyClick(desk.rows, Qt.Key.Key_H)
    assert len(desk._checking.findings) == before


def test_going_there_shows_the_moment_on_the_bind_desk(troubled: Window, desk: FindingsDesk) -> None:
    window = troubled
    finding = next(f for f in desk.rows.findings() if f.code == "too-short" and f.trace == "rich-haul")
    desk.rows.choose(finding)
    QTest.keyClick(desk.rows, Qt.Key.Key_Return)
    assert window.desks.currentWidget() is window.desk
    assert (window.editor.now.trace.name, window.editor.now.frame) == ("rich-haul", finding.start)
    assert window.editor.now.selection.widget == finding.widget


def test_they_are_grouped_by_kind_and_the_moment_is_drawn(desk: FindingsDesk) -> None:
    calm = desk.picture.grab().toImage()
    QTest.mouseClick(desk.grouping, Qt.MouseButton.LeftButton)
    assert desk.grouping.text() == "by kind"
    desk.rows.choose(next(f for f in desk.rows.findings() if f.code == "leapt-over"))
    application().processEvents()
    assert desk.picture.grab().toImage() != calm
    assert desk.lane.isVisibleTo(desk)


def test_recordings_too_many_for_the_window_are_left_out_and_it_is_reported(
    window: Window,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(checking, "MOST_FRAMES", 1000)
    settle(window)
    window.show_desk("Findings")
    desk = window.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    assert window.workspace.checking.left_out == 2
    assert desk.counts.note == "2 recordings left out"
    assert [tracks.trace.name for tracks in window.workspace.checking.tracks()] == ["leaky-dive"]


def test_nothing_is_said_to_be_found_before_it_was_looked_for(window: Window) -> None:
    window.show_desk("Findings")
    desk = window.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    assert desk.title.text() == "Looking …"
    assert desk.empty.text() == "Looking …"
    settle(window)
    assert desk.title.text() == "5 findings"


def test_a_walk_begins_at_the_first(window: Window) -> None:
    settle(window)
    QTest.keyClick(window.desk.hud, Qt.Key.Key_F8)
    desk = window.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    every = desk.rows.findings()
    assert desk.rows.chosen is every[0]
    QTest.keyClick(desk.rows, Qt.Key.Key_F8)
    assert desk.rows.chosen is every[1]


def test_after_a_mend_the_next_one_is_chosen(troubled: Window, desk: FindingsDesk) -> None:
    every = desk.rows.findings()
    number = next(i for i, finding in enumerate(every) if i > 3 and finding.fix is not None)
    desk.rows.choose(every[number])
    desk.fix()
    settle(troubled)
    left = desk.rows.findings()
    assert every[number].key not in [finding.key for finding in left]
    assert chosen(desk).key == every[number + 1].key


def test_what_follows_stands_under_its_cause_and_is_not_counted(desk: FindingsDesk) -> None:
    checking = desk._checking
    every = desk.rows.findings()
    number = next(i for i, finding in enumerate(every) if finding.cause is not None)
    assert every[number - 1].key == every[number].cause
    assert desk.title.text() == f"{len(checking.causes)} findings"
    assert len(checking.causes) == sum(finding.cause is None for finding in every) < len(every)
    model = desk.rows.model()
    named = [model.data(model.index(row, 0)) for row in range(model.rowCount())]
    row = next(i for i, name in enumerate(named) if name == every[number].short.replace("`", "") and i > number)
    desk.rows.scrollTo(model.index(row, 0))
    cause, follower = (desk.rows.visualRect(model.index(at, 0)) for at in (row - 1, row))
    assert follower.top() == cause.bottom() + 1
    assert follower.height() < cause.height()
    QTest.mouseClick(desk.rows.viewport(), Qt.MouseButton.LeftButton, pos=follower.center())
    assert chosen(desk) is every[number]
    assert f"follows from {every[number - 1].code}" in desk.where.text()
    desk.rows.choose(every[number - 1])
    before = len(checking.causes)
    QTest.keyClick(desk.rows, Qt.Key.Key_H)
    QTest.keyClicks(desk.reason, "known")
    QTest.keyClick(desk.reason, Qt.Key.Key_Return)
    assert len(checking.causes) == before - 1
    assert set(checking.quiet) >= {every[number - 1], every[number]}
    desk.editor.do(undo)


def test_looking_ends_after_an_ignored_finding(window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    settle(window)
    window.show_desk("Findings")
    desk = window.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    monkeypatch.setattr(checking, "REST_MS", 10)
    window.workspace.checking.ignore(desk.rows.findings()[0], "as it should be")
    assert desk.counts.note == "looking …"
    qtbot.waitUntil(lambda: not window.workspace.checking.busy, timeout=60_000)
    application().processEvents()
    assert desk.counts.note == ""


def test_a_mend_that_does_not_cure_is_not_offered_again_until_it_is_taken_back(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    checks, editor = window.workspace.checking, window.editor
    settle(window)
    lasting = replace(checks.findings[0], fix=Fix("rename", lambda project: replace(project, title="other")))
    monkeypatch.setattr(Inspector, "inspect", lambda *_, **__: [lasting])
    editor.do(set_rule, RulePlace("widget", "hull_bar", "inputs", "caption"), "BODY")
    settle(window)
    assert [f.fix is None for f in checks.findings] == [False]
    checks.fix(checks.findings[0])
    settle(window)
    assert (editor.now.project.title, [f.fix is None for f in checks.findings]) == ("other", [True])
    editor.do(undo)
    settle(window)
    assert [f.fix is None for f in checks.findings] == [False]
