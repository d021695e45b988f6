"""Values held, declarations edited, lanes found and drives recorded: the window's lanes, with real mouse and keys."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from avrin.app.bind_desk.lanes.heads import value_box
from avrin.app.controls.field import Field
from avrin.app.main import application
from avrin.app.window.window import Window
from avrin.binding.places import RulePlace
from avrin.editor.by_hand import advance_drive, press_action, start_drive, stop_drive
from avrin.editor.edits import edit, set_variable, undo
from avrin.editor.playback import go_to, go_to_seconds, set_playing
from avrin.editor.selecting import select_variable, select_widget
from avrin.project.project import Action, Assignment
from avrin.trace.frames import Trace
from avrin.trace.store import open_trace
from window_fixtures import qapp, window  # noqa: F401

LEFT, PLAIN = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier


def at_value(window: Window, name: str) -> QPoint:
    """The middle of a variable's value in its lane's head."""
    lanes = window.desk.lanes
    lanes.reveal(name)
    application().processEvents()
    lane = next(lane for lane in lanes.lanes if (lane.name, lane.sort) == (name, "variable"))
    rect = lanes.lane_rect(name)
    assert rect is not None
    return value_box(lane, rect.y()).center().toPoint()


def press(window: Window, point: QPoint) -> None:
    QTest.mouseClick(window.desk.lanes.viewport(), LEFT, PLAIN, point)


def write(field: Field, text: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def fraction(window: Window) -> object:
    editor = window.editor
    return editor.now.tracks.state(editor.now.bound.widgets["hull_bar"], editor.now.frame)["fraction"]


# -- pins ---------------------------------------------------------------------------------------------------------------


def test_a_typed_value_is_held_everywhere_until_it_is_let_go(window: Window) -> None:
    editor = window.editor
    editor.do(go_to_seconds, 118)
    before = fraction(window)
    press(window, at_value(window, "hull"))
    write(window.desk.lanes.pinning.field, "70")
    assert editor.now.pins == {"hull": 70.0}
    assert fraction(window) == 0.5
    editor.do(go_to_seconds, 60)
    assert fraction(window) == 0.5
    assert not editor.now.history.edited  # viewing does not edit
    press(window, at_value(window, "hull") + QPoint(38, 0))
    editor.do(go_to_seconds, 118)
    assert editor.now.pins == {}
    assert fraction(window) == before


def test_a_dragged_value_follows_the_hand(window: Window) -> None:
    start = at_value(window, "air")
    view = window.desk.lanes.viewport()
    QTest.mousePress(view, LEFT, PLAIN, start)
    for way in (10, 40, 120):
        QTest.mouseMove(view, start - QPoint(way, 0))
    QTest.mouseRelease(view, LEFT, PLAIN, start - QPoint(120, 0))
    assert window.editor.now.pins["air"] == pytest.approx(30.0, abs=0.3)  # half the range lower


def test_a_pressed_flag_turns_over_and_keys_step_and_let_go(window: Window) -> None:
    editor, lanes = window.editor, window.desk.lanes
    press(window, at_value(window, "leak"))
    assert editor.now.pins["leak"] is True
    lanes.setFocus()
    QTest.keyClick(lanes, Qt.Key.Key_P)
    assert editor.now.pins == {}
    editor.do(select_variable, "hull")
    for key in (Qt.Key.Key_Up, Qt.Key.Key_Up, Qt.Key.Key_Down):
        QTest.keyClick(lanes, key, CTRL)
    assert editor.now.pins["hull"] == pytest.approx(100 + 1.4, abs=0.11)
    QTest.keyClick(window.desk.hud, Qt.Key.Key_L, CTRL)
    assert editor.now.pins == {}


def test_what_is_no_value_is_reported_and_changes_nothing(window: Window) -> None:
    press(window, at_value(window, "hull"))
    write(window.desk.lanes.pinning.field, "far")
    assert window.editor.now.message.text.startswith("'far' is not a number")
    assert window.editor.now.pins == {}


# -- declarations -------------------------------------------------------------------------------------------------------


def test_a_variable_is_renamed_in_its_lane_and_one_undo_takes_it_back(window: Window) -> None:
    editor, lanes = window.editor, window.desk.lanes
    before = editor.now.project
    lanes.reveal("hull")
    rect = lanes.lane_rect("hull")
    assert rect is not None
    QTest.mouseDClick(lanes.viewport(), LEFT, PLAIN, QPoint(60, rect.y() + 12))
    assert lanes.form.isVisible()
    write(lanes.form._fields["name"], "body")
    assert editor.now.project.widget("hull_bar").inputs["value"] == "body"
    assert editor.now.project.actions[0].does[0].set == "body"
    assert editor.now.project.widget("patch").options["does"][1]["set"] == "body"
    assert lanes.form.variable == "body"
    assert not editor.now.bound.errors
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Z, CTRL)
    assert editor.now.project == before


def test_range_unit_type_and_keeping_are_edited_in_place(window: Window) -> None:
    editor, lanes = window.editor, window.desk.lanes
    editor.do(select_variable, "depth")
    QTest.keyClick(window.desk.hud, Qt.Key.Key_E, CTRL)
    fields = lanes.form._fields
    for name, text in (("low", "-5"), ("high", "80"), ("unit", "fm"), ("start", "2.6"), ("owner", "bell")):
        write(fields[name], text)
    QTest.mouseClick(lanes.form._keeps, LEFT)
    QTest.mouseClick(lanes.form._links["int"], LEFT)
    depth = editor.now.variable("depth")
    assert depth is not None
    assert (depth.low, depth.high, depth.unit, depth.start, depth.owner) == (-5, 80, "fm", 3.0, "bell")
    assert (depth.keeps, depth.type) == (True, "int")
    write(fields["high"], "-9")
    known = editor.now.variable("depth")
    assert known is not None
    assert known.high == 80
    assert "range −5 to −9 is empty" in window.message.text()
    QTest.keyClick(lanes.form, Qt.Key.Key_Escape)
    assert not lanes.form.isVisible()


def test_what_a_recording_has_besides_is_declared_as_it_is_added(window: Window, tmp_path: Path) -> None:
    path = tmp_path / "b/traces/other.csv"
    path.write_text("t,hull,salt_pct\n0,90,3\n1,80,4.5\n")
    window.workspace.traces.add([path])
    salt = window.editor.now.variable("salt_pct")
    assert salt is not None
    assert (salt.type, salt.unit, salt.low, salt.high, salt.start) == ("float", "%", 0.0, 5.0, 3.0)
    assert salt.guessed
    window.editor.do(set_variable, "salt_pct", high=100.0)
    assert (window.editor.now.variable("salt_pct") or salt).guessed is False  # a person touched it
    window.editor.do(undo)
    window.editor.do(undo)
    assert window.editor.now.variable("salt_pct") is None
    assert all(one.path != "traces/other.csv" for one in window.editor.now.project.traces)


def test_another_kind_of_value_is_read_from_the_recording_again(window: Window, tmp_path: Path) -> None:
    path = tmp_path / "b/traces/other.csv"
    path.write_text("t,hull,door\n0,90,1\n1,80,0\n")
    editor = window.editor
    window.workspace.traces.add([path])
    editor.do(go_to, 1)
    editor.do(set_variable, "door")
    editor.do(set_variable, "door", type="bool")
    assert editor.now.value("door") is False
    assert editor.now.frame == 1
    editor.do(undo)
    assert editor.now.value("door") == 0.0
    editor.do(set_variable, "hull", type="bool")
    assert "90 is neither true nor false" in window.message.text()


# -- finding and folding ------------------------------------------------------------------------------------------------


def test_lanes_are_found_by_typing_and_rosters_unfold(window: Window) -> None:
    lanes, finder = window.desk.lanes, window.desk.footer.finder
    window.editor.do(select_widget, "crew_table")  # which shows its roster's fields
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Delete)
    assert lanes.lane_rect("crew[1].scrap") is None
    lanes.verticalScrollBar().setValue(lanes.verticalScrollBar().maximum())
    fold = lanes.lane_rect("crew", sort="roster")
    assert fold is not None
    press(window, QPoint(60, fold.center().y()))
    assert lanes.lane_rect("crew[1].scrap") is not None
    QTest.keyClick(window.desk.hud, Qt.Key.Key_F, CTRL)
    assert finder.hasFocus()
    QTest.keyClicks(finder, "scr")
    found = {lane.name for lane in lanes.lanes}
    assert {"scrap", "crew", *(f"crew[{i}].scrap" for i in range(4))} <= found
    assert not {"air", "crew[1].name", "hull_bar", "rock"} & found
    finder.clear()
    assert len(lanes.lanes) > 20


def test_a_lane_tells_what_is_odd(window: Window) -> None:
    notes = window.desk.lanes._heads.notes
    told = {
        name: [note.text for note in notes.of(window.editor.now, name)]
        for name in ("hull", "quota", "at_bell", "crew[3].scrap")
    }
    assert told["hull"][0].startswith("below 0 for 10")
    assert told["hull"][-1] == "3 widgets"
    assert told["quota"][0] == "never changes"
    assert told["at_bell"][-1] != "unused"
    assert told["crew[3].scrap"][0] == "missing 14%"


def test_event_marks_tell_their_arguments(window: Window) -> None:
    editor, lanes = window.editor, window.desk.lanes
    event = next(e for e in editor.now.trace.events if e.name == "hauled")
    x = lanes.scale.x(event.t)
    told = lanes._bodies.event_at("hauled", x + 2)
    assert told.startswith("hauled at 0:0")
    assert f"who: {event.args['who']}" in told
    assert lanes._bodies.event_at("lost", x) == ""


# -- driving ------------------------------------------------------------------------------------------------------------


def test_a_drive_is_recorded_by_keys_and_can_be_kept(window: Window, qtbot: QtBot) -> None:
    editor, hud = window.editor, window.desk.hud
    editor.do(go_to_seconds, 60)
    hull = editor.now.value("hull")
    QTest.keyClick(hud, Qt.Key.Key_D)
    assert editor.now.live is not None
    qtbot.waitUntil(lambda: editor.now.seconds > 60.3, timeout=60_000)
    QTest.keyClick(hud, Qt.Key.Key_H)
    qtbot.waitUntil(lambda: editor.now.value("hull") == hull - 20, timeout=60_000)  # type: ignore[operator]
    QTest.keyClick(hud, Qt.Key.Key_R)
    qtbot.waitUntil(lambda: editor.now.value("hull") == 100, timeout=60_000)
    assert editor.now.trace.run[editor.now.frame] == 2
    QTest.keyClick(hud, Qt.Key.Key_D)
    assert editor.now.live is None
    assert [e.name for e in editor.now.trace.events][-1] == "hit_a_rock"
    driven: Trace = editor.now.trace
    window.desk.footer.keep()
    assert editor.now.project.traces[-1].path == "traces/by-hand-1.csv"
    again = open_trace(editor.now.folder / "traces/by-hand-1.csv", editor.now.project.all_variables())
    assert again.t.tolist() == driven.t.tolist()
    assert again.events == driven.events
    assert again.columns["hull"].data.tolist() == driven.columns["hull"].data.tolist()


def test_a_button_in_the_picture_is_pressed_while_driving_and_picked_otherwise(window: Window, qtbot: QtBot) -> None:
    editor, hud = window.editor, window.desk.hud
    editor.do(go_to_seconds, 110)
    place = next(p for p in hud.placed if p.ident == "patch")
    point = hud.to_view(place.rect).center().toPoint()
    QTest.mouseClick(hud, LEFT, PLAIN, point)
    assert editor.now.selection.widget == "patch"
    scrap, hull = editor.now.value("scrap"), editor.now.value("hull")
    editor.do(select_widget, "hull_bar")
    editor.do(start_drive)
    QTest.mouseClick(hud, LEFT, PLAIN, point)
    qtbot.waitUntil(lambda: editor.now.value("scrap") == scrap - 60, timeout=60_000)  # type: ignore[operator]
    assert editor.now.value("hull") == pytest.approx(hull + 35, abs=1.5)  # type: ignore[operator]
    assert editor.now.selection.widget == "hull_bar"
    editor.do(stop_drive)


def test_driving_on_after_a_stop_goes_on_with_what_was_recorded(window: Window) -> None:
    editor = window.editor
    editor.do(go_to_seconds, 60)
    recorded, start = editor.now.trace, editor.now.frame
    for _ in range(3):
        editor.do(start_drive)
        editor.do(set_playing, False)  # the clock is ours
        editor.do(advance_drive, 0.5)
        editor.do(stop_drive)
    assert start + 80 < len(editor.now.trace) <= start + 91  # three times half a second, in whole frames
    for name in ("air", "hull", "tide_left"):
        driven = editor.now.trace.columns[name].data
        assert driven.tolist() == recorded.columns[name].data[: len(driven)].tolist()


def test_an_action_made_while_driving_works_at_once(window: Window) -> None:
    editor = window.editor
    editor.do(go_to_seconds, 60)
    editor.do(start_drive)
    editor.do(set_playing, False)
    editor.do(advance_drive, 0.2)
    flood = Action(label="Flood", key="9", does=(Assignment(set="air", to="air - 7"),))
    editor.do(edit, replace(editor.now.project, actions=(*editor.now.project.actions, flood)), "add action")
    before = editor.now.trace.columns["air"].data[-1]
    editor.do(press_action, "Flood")
    editor.do(advance_drive, 0.2)
    assert editor.now.trace.columns["air"].data[-1] == pytest.approx(before - 7, abs=0.5)
    changed = replace(flood, does=(Assignment(set="air", to="1"),))
    editor.do(edit, replace(editor.now.project, actions=(*editor.now.project.actions[:-1], changed)), "another action")
    editor.do(press_action, "Flood")
    editor.do(advance_drive, 0.2)
    assert editor.now.trace.columns["air"].data[-1] == 1
    editor.do(stop_drive)


def test_an_action_is_made_and_edited_in_place(window: Window) -> None:
    editor, edit = window.editor, window.desk.action_edit
    edit.open_for("")
    assert edit.line is not None
    write(edit.line, "Drop 9 depth +5")
    edit.open_for("Drop")
    write(edit.fields["label"], "Sink")
    write(edit.fields["key"], "k")
    write(edit.fields["set0"], "depth")
    edit.rows[0].edit.selectAll()
    QTest.keyClicks(edit.rows[0].edit, "depth + 10")
    action = editor.now.project.actions[-1]
    assert (action.label, action.key) == ("Sink", "K")
    assert [(c.set, c.to) for c in action.does] == [("depth", "depth + 10")]
    write(edit.fields["key"], "h")
    assert "already used by Hit a rock" in window.message.text()
    write(edit.fields["set0"], "dept")
    assert RulePlace("action", "Sink", "does", "0", "set") in editor.now.bound.errors


# -- the rule field -----------------------------------------------------------------------------------------------------


def test_names_and_functions_are_completed_by_keys(window: Window) -> None:
    edit = window.desk.card.rows[0].edit
    edit.setFocus()
    edit.selectAll()
    QTest.keyClicks(edit, "cla")
    assert edit.completion.isVisible()
    assert edit.completion.entries[0].text == "clamp"
    assert edit.completion.entries[0].help.startswith("x, kept within lo and hi.")
    QTest.keyClick(edit, Qt.Key.Key_Tab)
    assert edit.toPlainText() == "clamp()"
    QTest.keyClicks(edit, "hull_m")
    QTest.keyClick(edit, Qt.Key.Key_Return)
    assert edit.toPlainText() == "clamp(hull_max)"
    assert not edit.completion.isVisible()
    QTest.keyClicks(edit, " ")
    QTest.keyClick(edit, Qt.Key.Key_Space, CTRL)
    assert not edit.completion.isVisible()  # a name cannot follow a value
    QTest.keyClicks(edit, ", ")
    QTest.keyClick(edit, Qt.Key.Key_Space, CTRL)
    assert len(edit.completion.entries) > 60
    QTest.keyClick(edit, Qt.Key.Key_Escape)
    assert not edit.completion.isVisible()
    assert edit.hasFocus()


def test_what_is_offered_is_walked_by_keys_and_taken_by_a_press(window: Window) -> None:
    edit = window.desk.card.rows[0].edit
    edit.setFocus()
    edit.selectAll()
    QTest.keyClicks(edit, "h")
    offered = edit.completion
    names = [entry.text for entry in offered.entries]
    assert names[:2] == ["hull", "hull_max"]
    QTest.keyClick(edit, Qt.Key.Key_Up)  # round to the last, which comes into view
    assert offered.at == len(names) - 1
    last = offered.list.visualRect(offered.list.currentIndex())
    assert offered.list.viewport().rect().contains(last)
    told = QAccessible.queryAccessibleInterface(offered.list)
    assert (told.role(), told.text(QAccessible.Text.Name)) == (QAccessible.Role.List, "Completions")
    assert told.childCount() == len(names)
    assert told.child(1).text(QAccessible.Text.Name) == "hull_max"
    assert told.child(1).text(QAccessible.Text.Description) == "100 pt"
    QTest.keyClick(edit, Qt.Key.Key_Down)
    assert offered.at == 0
    second = offered.list.visualRect(offered.list.model().index(1, 0))
    QTest.mouseMove(offered.list.viewport(), second.center())
    assert offered.at == 1
    QTest.mouseClick(offered.list.viewport(), Qt.MouseButton.LeftButton, pos=second.center())
    assert edit.toPlainText() == "hull_max"
    assert not offered.isVisible()
    assert edit.hasFocus()


def test_a_sub_expression_tells_its_value_under_the_pointer(window: Window) -> None:
    editor = window.editor
    editor.do(go_to_seconds, 118)
    edit = window.desk.card.rows[3].edit
    assert edit.toPlainText() == "diving or held(leak, 2s)"
    told = []
    for at in (2, 8, 12, 17, 22):
        cursor = edit.textCursor()
        cursor.setPosition(at)
        told.append(edit.value_at(edit.cursorRect(cursor).center() + QPoint(2, 0)))
    assert told == [
        "diving = yes", "diving or held(leak, 2s) = yes", "held(leak, 2s) = no", "leak = no", "2s = 2",
    ]  # fmt: skip


def test_nothing_slips_from_the_action_editor_to_what_lies_under_it(window: Window) -> None:
    editor, popup = window.editor, window.desk.action_edit
    before = editor.now.project
    window.desk.edit_action(before.actions[0].label)
    popup.setFocus()
    for key in (Qt.Key.Key_D, Qt.Key.Key_P, Qt.Key.Key_H, Qt.Key.Key_Space, Qt.Key.Key_Right):
        QTest.keyClick(popup, key)
    assert (editor.now.live, editor.now.pins, editor.now.frame) == (None, {}, 0)
    corner = popup.rect().bottomRight() - QPoint(3, 3)
    QTest.mouseClick(popup, LEFT, PLAIN, corner)
    QTest.mouseDClick(popup, LEFT, PLAIN, corner)
    QTest.keyClicks(popup, "other")
    assert popup.isVisible()
    assert window.desk.lanes.editing == ""
    assert editor.now.project == before
