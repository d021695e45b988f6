"""Whose HUD is shown, and with which option of the player's: named in the head line, and kept apart from the project."""

from __future__ import annotations

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from gestures import ALT, CTRL, LEFT, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


def test_the_hud_of_each_player_and_each_option_is_chosen_in_the_head_line(window: object) -> None:
    hand = Hand(window)
    header, editor = hand.window.header, hand.window.editor
    assert not header.viewer.isVisible()
    hand.key(Key.Key_I, CTRL)
    edit = hand.window.popups.project
    edit.players.setFocus()
    QTest.keyClick(edit.players, Key.Key_Down)
    QApplication.processEvents()
    edit.close_it()
    assert hand.file()["players"] == "crew"
    assert header.viewer.text() == "as Ona"
    hand.press(hand.at("scrap"))
    row = hand.window.desk.card.rows[0]
    hand.type_into(row.edit, "crew[me].scrap")
    shown = editor.now.bound.widgets["scrap"].inputs["value"].sources()
    assert shown == ["crew[0].scrap"]
    QTest.mouseClick(header.viewer, LEFT)
    second = str(editor.now.value("crew[1].name"))
    hand.menu(second)
    assert header.viewer.text() == f"as {second}"
    assert editor.now.bound.widgets["scrap"].inputs["value"].sources() == ["crew[1].scrap"]
    hand.command("options of the player")
    hand.pressed("+ option")
    options = hand.window.popups.options
    hand.type_into(options.fields[0]["name"], "large")
    hand.type_into(options.fields[0]["scale"], "150")
    options.close_it()
    before, box = hand.file(), hand.box("hull_bar")
    QTest.mouseClick(header.viewer, LEFT)
    hand.menu("large")
    assert header.viewer.text() == f"as {second}, large"
    assert abs(hand.box("hull_bar").width() / box.width() - 1.5) < 0.05
    assert hand.file() == before, "looking at an option changes nothing in the file"
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    hand.key(Key.Key_Right, ALT)
    moved = (
        hand.widget("hull_bar")["place"]["offset"][0]
        - next(one for one in before["widgets"] if one["id"] == "hull_bar")["place"]["offset"][0]
    )
    assert moved == 1
    assert hand.file().get("screens") == before.get("screens")
    QTest.mouseClick(header.viewer, LEFT)
    hand.menu("as designed")
    assert header.viewer.text() == f"as {second}"
