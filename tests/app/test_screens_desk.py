"""The Screens desk in the real window: axes chosen, cells that show what is wrong, a press that opens one, sheets saved."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.controls.choice import Choice
from avrin.app.screens_desk.desk import ScreensDesk
from avrin.app.window.window import Window
from avrin.editor.edits import set_widget, undo
from avrin.editor.playback import go_to_seconds
from avrin.editor.viewing import show_in, show_over
from avrin.project.project import Locale, Place
from avrin.render.colour import EYES
from avrin.screens.axes import Cell, usual_cell
from avrin.screens.distance import DISTANCE
from gestures import rewrite
from window_fixtures import carried, one_window, qapp  # noqa: F401

LEFT, PLAIN = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def desk(carried: Window) -> ScreensDesk:
    carried.editor.do(go_to_seconds, 118)
    carried.activateWindow()
    QTest.keyClick(carried, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    QApplication.processEvents()
    found = carried.desks.currentWidget()
    assert isinstance(found, ScreensDesk)
    found.rest = usual_cell(found.editor.now.project)
    choose(found, "rows", "plates")
    choose(found, "columns", "screens")
    return found


def choose(desk: ScreensDesk, name: str, value: str) -> None:
    """By the list, with the mouse."""
    field = desk.choices[name]
    assert isinstance(field, Choice)
    at = field.findData(value)
    field.showPopup()
    QApplication.processEvents()
    view = field.view()
    QTest.mouseClick(view.viewport(), LEFT, PLAIN, view.visualRect(field.model().index(at, 0)).center())
    QApplication.processEvents()


def test_a_list_that_is_open_stays_when_findings_arrive(desk: ScreensDesk) -> None:
    field = desk.choices["eyes"]
    field.showPopup()
    QApplication.processEvents()
    desk.editor.announce("findings")
    QApplication.processEvents()
    assert field.view().isVisible()
    assert desk.choices["eyes"] is field
    field.hidePopup()
    choose(desk, "eyes", "its distance")
    assert desk.rest.eyes == "its distance"


def test_all_screens_over_all_plates_stand_there_and_follow_the_playhead(desk: ScreensDesk) -> None:
    grid = desk.cells.grid
    assert grid is not None
    assert (grid.rows, grid.columns) == (
        ("shelf", "wreck", "trench", "dive"),
        ("desk", "handheld", "wide", "living room"),
    )
    before = desk.cells.grab().toImage()
    desk.editor.do(go_to_seconds, 152)
    after = desk.cells.grab().toImage()
    assert before != after
    desk.editor.do(go_to_seconds, 118)
    until = time.monotonic() + 60
    while desk.cells.grab().toImage() != before and time.monotonic() < until:  # a film's picture comes a moment later
        QApplication.processEvents()
    assert desk.cells.grab().toImage() == before


def test_axes_are_chosen_and_change_places_where_both_would_be_one(desk: ScreensDesk) -> None:
    choose(desk, "rows", "screens")
    assert desk.axes == {"rows": "screens", "columns": "plates"}
    choose(desk, "columns", "eyes")
    grid = desk.cells.grid
    assert grid is not None
    assert grid.columns == (*EYES, DISTANCE)
    choose(desk, "plates", "trench")
    assert {cell.plate.name for line in grid_of(desk) for cell in line if cell.plate is not None} == {"trench"}
    choose(desk, "sizes", "150%")
    assert {cell.screen.scale for line in grid_of(desk) for cell in line} == {1.5}


def grid_of(desk: ScreensDesk) -> tuple[tuple[Cell, ...], ...]:
    assert desk.cells.grid is not None
    return desk.cells.grid.cells


def test_eyes_without_colour_see_none(desk: ScreensDesk) -> None:
    choose(desk, "rows", "eyes")
    image = desk.cells.grab().toImage()
    row = list(EYES).index("no colour")
    box = desk.cells.rect_of(row, 0).toRect()
    points = [(box.x() + x, box.y() + y) for x in range(5, box.width(), 17) for y in range(5, box.height(), 13)]
    colours = [image.pixelColor(x, y) for x, y in points]
    assert all(max(c.red(), c.green(), c.blue()) - min(c.red(), c.green(), c.blue()) <= 1 for c in colours)
    first = desk.cells.rect_of(0, 0).toRect()
    assert any(image.pixelColor(first.x() + x, first.y() + 40).saturation() > 60 for x in range(5, first.width(), 9))


def test_a_press_or_enter_opens_the_combination_on_the_bind_desk(desk: ScreensDesk, carried: Window) -> None:
    QTest.mouseClick(desk.cells, LEFT, PLAIN, desk.cells.rect_of(2, 1).center().toPoint())
    editor = carried.editor
    assert (editor.now.view.screen.name, editor.now.plate.name if editor.now.plate else "") == ("handheld", "trench")
    assert carried.desks.currentWidget() is carried.desk
    carried.show_desk("Screens")
    desk.cells.setFocus(Qt.FocusReason.TabFocusReason)
    QTest.keyClick(desk.cells, Qt.Key.Key_Tab)
    QTest.keyClick(desk.cells, Qt.Key.Key_Return)
    assert (editor.now.view.screen.name, editor.now.plate.name if editor.now.plate else "") == ("handheld", "shelf")


def test_what_is_wrong_in_a_cell_is_reported_on_the_spot(desk: ScreensDesk) -> None:
    found = {one.short for line in grid_of(desk) for cell in line for one in desk.cells.found_in(cell)}
    wrong = {f.short for f in desk._checking.findings if f.screen or f.plate}
    assert found == wrong


@pytest.mark.parametrize("end", [".png", ".svg", ".pdf"])
def test_the_sheet_can_be_kept(desk: ScreensDesk, tmp_path: Path, end: str) -> None:
    desk.save(tmp_path / f"sheet{end}")
    assert (tmp_path / f"sheet{end}").stat().st_size > 10_000


# -- languages ---------------------------------------------------------------------------------------------------------


def speaking(desk: ScreensDesk) -> None:
    choose(desk, "rows", "nothing")
    choose(desk, "columns", "languages")
    desk.window().activateWindow()
    assert QTest.qWaitForWindowActive(desk.window())


def test_the_hud_speaks_every_language_at_once_each_under_its_own_name(desk: ScreensDesk) -> None:
    speaking(desk)
    grid = desk.cells.grid
    assert grid is not None
    assert grid.columns == ("own language", "العربية", "Deutsch", "ไทย", "stretched", "mirrored")
    boxes = [desk.cells.rect_of(0, at) for at in range(6)]
    assert len({round(box.y()) for box in boxes}) == 2, "in two rows they are largest"
    image = desk.cells.grab().toImage()
    parts = [image.copy(box.toAlignedRect()) for box in boxes]
    assert all(parts[0] != other for other in parts[1:])


def test_a_translation_is_written_in_place_and_seen_at_once(desk: ScreensDesk) -> None:
    speaking(desk)
    cell = desk.cells.rect_of(0, 2)
    german = desk.cells.grab(cell.toAlignedRect()).toImage()
    # Depth is at the lower left.
    spot = cell.topLeft() + QPointF(cell.width() * 0.05, cell.height() * 0.885)
    QTest.mouseClick(desk.cells, Qt.MouseButton.RightButton, PLAIN, spot.toPoint())
    QApplication.processEvents()
    assert desk.texts.isVisible()
    (field,) = desk.texts.fields["Depth  {depth | 0.0} m"]
    assert field.hasFocus()
    assert field.text() == "Tiefe  {depth | 0.0} m"
    file = desk.editor.now.folder / "texts/de.po"
    before = file.read_bytes()
    rewrite(field, "Tief  {dept} m")
    assert file.read_bytes() == before, "what names another value is not taken"
    rewrite(field, "Wassertiefe  {depth | 0.0} m")
    assert 'msgstr "Wassertiefe  {depth | 0.0} m"' in file.read_text("utf-8")
    desk.texts.close_it()
    QApplication.processEvents()
    assert desk.cells.grab(cell.toAlignedRect()).toImage() != german
    file.write_bytes(before)


def test_a_new_language_is_begun_told_how_it_is_written_and_undone(desk: ScreensDesk) -> None:
    speaking(desk)
    desk.texts.open_under(desk.texts_link, "")
    rewrite(desk.texts.new_code, "../x")
    assert desk.editor.now.project.languages[-1].code == "ar"
    rewrite(desk.texts.new_code, "fr")
    assert desk.editor.now.project.languages[-1] == Locale(code="fr")
    QTest.mouseClick(desk.texts.mirror, LEFT)
    rewrite(desk.texts.font_field, "letters.ttf")
    assert desk.editor.now.project.languages[-1] == Locale(code="fr", font="letters.ttf", mirror=True)
    (field,) = desk.texts.fields["Surfaced"]
    rewrite(field, "En surface")
    assert (desk.editor.now.folder / "texts/fr.po").exists()
    desk.texts.close_it()
    for _ in range(3):
        desk.editor.do(undo)
    assert [one.code for one in desk.editor.now.project.languages] == ["ar"]
    (desk.editor.now.folder / "texts/fr.po").unlink()


def test_a_cell_is_looked_at_in_its_language_with_things_where_hands_hold_them(
    carried: Window, desk: ScreensDesk
) -> None:
    speaking(desk)
    desk.cells.press_part(1)
    QApplication.processEvents()
    hud = carried.desk.hud
    assert carried.editor.now.view.language == "ar"
    assert carried.header.language.isVisible()
    assert carried.header.language.text() == "ar"
    there = {one.ident: one.rect for one in hud.placed}
    carried.editor.do(show_in, "own")
    QApplication.processEvents()
    assert {one.ident: one.rect for one in hud.placed} == there
    assert not carried.header.language.isVisible()


def test_walking_the_findings_walks_the_cells(carried: Window, desk: ScreensDesk) -> None:
    """Each is shown at its moment, in a cell that has it, with its widget framed; the project's own are nowhere else."""
    editor = desk.editor
    low = replace(
        editor.now.project.widget("depth"), place=Place(anchor="bottom-left", offset=(20.0, 20.0), size=(300.0, 40.0))
    )
    over = replace(editor.now.project.widget("tide"), place=Place(anchor="center", pivot="center", size=(300.0, 80.0)))
    editor.do(set_widget, low, "off it")
    editor.do(set_widget, over, "over the boat")
    desk._checking.wait()
    QApplication.processEvents()
    wanted = [one for one in desk._checking.findings if one.screen or one.plate or one.language]
    assert {"off-screen", "keep-clear"} <= {one.code for one in wanted}
    assert desk.walk_link.text().startswith(f"walk {len(wanted)} findings")
    choose(desk, "rows", "nothing")
    seen = []
    for _ in wanted:
        QTest.keyClick(carried, Qt.Key.Key_F8)
        QApplication.processEvents()
        told = desk.cells.told
        assert told is not None
        seen.append(told)
        cell = [one for line in grid_of(desk) for one in line][desk.cells.at]
        assert told.key in {one.key for one in desk.cells.found_in(cell)}
        assert told.start is None or editor.now.frame == told.start
        assert carried.message.text().startswith(told.why)
    assert seen == wanted
    assert isinstance(carried.desks.currentWidget(), ScreensDesk)
    QTest.keyClick(carried, Qt.Key.Key_F8, Qt.KeyboardModifier.ShiftModifier)
    assert desk.cells.told == wanted[-2]
    with_frame = desk.cells.grab().toImage()
    desk.cells.told = None
    assert desk.cells.grab().toImage() != with_frame


def test_what_can_be_read_from_the_sofa_is_seen_on_the_sheet(desk: ScreensDesk) -> None:
    before = desk.cells.grab().toImage()
    choose(desk, "eyes", "its distance")
    image = desk.cells.grab().toImage()
    assert image != before
    assert desk.rest.eyes == "its distance"


def test_the_head_line_and_the_sheet_say_the_same(carried: Window, desk: ScreensDesk) -> None:
    editor = desk.editor
    choose(desk, "rows", "eyes")
    editor.do(show_over, editor.now.project.plates[2])
    QApplication.processEvents()
    assert {cell.plate.name for line in grid_of(desk) for cell in line if cell.plate} == {"trench"}
    editor.do(show_over, None)
    QApplication.processEvents()
    assert {cell.plate for line in grid_of(desk) for cell in line} == {None}, "no plate there, none here"
    choose(desk, "plates", "wreck")
    assert editor.now.plate is not None
    assert editor.now.plate.name == "wreck"
    choose(desk, "rows", "plates")
    choose(desk, "columns", "sizes")
    choose(desk, "screens", "handheld")
    assert editor.now.view.screen.name == "handheld"
    assert carried.header.screen_link.text().startswith("1280")


def test_each_cell_tells_what_is_found_of_itself(desk: ScreensDesk) -> None:
    editor = desk.editor
    far = Place(offset=(1840.0, 20.0), size=(300.0, 40.0))
    editor.do(set_widget, replace(editor.now.project.widget("depth"), place=far), "off it")
    desk._checking.wait()
    QApplication.processEvents()
    for cell in [cell for line in grid_of(desk) for cell in line]:
        off = [one for one in desk.cells.found_in(cell) if (one.code, one.widget) == ("off-screen", "depth")]
        assert [one.screen for one in off] == ([cell.screen.name] if cell.screen.name != "wide" else [])


def test_a_saved_sheet_says_what_is_wrong_in_each_cell(desk: ScreensDesk, tmp_path: Path) -> None:
    editor = desk.editor
    far = Place(offset=(1840.0, 20.0), size=(300.0, 40.0))
    editor.do(set_widget, replace(editor.now.project.widget("depth"), place=far), "off it")
    desk._checking.wait()
    QApplication.processEvents()
    desk.save(tmp_path / "sheet.svg")
    written = (tmp_path / "sheet.svg").read_text()
    assert written.count("<title>Depth: ") >= 3
    assert written.count('href="data:') <= len(editor.now.project.plates), "each plate once"
