"""The real window, driven by mouse and keys."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from avrin.app.bind_desk.card.band_strip import handy
from avrin.app.controls.link import Link
from avrin.app.main import application, make_window
from avrin.app.window.window import SIZE, Window
from avrin.binding.places import RulePlace
from avrin.editor.by_hand import pin
from avrin.editor.edits import mark_saved, set_rule, undo
from avrin.editor.playback import go_to, go_to_seconds, moments, set_playing
from avrin.editor.selecting import select, select_variable, select_widget
from avrin.editor.snapshot import Selection
from avrin.editor.viewing import show_on
from avrin.errors import AvrinError
from avrin.render.layout import Rect
from avrin.render.scene import widget_rect
from avrin.rules.errors import RuleError
from avrin.storage.files import load
from window_fixtures import qapp, window  # noqa: F401

LEFT = Qt.MouseButton.LeftButton
PLAIN = Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier
NUDGE = Qt.KeyboardModifier.AltModifier


def picture(window: Window) -> QImage:
    return window.desk.hud.grab().toImage()


def same_pixels(item: QImage, other: QImage) -> bool:
    """Whether two pictures look the same: what never changes is painted ahead, and translucent colours round otherwise then."""
    first, second = (
        np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4).astype(int)
        for image in (item, other)
    )
    return bool(np.abs(first - second).max() <= 3)


def middle_of(window: Window, ident: str) -> QPoint:
    """A widget's middle in the picture."""
    hud = window.desk.hud
    placed = next(p for p in hud.placed if p.ident == ident)
    return hud.to_view(placed.rect).center().toPoint()


def chosen_rect(window: Window) -> Rect:
    """The selected widget's box on the screen."""
    chosen = window.editor.now.widget
    assert chosen is not None
    return widget_rect(window.editor.now.project, chosen.widget, window.editor.now.view.screen)


def drag(window: Window, name: str, goal: QPointF) -> None:
    """A variable's lane head, dragged to a point of the picture (shares of its sides)."""
    lanes, hud = window.desk.lanes, window.desk.hud
    lanes.reveal(name)
    application().processEvents()
    rect = lanes.lane_rect(name)
    assert rect is not None
    area, view = hud.picture_rect(), lanes.viewport()
    point = QPoint(round(area.x() + goal.x() * area.width()), round(area.y() + goal.y() * area.height()))
    end = view.mapFromGlobal(hud.mapToGlobal(point))
    start = QPoint(60, rect.center().y())
    QTest.mousePress(view, LEFT, PLAIN, start)
    for i in range(1, 5):
        QTest.mouseMove(view, start + (end - start) * i / 4)
    QTest.mouseRelease(view, LEFT, PLAIN, end)


# -- the three parts ----------------------------------------------------------------------------------------------------


def test_it_opens_at_its_size_with_three_parts_and_a_selected_widget(window: Window) -> None:
    assert (window.width(), window.height()) == SIZE
    area = window.desk.hud.picture_rect()
    assert (round(area.width()), round(area.height())) == (768, 432)
    assert window.editor.now.widget is not None
    assert [row.place.name for row in window.desk.card.rows[:4]] == ["value", "full", "caption", "visible"]
    names = [(lane.name, lane.sort == "widget") for lane in window.desk.lanes.lanes]
    assert names[:3] == [("hull_bar", True), ("hull", False), ("hull_max", False)]
    variables = {v.name for v in window.editor.now.project.variables}
    assert variables <= {name for name, widget in names if not widget}


def test_a_click_in_the_picture_picks_the_widget_on_top(window: Window) -> None:
    QTest.mouseClick(window.desk.hud, LEFT, PLAIN, middle_of(window, "tide"))
    assert window.editor.now.selection == Selection(widget="tide")
    assert window.desk.card.rows[0].edit.toPlainText() == "tide_left"
    QTest.mouseClick(window.desk.hud, LEFT, PLAIN, QPoint(384, 216))
    assert window.editor.now.selection == Selection()


def test_chips_rule_and_result_follow_the_playhead(window: Window) -> None:
    editor = window.editor
    editor.do(go_to_seconds, 118)
    row = window.desk.card.rows[0]
    hull = editor.now.trace.columns["hull"][editor.now.frame]
    assert isinstance(hull, float)
    assert row.chips.names() == ["hull"]
    assert row.result() == f"{hull:.2f}".rstrip("0").rstrip(".")
    editor.do(go_to, 0)
    assert row.result() == "100"


# -- playing ------------------------------------------------------------------------------------------------------------


def test_space_plays_in_real_time_and_pauses(window: Window, qtbot: QtBot) -> None:
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Space)
    assert window.editor.now.playing
    qtbot.waitUntil(lambda: window.editor.now.seconds > 0.3, timeout=60_000)
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Space)
    frame = window.editor.now.frame
    qtbot.wait(60)
    assert not window.editor.now.playing
    assert window.editor.now.frame == frame


def test_keys_step_by_frames_seconds_moments_and_ends(window: Window) -> None:
    editor, hud = window.editor, window.desk.hud
    for key, expected in [
        (Qt.Key.Key_Right, 1),
        (Qt.Key.Key_Right, 2),
        (Qt.Key.Key_Left, 1),
        (Qt.Key.Key_Home, 0),
        (Qt.Key.Key_Left, 0),
    ]:
        QTest.keyClick(hud, key)
        assert editor.now.frame == expected
    QTest.keyClick(hud, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert editor.now.seconds == pytest.approx(1, abs=0.02)
    QTest.keyClick(hud, Qt.Key.Key_Home)
    at = moments(editor.now).tolist()
    for expected in at[1:4]:
        QTest.keyClick(hud, Qt.Key.Key_BracketRight)
        assert editor.now.frame == expected
    QTest.keyClick(hud, Qt.Key.Key_BracketLeft)
    assert editor.now.frame == at[2]
    QTest.keyClick(hud, Qt.Key.Key_End)
    assert editor.now.frame == len(editor.now.trace) - 1


def test_moments_are_those_of_the_selected_widget_or_of_all(window: Window) -> None:
    editor = window.editor
    chosen = editor.now.widget
    assert chosen is not None
    own = moments(editor.now)
    assert own.tolist() == editor.now.tracks.moments([chosen]).tolist()
    editor.do(select, Selection())
    assert moments(editor.now).tolist() == editor.now.tracks.moments().tolist()
    assert len(moments(editor.now)) > len(own)


def test_playing_stops_at_the_end_and_begins_anew(window: Window, qtbot: QtBot) -> None:
    editor = window.editor
    editor.do(go_to, len(editor.now.trace) - 3)
    editor.do(set_playing, True)
    qtbot.waitUntil(lambda: not editor.now.playing, timeout=60_000)
    assert editor.now.frame == len(editor.now.trace) - 1
    editor.do(set_playing, True)
    assert editor.now.frame == 0
    editor.do(set_playing, False)


def test_the_picture_shows_another_state_at_another_time(window: Window) -> None:
    first = picture(window)
    window.editor.do(go_to_seconds, 118)
    assert picture(window) != first


# -- editing rules ------------------------------------------------------------------------------------------------------


def test_typing_a_rule_changes_everything_while_typing_and_is_one_undo_step(window: Window) -> None:
    editor = window.editor
    editor.do(go_to_seconds, 118)
    before = picture(window)
    edit = window.desk.card.rows[0].edit
    edit.setFocus()
    edit.selectAll()
    QTest.keyClicks(edit, "hull / 2")
    bar = editor.now.widget
    assert bar is not None
    hull = editor.now.trace.columns["hull"][editor.now.frame]
    assert editor.now.tracks.state(bar, editor.now.frame)["fraction"] == pytest.approx(hull / 2 / 140)  # type: ignore[operator]
    assert not same_pixels(picture(window), before)
    QTest.keyClick(edit, Qt.Key.Key_Z, CTRL)
    assert edit.toPlainText() == "hull"
    assert editor.now.project.widget("hull_bar").inputs["value"] == "hull"
    assert same_pixels(picture(window), before)
    QTest.keyClick(edit, Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert edit.toPlainText() == "hull / 2"


def test_an_error_stands_under_its_character_and_the_rest_goes_on(window: Window) -> None:
    editor = window.editor
    row = window.desk.card.rows[0]
    row.edit.setFocus()
    row.edit.selectAll()
    QTest.keyClicks(row.edit, "hull + air2")
    error = editor.now.bound.errors[row.place]
    assert isinstance(error, RuleError)
    assert error.span == (7, 11)
    formats = row.edit.document().firstBlock().layout().formats()
    waved = [f for f in formats if f.format.underlineStyle() == f.format.UnderlineStyle.WaveUnderline]
    assert {at for f in waved for at in range(f.start, f.start + f.length)} == {7, 8, 9, 10}
    assert "no variable `air2`" in row.problem.text().replace("No", "no")
    assert row.result() == "—"
    assert editor.now.tracks.state(editor.now.bound.widgets["air_bar"], 0)["fraction"] == pytest.approx(1, abs=0.01)
    QTest.keyClick(row.edit, Qt.Key.Key_Backspace)
    assert row.place not in editor.now.bound.errors
    assert not row.problem.isVisible()


def test_emptying_a_field_keeps_the_caret_and_loses_nothing(window: Window) -> None:
    row = window.desk.card.rows[0]
    row.edit.setFocus()
    row.edit.selectAll()
    QTest.keyClick(row.edit, Qt.Key.Key_Delete)
    assert "Nothing feeds it" in window.desk.card.rows[0].problem.text()
    QTest.keyClicks(window.desk.card.rows[0].edit, "air")
    assert window.editor.now.project.widget("hull_bar").inputs["value"] == "air"


def test_a_band_limit_is_dragged_along_the_strip(window: Window) -> None:
    strip = window.desk.card.bands
    assert strip is not None
    y = 40
    start, goal = QPoint(round(strip.width() * 0.25), y), QPoint(round(strip.width() * 0.5), y)
    QTest.mousePress(strip, LEFT, PLAIN, start)
    QTest.mouseMove(strip, goal)
    QTest.mouseRelease(strip, LEFT, PLAIN, goal)
    assert window.editor.now.project.widget("hull_bar").bands[1].below == "50%"
    window.editor.do(undo)
    assert window.editor.now.project.widget("hull_bar").bands[1].below == "25%"


@pytest.mark.parametrize(
    ("level", "span", "written"),
    [
        (0.2537, 1.0, 0.25),
        (26.4, 100.0, 26.0),
        (26.4, 99.0, 26.4),
        (-13.77, 128.0, -14.0),
        (71.4, 7100.0, 70.0),
        (3.0, 0.0, 3.0),
    ],
)
def test_a_dragged_limit_is_one_that_a_person_would_write(level: float, span: float, written: float) -> None:
    assert handy(level, span) == written


def test_what_is_said_is_as_wide_as_its_text_and_wraps(window: Window) -> None:
    window.editor.say("Saved")
    message = window.message
    assert message.height() == 18 + 16
    assert message.width() < 120
    window.editor.say("a very long path " * 16, error=True)
    assert message.width() == window.width() - 120
    assert 18 + 2 * 16 <= message.height() <= 18 + 4 * 16
    assert window.rect().contains(message.geometry())


def test_an_input_is_added_with_something_to_write_over(window: Window) -> None:
    window.editor.do(select_widget, "quota_ring")
    application().processEvents()
    card = window.desk.card
    link = next(link for link in card.findChildren(Link) if link.text() == "+ caption")
    QTest.mouseClick(link, LEFT)
    application().processEvents()
    added = next(row for row in card.rows if row.place.input == "caption")
    assert window.editor.now.project.widget("quota_ring").inputs["caption"] == "…"
    assert added.edit.hasFocus()
    assert added.edit.textCursor().selectedText() == "…"
    window.editor.do(undo)
    assert "caption" not in window.editor.now.project.widget("quota_ring").inputs


# -- binding by a drag --------------------------------------------------------------------------------------------------


def test_a_variable_dropped_on_empty_screen_becomes_a_complete_widget_in_one_step(window: Window) -> None:
    editor = window.editor
    before = editor.now.project
    drag(window, "depth", QPointF(0.5, 0.3))
    chosen = editor.now.widget
    assert chosen is not None
    assert chosen.widget.kind == "counter"  # a measure that is neither good nor bad, so it gets no bands
    assert chosen.widget.inputs == {"value": "depth", "caption": "Depth, m"}
    assert not chosen.widget.bands
    assert not editor.now.bound.errors
    assert window.desk.chooser.isVisible()
    center = window.desk.hud.to_view(chosen_rect(window)).center()
    area = window.desk.hud.picture_rect()
    assert (center.x() / area.width(), center.y() / area.height()) == pytest.approx((0.5, 0.3), abs=0.01)
    link = next(link for link in window.desk.chooser.links if link.text() == "bar")
    QTest.mouseClick(link, LEFT)
    assert editor.now.widget is not None
    assert editor.now.widget.widget.inputs["full"] == "60"
    assert editor.now.widget.widget.inputs["caption"] == "Depth  {depth | 0, up}"
    editor.do(undo)
    assert editor.now.project == before


def test_a_drop_outside_the_picture_or_escape_changes_nothing(window: Window) -> None:
    before = window.editor.now.project
    drag(window, "depth", QPointF(1.3, 0.3))
    assert window.editor.now.project is before


def test_a_variable_dropped_on_a_label_offers_its_inputs(window: Window) -> None:
    from PySide6.QtWidgets import QMenu

    area = window.desk.hud.picture_rect()
    point = middle_of(window, "depth")
    drag(window, "cells", QPointF(point.x() / area.width(), point.y() / area.height()))
    menu = next(m for m in window.desk.hud.findChildren(QMenu) if m.isVisible())
    assert [a.text().split(":")[0] for a in menu.actions()] == ["text", "opacity"]
    menu.actions()[0].trigger()
    menu.close()
    assert window.editor.now.project.widget("depth").inputs["text"] == "{cells}"


def test_a_variable_is_bound_by_keyboard_alone(window: Window) -> None:
    lanes = window.desk.lanes
    QTest.keyClick(window, Qt.Key.Key_F3)
    window.editor.do(select_variable, "at_bell")
    QTest.keyClick(lanes, Qt.Key.Key_Return)
    chosen = window.editor.now.widget
    assert chosen is not None
    assert chosen.widget.id == "at_bell_prompt"
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Left, NUDGE)
    assert window.editor.now.project.widget("at_bell_prompt").place.offset[0] == chosen.widget.place.offset[0] - 1


def test_what_is_shown_while_a_value_is_missing_is_one_choice(window: Window) -> None:
    from avrin.app.bind_desk.card.missing_line import HIDDEN, OURS, TEXT, MissingLine

    editor = window.editor
    editor.do(select_widget, "depth")
    line = window.desk.card.findChild(MissingLine)
    assert isinstance(line, MissingLine)
    assert line.choice.currentText() == OURS
    QTest.keyClick(line.choice, Qt.Key.Key_Down)
    application().processEvents()
    assert line.choice.currentText() == TEXT
    assert editor.now.project.widget("depth").missing.text == "###"
    line.field.selectAll()
    QTest.keyClicks(line.field, "no signal")
    QTest.keyClick(line.field, Qt.Key.Key_Return)
    assert editor.now.project.widget("depth").missing.text == "no signal"
    editor.do(pin, "depth", None)
    shown = editor.now.widget
    assert shown is not None
    assert editor.now.tracks.state(shown, editor.now.frame)["text"] == "Depth  no signal m"
    QTest.keyClick(line.choice, Qt.Key.Key_Down)
    application().processEvents()
    assert line.choice.currentText() == HIDDEN
    assert editor.now.widget is not None
    assert editor.now.tracks.state(editor.now.widget, editor.now.frame)["visible"] is False
    for _ in range(3):
        editor.do(undo)
    assert line.choice.currentText() == OURS


# -- placing ------------------------------------------------------------------------------------------------------------


def test_dragging_a_widget_moves_it_and_is_one_undo_step(window: Window) -> None:
    editor, hud = window.editor, window.desk.hud
    start = middle_of(window, "spare_cells")
    offset = editor.now.project.widget("spare_cells").place.offset
    QTest.mousePress(hud, LEFT, PLAIN, start)
    for step in (10, 40, 120):
        QTest.mouseMove(hud, start + QPoint(step, 13))
    QTest.mouseRelease(hud, LEFT, CTRL, start + QPoint(120, 13))
    moved = editor.now.project.widget("spare_cells").place.offset
    assert moved[0] - offset[0] == pytest.approx(300, abs=22)  # 120 of 768 pixels are 300 of 1920, snapping aside
    editor.do(undo)
    assert editor.now.project.widget("spare_cells").place.offset == offset


def test_pulling_a_corner_sizes_the_widget_and_the_other_corner_stays(window: Window) -> None:
    editor, hud = window.editor, window.desk.hud
    editor.do(select_widget, "tide")
    rect = hud.to_view(chosen_rect(window))
    corner = rect.bottomLeft().toPoint()
    QTest.mousePress(hud, LEFT, PLAIN, corner)
    QTest.mouseMove(hud, corner + QPoint(-50, 10))
    QTest.mouseRelease(hud, LEFT, PLAIN, corner + QPoint(-50, 10))
    after = hud.to_view(chosen_rect(window))
    assert (after.right(), after.top()) == pytest.approx((rect.right(), rect.top()), abs=0.5)
    assert after.width() == pytest.approx(rect.width() + 50, abs=0.6)


def test_delete_removes_and_undo_brings_back(window: Window) -> None:
    window.editor.do(select_widget, "scrap")
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Delete)
    assert "scrap" not in window.editor.now.bound.widgets
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Z, CTRL)
    assert "scrap" in window.editor.now.bound.widgets


# -- lanes --------------------------------------------------------------------------------------------------------------


def test_scrubbing_zooming_and_panning_in_time(window: Window) -> None:
    lanes, scale, editor = window.desk.lanes, window.desk.scale, window.editor
    QTest.mouseClick(lanes.viewport(), LEFT, PLAIN, QPoint(round(scale.x(120)), 60))
    assert editor.now.seconds == pytest.approx(120, abs=scale.per_pixel)
    before = scale.span
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Plus)
    assert scale.span == pytest.approx(before * 0.6)
    assert scale.x(120) == pytest.approx(lanes.scale.x(editor.now.seconds), abs=1)
    scale.pan(1e9)
    assert scale.start + scale.span == pytest.approx(scale.length)
    QTest.keyClick(window.desk.hud, Qt.Key.Key_0)
    assert (scale.start, scale.span) == (0.0, scale.length)


def test_picking_another_recording_and_another_screen(window: Window) -> None:
    editor = window.editor
    window.workspace.traces.show("traces/rich-haul.csv")
    assert editor.now.trace.name == "rich-haul"
    assert window.desk.scale.length == pytest.approx(editor.now.trace.length)
    editor.do(show_on, editor.now.project.screens[2])
    area = window.desk.hud.picture_rect()
    assert area.width() / area.height() == pytest.approx(2560 / 1080)


# -- files --------------------------------------------------------------------------------------------------------------


def test_saving_writes_the_edit_and_a_faulty_file_leaves_what_is_open(window: Window, tmp_path: Path) -> None:
    editor = window.editor
    editor.do(set_rule, RulePlace("widget", "hull_bar", "inputs", "caption"), "HULL!")
    assert editor.now.history.edited
    QTest.keyClick(window.desk.hud, Qt.Key.Key_S, CTRL)
    assert not editor.now.history.edited
    assert editor.now.path is not None
    assert load(editor.now.path)[0].widget("hull_bar").inputs["caption"] == "HULL!"
    bad = tmp_path / "bad.avrin"
    bad.write_text("{")
    window.open(bad)
    assert "bad.avrin, line 1, column 2: is not JSON" in window.message.text()
    assert editor.now.project.title == "Brinehook"


def test_unsaved_edits_come_back_after_a_crash(window: Window, qtbot: QtBot) -> None:
    editor = window.editor
    editor.do(set_rule, RulePlace("widget", "hull_bar", "inputs", "caption"), "CRASHED")
    assert editor.now.path is not None
    qtbot.waitUntil(lambda: not window.workspace.files.journaling.waits, timeout=60_000)
    window.workspace.files.journaling.journal.close()  # as where a program ends: nothing else is done any more
    again = make_window(editor.now.path)
    assert again.editor.now.project.widget("hull_bar").inputs["caption"] == "CRASHED"
    assert again.editor.now.history.edited
    again.editor.do(undo)
    assert again.editor.now.project.widget("hull_bar").inputs["caption"] == "HULL"
    again.workspace.files.forget_unsaved()


def test_an_unknown_kind_is_shown_as_what_it_is(demo: Path, tmp_path: Path, qtbot: QtBot) -> None:
    shutil.copytree(demo.parent, tmp_path / "b")
    path = tmp_path / "b" / demo.name
    path.write_text(path.read_text().replace('"kind": "bar"', '"kind": "bars"', 1))
    made = make_window(path)
    qtbot.addWidget(made)
    made.show()
    assert "hull_bar" not in made.editor.now.bound.widgets
    assert made.editor.now.project.widget("hull_bar").kind == "bars"
    assert not made.desk.hud.grab().isNull()


def test_a_project_whose_recording_is_gone_opens_and_says_so(demo: Path, tmp_path: Path, qtbot: QtBot) -> None:
    shutil.copytree(demo.parent, tmp_path / "b")
    (tmp_path / "b/traces/leaky-dive.csv").unlink()
    made = make_window(tmp_path / "b" / demo.name)
    qtbot.addWidget(made)
    made.show()
    assert "cannot be read" in made.message.text()
    assert made.editor.now.widget is not None
    assert not made.grab().isNull()
    with pytest.raises(AvrinError):
        made.workspace.traces.show("traces/leaky-dive.csv")


def test_the_menu_lists_every_command_with_its_key_and_what_can_be_done_now(window: Window) -> None:
    from PySide6.QtWidgets import QMenu

    window.open_menu(QPoint(20, 40))
    menu = next(m for m in window.findChildren(QMenu) if m.isVisible())
    menus = [menu, *menu.findChildren(QMenu)]
    entries = {a.text().split("\t")[0]: a for item in menus for a in item.actions() if a.text() and not a.menu()}
    assert len(entries) == len(window.actions_table)
    assert not entries["Undo"].isEnabled()
    assert entries["Save"].text().endswith("Ctrl+S")
    entries["One frame forward"].trigger()
    menu.close()
    assert window.editor.now.frame == 1


def test_rungs_of_the_ladder_lead_to_where_the_recording_showed_them(window: Window, qtbot: QtBot) -> None:
    ladder = window.desk.card.ladder
    assert ladder is not None
    qtbot.waitUntil(lambda: len(ladder.samples) == 8, timeout=60_000)
    now, *cells = ladder.samples
    assert now.value == window.editor.now.value("hull")
    assert [r.value for r in cells if r.edge][:1] == [10.0]  # a tenth of the first run's 100
    at = next(i for i, r in enumerate(ladder.samples) if i and r.there.first)
    QTest.mouseClick(ladder, LEFT, PLAIN, ladder._cell(at).center().toPoint())
    assert window.editor.now.seconds == pytest.approx(ladder.samples[at].there.first, abs=0.02)
    never = next(i for i, r in enumerate(ladder.samples) if i and not r.there.frames and isinstance(r.value, float))
    value = ladder.samples[never].value
    QTest.mouseClick(ladder, LEFT, PLAIN, ladder._cell(never).center().toPoint())
    assert window.editor.now.pins == {"hull": value}, "what no recording shows is held"
    assert "pinned at" in window.message.text()


def test_from_a_bare_recording_to_bound_widgets_by_drags_alone(demo: Path, tmp_path: Path, qtbot: QtBot) -> None:
    shutil.copy(demo.parent / "traces/calm-dive.csv", tmp_path / "dive.csv")
    (tmp_path / "m.avrin").write_text('{"format": "avrin/1", "title": "Bare", "traces": ["dive.csv"]}')
    QSettings().clear()
    made = make_window(tmp_path / "m.avrin")
    qtbot.addWidget(made)
    made.show()
    made.resize(*SIZE)
    made.desk.first_sizes()
    application().processEvents()
    for name, goal in (("air", QPointF(0.2, 0.2)), ("phase", QPointF(0.8, 0.2)), ("crew[1].scrap", QPointF(0.8, 0.8))):
        drag(made, name, goal)
        application().processEvents()
    project = made.editor.now.project
    assert [w.id for w in project.widgets] == ["air_bar", "phase_label", "crew_1_scrap_counter"]
    assert [(v.name, v.type, v.low) for v in project.variables] == [("air", "float", -0.2), ("phase", "text", None)]
    assert [(r.name, r.slots, [f.name for f in r.fields]) for r in project.rosters] == [("crew", 4, ["name", "scrap"])]
    assert not made.editor.now.bound.errors
    made.workspace.files.forget_unsaved()
    made.editor.do(mark_saved)
