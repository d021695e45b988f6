"""Derived values, groups, styles, rosters and notes by mouse and keys, read back from the saved file."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from gestures import CTRL, LEFT, PLAIN, SHIFT, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


@pytest.fixture
def hand(window: Any) -> Hand:
    hand = Hand(window)
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    return hand


def mark(hand: Hand, rule: str, part: str) -> Any:
    """A part of the rule of the card's row that says it, marked by keys."""
    row = next(row for row in hand.window.desk.card.rows if row.edit.toPlainText() == rule)
    hand.window.activateWindow()
    row.edit.setFocus()
    QTest.keyClick(row.edit, Key.Key_Home, CTRL)
    for _ in range(rule.index(part)):
        QTest.keyClick(row.edit, Key.Key_Right)
    for _ in part:
        QTest.keyClick(row.edit, Key.Key_Right, SHIFT)
    return row.edit


def derived(hand: Hand) -> dict[str, str]:
    return {one["name"]: one["rule"] for one in hand.file().get("derived", [])}


def choose(choice: Any, text: str) -> None:
    """A word of a choice, by typing how it begins."""
    choice.setFocus()
    QTest.qWait(QApplication.keyboardInputInterval() + 20)  # what was typed before no longer counts
    QTest.keyClicks(choice, text)
    QApplication.processEvents()


def test_a_marked_part_becomes_a_derived_value_and_is_named_at_once(hand: Hand) -> None:
    edit = mark(hand, "diving or held(leak, 2s)", "held(leak, 2s)")
    QTest.keyClick(edit, Key.Key_E, CTRL | SHIFT)
    QApplication.processEvents()
    name = hand.window.focusWidget()
    assert name.hasSelectedText()
    hand.type_into(name, "leaking_on")
    assert derived(hand)["leaking_on"] == "held(leak, 2s)"
    assert hand.widget("hull_bar")["inputs"]["visible"] == "diving or leaking_on"
    hand.pressed("dissolve it")
    assert hand.widget("hull_bar")["inputs"]["visible"] == "diving or (held(leak, 2s))"
    for _ in range(3):
        hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_what_is_no_whole_part_is_reported_and_changes_nothing(hand: Hand) -> None:
    edit = mark(hand, "diving or held(leak, 2s)", "or held")
    QTest.keyClick(edit, Key.Key_E, CTRL | SHIFT)
    assert "not a complete part" in hand.window.message.text()
    assert hand.file() == hand.before


def test_a_derived_value_is_made_written_and_bound_from_its_lane(hand: Hand) -> None:
    desk = hand.window.desk
    hand.pressed("+ derived")
    rule = hand.window.focusWidget()
    QTest.keyClicks(rule, "hull_max - hull")
    assert derived(hand)["value"] == "hull_max - hull"
    assert hand.window.editor.now.value("value") == 0
    lanes = desk.lanes
    head = lanes.lane_rect("value")
    where = QPointF(hand.picture.mapToGlobal(QPoint(380, 250)))
    QTest.mousePress(lanes.viewport(), LEFT, PLAIN, QPoint(60, head.y() + 10))
    for at in (QPointF(60, head.y() - 30), QPointF(lanes.viewport().mapFromGlobal(where))):
        move = QMouseEvent(
            QMouseEvent.Type.MouseMove, at, QPointF(lanes.viewport().mapToGlobal(at.toPoint())),
            Qt.MouseButton.NoButton, LEFT, PLAIN,
        )  # fmt: skip
        QApplication.sendEvent(lanes.viewport(), move)
    QTest.mouseRelease(lanes.viewport(), LEFT, PLAIN, lanes.viewport().mapFromGlobal(where).toPoint())
    QApplication.processEvents()
    made = hand.file()["widgets"][-1]
    assert "value" in " ".join(made["inputs"].values())
    assert hand.window.editor.now.users("value") == [made["id"]]
    for _ in range(3):
        hand.key(Key.Key_Z, CTRL)
    assert derived(hand) == {one["name"]: one["rule"] for one in hand.before["derived"]}


def test_a_group_is_chosen_edited_and_never_lies_in_itself(hand: Hand) -> None:
    belongs = hand.window.desk.card._belongs
    choose(belongs.choices["group"], "new")
    edit = hand.window.desk.group_edit
    assert edit.isVisible()
    hand.type_into(edit.name, "left side")
    hand.type_into(edit.rules["visible"], "diving")
    hand.type_into(edit.rules["opacity"], "0.5")
    hand.type_into(edit.offset[0], "12")
    choose(edit.outer, "dive")
    group = next(one for one in hand.file()["groups"] if one["id"] == "left_side")
    assert group == {"id": "left_side", "group": "dive", "visible": "diving", "opacity": "0.5", "offset": [12, 0]}
    assert hand.widget("hull_bar")["group"] == "left_side"
    hand.type_into(edit.rules["visible"], "divin")
    assert "did you mean" in hand.window.message.text()
    hand.type_into(edit.name, "dive")
    assert "already" in hand.window.message.text()
    edit.open_for("dive")
    assert edit.outer.findText("left_side") < 0, "what is inside it is not offered"
    edit.open_for("left_side")
    hand.pressed("dissolve it")
    assert hand.widget("hull_bar")["group"] == "dive"
    assert [one["id"] for one in hand.file()["groups"]] == [one["id"] for one in hand.before["groups"]]


def test_a_style_is_made_of_a_look_worn_by_another_and_changed_for_both(hand: Hand) -> None:
    belongs = hand.window.desk.card._belongs
    was = hand.widget("hull_bar")
    look = {**hand.before["styles"][was["style"]], **was["look"]}
    choose(belongs.choices["style"], "new")
    hand.type_into(belongs.style_name, "plain bars")
    assert hand.file()["styles"]["plain bars"] == look
    assert hand.widget("hull_bar")["style"] == "plain bars"
    assert "look" not in hand.widget("hull_bar")
    hand.press(hand.at("air_bar", 0.1, 0.9))
    choose(hand.window.desk.card._belongs.choices["style"], "plain bars")
    hand.type_into(hand.window.desk.card._structs[1].fields["radius"], "9")
    hand.pressed("change it for all")
    assert hand.file()["styles"]["plain bars"]["radius"] == 9
    hand.pressed("remove it from all")
    assert "plain bars" not in hand.file()["styles"]
    assert hand.widget("hull_bar")["look"]["radius"] == 9
    hand.key(Key.Key_Z, CTRL)
    assert hand.widget("air_bar")["style"] == "plain bars"


def test_what_it_is_for_and_what_it_is_repeated_over(hand: Hand) -> None:
    belongs = hand.window.desk.card._belongs
    hand.type_into(belongs.note, "how long the boat lives")
    choose(belongs.choices["repeat"], "crew")
    assert hand.widget("hull_bar")["note"] == "how long the boat lives"
    assert hand.widget("hull_bar")["repeat"] == "crew"
    choose(hand.window.desk.card._belongs.choices["repeat"], "none")
    hand.type_into(hand.window.desk.card._belongs.note, "")
    assert hand.widget("hull_bar") == next(one for one in hand.before["widgets"] if one["id"] == "hull_bar")
    assert hand.file() == hand.before


def test_what_was_chosen_stays_chosen_through_undo_and_redo_of_its_name(hand: Hand) -> None:
    editor = hand.window.editor
    hand.pressed("+ derived")
    hand.type_into(hand.window.desk.card._derived.name, "wholeness")
    hand.key(Key.Key_Z, CTRL)
    assert editor.now.selection.variable == "value"
    hand.key(Key.Key_Y, CTRL)
    assert editor.now.selection.variable == "wholeness"
    hand.press(hand.at("scrap"))
    hand.window.activateWindow()
    hand.key(Key.Key_R, CTRL)
    hand.type_into(hand.window.desk.place_edit.name, "sold")
    hand.key(Key.Key_Z, CTRL)
    assert editor.now.selection.widget == "scrap"
    hand.key(Key.Key_Y, CTRL)
    assert editor.now.selection.widget == "sold"


def test_held_values_can_be_missing_and_whole_numbers_say_so(hand: Hand) -> None:
    lanes, editor = hand.window.desk.lanes, hand.window.editor
    lanes.reveal("scrap")

    def hold(name: str, text: str) -> None:
        rect = lanes.lane_rect(name)
        QTest.mouseClick(lanes.viewport(), LEFT, PLAIN, QPoint(190, rect.y() + 12))
        field = lanes.pinning.field
        QTest.keyClick(field, Key.Key_A, CTRL)
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Key.Key_Return)
        QApplication.processEvents()

    hold("scrap", "33.3")
    assert editor.now.pins["scrap"] == 33
    assert "whole numbers: pinned at 33" in hand.window.message.text()
    hold("scrap", "missing")
    assert editor.now.pins["scrap"] is None
    hand.pressed("+ derived")
    lanes.setFocus()
    QTest.keyClick(lanes, Key.Key_P)
    assert "value" not in editor.now.pins
    assert "computed by its rule" in hand.window.message.text()


def test_an_icon_is_chosen_while_a_text_is_written(hand: Hand) -> None:
    hand.press(hand.at("depth"))
    edit = next(row.edit for row in hand.window.desk.card.rows if row.place.name == "text")
    edit.setFocus()
    QTest.keyClick(edit, Key.Key_End)
    QTest.keyClicks(edit, " {@coi")
    assert [entry.text for entry in edit.completion.entries] == ["@coin"]
    QTest.keyClick(edit, Key.Key_Tab)
    assert hand.widget("depth")["inputs"]["text"].endswith(" {@coin}")


def test_a_field_stays_where_it_is_while_one_writes_in_it(hand: Hand) -> None:
    hand.pressed("+ opacity")
    card = hand.window.desk.card
    row = next(row for row in card.rows if row.place.name == "opacity")
    top = row.edit.mapTo(card.widget(), QPoint()).y()
    hand.window.activateWindow()
    row.edit.setFocus()
    QTest.keyClick(row.edit, Key.Key_A, CTRL)
    for letter in "hull / 100 +":
        QTest.keyClicks(row.edit, letter)
        QApplication.processEvents()
        assert row.edit.mapTo(card.widget(), QPoint()).y() == top
    QTest.keyClick(row.edit, Key.Key_Backspace)
    assert not row.chips.isVisibleTo(row)
    hand.press(hand.at("scrap"))
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    again = next(row for row in hand.window.desk.card.rows if row.place.name == "opacity")
    assert again.chips.isVisibleTo(again), "its sources are shown once the field loses the focus"
