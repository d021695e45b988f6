"""The Ladder desk in the real window: cells that go somewhere or hold a value, edges dragged, files kept."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.window.window import Window
from avrin.editor.edits import set_widget, undo
from avrin.editor.playback import go_to_seconds
from avrin.editor.selecting import select_widget
from avrin.errors import AvrinError
from avrin.ladder.rows import Row
from avrin.ladder.samples import Sample
from avrin.ladder.sheet import percent
from avrin.project.project import Place, Widget
from avrin.render.values import clock
from window_fixtures import carried, one_window, qapp  # noqa: F401


@pytest.fixture
def desk(carried: Window) -> LadderDesk:
    window = carried
    window.editor.do(go_to_seconds, 118)
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    found = window.desks.currentWidget()
    assert isinstance(found, LadderDesk)
    found.begin_anew()
    found.wait()
    return found


def row(desk: LadderDesk, ident: str) -> tuple[int, Row]:
    return next((i, one) for i, one in enumerate(desk.rows.rows) if one.widget.widget.id == ident)


def press(desk: LadderDesk, ident: str, sample: Sample) -> None:
    number, _ = row(desk, ident)
    QTest.mouseClick(desk.rows, Qt.MouseButton.LeftButton, pos=desk.rows.cell_rect(number, sample).center().toPoint())


def test_every_widget_that_something_drives_has_a_row(desk: LadderDesk) -> None:
    shown = {one.widget.widget.id for one in desk.rows.rows}
    assert {"hull_bar", "spare_cells", "tide", "leak_warning", "crew_table", "lost"} <= shown
    samples = [sample for one in desk.rows.rows for sample in one.samples]
    never = sum(sample.never for sample in samples)
    assert desk.never.text() == f"{never} of {len(samples)} states were never shown by any recording"


def test_a_cell_goes_to_the_first_moment_in_whichever_recording_has_it(desk: LadderDesk) -> None:
    _, scrap = row(desk, "scrap")
    rich = next(sample for sample in scrap.samples if sample.recorded.trace == "rich-haul")
    press(desk, "scrap", rich)
    assert desk.editor.now.trace.name == "rich-haul"
    assert desk.editor.now.seconds == pytest.approx(rich.there.first)
    assert desk.editor.now.value("scrap") == rich.value
    assert desk.editor.now.selection.widget == "scrap"


def test_a_cell_that_no_recording_shows_holds_the_value(desk: LadderDesk) -> None:
    _, tide = row(desk, "tide")
    never = next(sample for sample in tide.samples if isinstance(sample.value, float) and not sample.there.frames)
    press(desk, "tide", never)
    assert desk.editor.now.pins == {"tide_left": never.value}


def test_an_edge_is_dragged_and_the_band_follows(desk: LadderDesk) -> None:
    number, hull = row(desk, "hull_bar")
    y, sheet = desk.rows._sheets[number]
    rect, cells = next((rect, cells) for rect, cells in sheet.brackets if cells.band == "low")
    start = QPoint(round(rect.x + rect.width / 2), round(y + rect.y + 8))
    QTest.mousePress(desk.rows, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(desk.rows, start + QPoint(40, 0))
    QTest.mouseRelease(desk.rows, Qt.MouseButton.LeftButton, pos=start + QPoint(40, 0))
    band = next(band for band in desk.editor.now.project.widget("hull_bar").bands if band.name == "low")
    assert band.below.endswith("%")
    assert 26 <= int(band.below[:-1]) <= 40
    desk.wait()
    _, after = row(desk, "hull_bar")
    moved = next(group.edge for group in after.groups if group.band == "low")
    assert cells.edge is not None
    assert moved is not None
    assert moved > cells.edge
    desk.editor.do(undo)
    assert desk.editor.now.project.widget("hull_bar").bands[1].below == "25%"
    assert hull.driver == "hull"


def test_another_variable_drives_crosses_and_arrives(desk: LadderDesk) -> None:
    number, _ = row(desk, "hull_bar")
    y, sheet = desk.rows._sheets[number]
    for does in ("drive", "arrive"):
        rect = next(rect for rect, link in sheet.links if link.does == does and link.name in ("hull_max", ""))
        QTest.mouseClick(desk.rows, Qt.MouseButton.LeftButton, pos=QPoint(round(rect.x + 6), round(y + rect.y + 8)))
    desk.wait()
    number, after = row(desk, "hull_bar")
    assert after.driver == "hull_max"
    assert after.arrivals
    y, sheet = desk.rows._sheets[number]
    rect = next(rect for rect, link in sheet.links if tuple(link) == ("cross", "hull"))
    QTest.mouseClick(desk.rows, Qt.MouseButton.LeftButton, pos=QPoint(round(rect.x + 6), round(y + rect.y + 8)))
    desk.wait()
    held = [one.held for one in desk.rows.rows if one.widget.widget.id == "hull_bar"]
    assert held == [{}, {"hull": 0.0}, {"hull": 140.0}]


def test_only_what_was_never_shown_and_one_recording_alone(desk: LadderDesk) -> None:
    every = len(desk.rows.rows)
    QTest.mouseClick(desk.never_link, Qt.MouseButton.LeftButton)
    assert 0 < len(desk.rows.rows) <= every
    assert all(sample.never for one in desk.rows.rows for sample in one.samples)
    QTest.mouseClick(desk.never_link, Qt.MouseButton.LeftButton)
    assert len(desk.rows.rows) == every
    assert desk.where_link.text() == "in all recordings"
    QTest.mouseClick(desk.where_link, Qt.MouseButton.LeftButton)
    (menu,) = [one for one in desk.findChildren(QMenu) if one.isVisible()]
    assert [(one.text(), one.isChecked()) for one in menu.actions()] == [
        ("In all recordings", True), ("In this recording", False),
    ]  # fmt: skip
    menu.actions()[1].trigger()
    menu.close()
    desk.window().activateWindow()
    desk.wait()
    assert desk.where_link.text() == "in this recording"
    found = [sample.interval.occurrences for one in desk.rows.rows for sample in one.samples]
    assert {one.trace for one in found if one.frames} == {"leaky-dive"}


def test_keys_go_from_cell_to_cell(desk: LadderDesk) -> None:
    desk.rows.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Return):
        QTest.keyClick(desk.rows, key)
    assert desk.editor.now.frame != desk.editor.now.trace.frame_at(118) or desk.editor.now.pins


@pytest.mark.parametrize("end", [".png", ".svg", ".csv", ".html"])
def test_what_is_shown_can_be_kept(desk: LadderDesk, end: str, tmp_path: Path) -> None:
    desk.save(tmp_path / f"ladder{end}")
    assert (tmp_path / f"ladder{end}").stat().st_size > 2000


@pytest.mark.parametrize("end", [".png", ".svg", ".csv", ".html"])
def test_the_other_face_can_be_kept_too(desk: LadderDesk, end: str, tmp_path: Path) -> None:
    ladder, states = tmp_path / f"ladder{end}", tmp_path / f"states{end}"
    desk.save(ladder)
    QTest.mouseClick(desk.face_links["states by recording"], Qt.MouseButton.LeftButton)
    desk.save(states)
    assert states.read_bytes() != ladder.read_bytes()
    if end == ".csv":
        assert states.read_text().startswith("widget,state,recording")


def test_a_sheet_too_high_for_a_picture_says_so_and_leaves_no_file(desk: LadderDesk, tmp_path: Path) -> None:
    desk.rows.rows = desk.rows.rows * 12
    with pytest.raises(AvrinError, match=r"pixels high.*Write an \.svg"):
        desk.save(tmp_path / "ladder.png")
    assert not (tmp_path / "ladder.png").exists()
    desk.save(tmp_path / "ladder.svg")
    assert 'width="1280"' in (tmp_path / "ladder.svg").read_text()[:200]


def test_the_other_face_tells_which_recordings_showed_each_state(desk: LadderDesk) -> None:
    QTest.mouseClick(desk.face_links["states by recording"], Qt.MouseButton.LeftButton)
    desk.wait()
    assert desk.states.isVisible()
    critical = desk.states.covered["hull_bar"]["critical"]
    assert [(stay.trace, stay.times) for stay in critical] == [("leaky-dive", 2), ("calm-dive", 0), ("rich-haul", 0)]
    assert desk.states.grab().toImage().height() > 600
    QTest.mouseClick(desk.face_links["every threshold"], Qt.MouseButton.LeftButton)
    assert desk.rows.isVisible()


def test_cells_and_words_say_what_they_are(desk: LadderDesk) -> None:
    number, hull = row(desk, "hull_bar")
    low = next(sample for sample in hull.samples if sample.value == 34.9)
    tip = desk.rows.tip_at(desk.rows.cell_rect(number, low).center())
    share, first = percent(low.interval.share), clock(low.interval.occurrences.first or 0)
    assert tip == f"hull 34.9: 14 to 35: {share} of all frames, first at {first} of leaky-dive"
    missing = desk.rows.tip_at(desk.rows.cell_rect(number, hull.samples[0]).center())
    assert missing == "hull missing: never recorded. Press to pin the value"
    y, sheet = desk.rows._sheets[number]
    rect = next(rect for rect, link in sheet.links if tuple(link) == ("cross", "hull_max"))
    assert desk.rows.tip_at(QPointF(rect.x + 6, y + rect.y + 8)) == "Cross with hull_max at both ends of its range"


def test_the_copy_that_was_pressed_in_the_picture_has_the_row(carried: Window) -> None:
    editor, hud = carried.editor, carried.desk.hud
    haul = Widget(
        id="haul", kind="counter", inputs={"value": "crew[slot].scrap"}, repeat="crew",
        place=Place(offset=(700.0, 60.0), size=(120.0, 60.0), step=(140.0, 0.0)),
    )  # fmt: skip
    editor.do(set_widget, haul, "a repeated one")
    editor.do(go_to_seconds, 118)
    QApplication.processEvents()
    for slot in (2, 1):
        editor.do(select_widget, "")  # the selection's tag covers the next copy
        placed = next(one for one in hud.placed if (one.ident, one.slot) == ("haul", slot))
        QTest.mouseClick(hud, Qt.MouseButton.LeftButton, pos=hud.to_view(placed.rect).center().toPoint())
        QTest.keyClick(carried, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
        found = carried.desks.currentWidget()
        assert isinstance(found, LadderDesk)
        found.begin()
        found.wait()
        assert row(found, "haul")[1].widget.slot == slot
        QTest.keyClick(carried, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
        QApplication.processEvents()
