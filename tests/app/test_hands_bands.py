"""Bands and colours by mouse and keys: on the strip, in their lines, in the chooser; read back from the saved file."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from gestures import ALT, CTRL, LEFT, PLAIN, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


@pytest.fixture
def hand(window: Any) -> Hand:
    hand = Hand(window)
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    return hand


def strip(hand: Hand) -> Any:
    return hand.window.desk.card.bands


def bands(hand: Hand, ident: str = "hull_bar") -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = hand.widget(ident).get("bands", [])
    return found


def at(hand: Hand, share: float, y: int = 40) -> QPoint:
    return QPoint(round(strip(hand).width() * share), y)


def pull(hand: Hand, start: QPoint, *way: QPoint) -> None:
    """Press, move and release on the strip that is current at each moment."""
    QTest.mousePress(strip(hand), LEFT, PLAIN, start)
    for point in way:
        QTest.mouseMove(strip(hand), point)
        QApplication.processEvents()
    QTest.mouseRelease(strip(hand), LEFT, PLAIN, way[-1])
    QApplication.processEvents()


def test_a_press_on_the_strip_splits_it_and_undo_takes_it_back(hand: Hand) -> None:
    QTest.mouseClick(strip(hand), LEFT, PLAIN, at(hand, 0.6))
    assert bands(hand)[-1] == {"name": "band", "below": "60%"}
    assert hand.widget("hull_bar")["look"]["bands"]["band"]["fill"].startswith("#")
    QTest.mouseClick(strip(hand), LEFT, PLAIN, at(hand, 0.17))
    assert [(band["name"], band["below"]) for band in bands(hand)] == [
        ("critical", "10%"), ("band_2", "17%"), ("low", "25%"), ("band", "60%"),
    ]  # fmt: skip
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_a_limit_takes_its_stickiness_along_and_back_keeps_to_its_side(hand: Hand) -> None:
    pull(hand, at(hand, 0.25), at(hand, 0.3), at(hand, 0.5))
    assert bands(hand)[1] == {"name": "low", "below": "50%", "back": "55%"}
    pull(hand, at(hand, 0.55), at(hand, 0.6), at(hand, 0.7))
    assert bands(hand)[1] == {"name": "low", "below": "50%", "back": "70%"}
    pull(hand, at(hand, 0.7), at(hand, 0.6), at(hand, 0.2))
    assert bands(hand)[1] == {"name": "low", "below": "50%", "back": "50%"}, "never on the wrong side"
    for _ in range(3):
        hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_dragged_off_the_strip_a_band_is_gone_and_carried_back_it_stays(hand: Hand) -> None:
    pull(hand, at(hand, 0.25), at(hand, 0.25, 60), at(hand, 0.25, 120))
    assert [band["name"] for band in bands(hand)] == ["critical"]
    assert "low" not in hand.widget("hull_bar")["look"]["bands"]
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before
    pull(hand, at(hand, 0.25), at(hand, 0.25, 120), at(hand, 0.25))
    assert hand.file() == hand.before


def test_a_double_click_on_a_mark_names_it(hand: Hand) -> None:
    QTest.mouseDClick(strip(hand), LEFT, PLAIN, at(hand, 0.10))
    line = hand.window.desk.card.band_lines[0]
    assert line.name.hasSelectedText()
    hand.type_into(line.name, "dying")
    assert bands(hand)[0]["name"] == "dying"
    assert hand.widget("hull_bar")["look"]["bands"]["dying"]["fill"] == "#d2483f"
    hand.type_into(hand.window.desk.card.band_lines[0].name, "low")
    assert "already" in hand.window.message.text()


def test_by_keys_a_limit_is_taken_away_and_named(hand: Hand) -> None:
    hand.window.activateWindow()
    strip(hand).setFocus(Qt.FocusReason.TabFocusReason)
    QTest.keyClick(strip(hand), Key.Key_Return)
    assert hand.window.focusWidget() is hand.window.desk.card.band_lines[0].name
    strip(hand).setFocus(Qt.FocusReason.TabFocusReason)
    QTest.keyClick(strip(hand), Key.Key_Delete)
    assert [band["name"] for band in bands(hand)] == ["low"]
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_a_condition_for_any_kind_its_rule_typed_at_once(hand: Hand) -> None:
    hand.press(hand.at("depth"))
    hand.pressed("+ band with a condition")
    rule = hand.window.focusWidget()
    QTest.keyClicks(rule, "depth > 20")
    assert bands(hand, "depth")[0] == {"name": "band", "when": "depth > 20"}


def test_what_else_a_band_says_stands_behind_a_press(hand: Hand) -> None:
    def act(number: int, word: str) -> None:
        line = hand.window.desk.card.band_lines[number]
        next(one for one in line.menu().actions() if one.text() == word).trigger()

    act(0, "Left beyond its limit")
    assert bands(hand)[0] == {"name": "critical", "below": "10%", "back": "15%"}
    act(0, "Left at its limit")
    act(0, "No flash")
    assert "flash" not in hand.widget("hull_bar")["look"]["bands"]["critical"]
    act(0, "Flash once a second")
    assert hand.widget("hull_bar")["look"]["bands"]["critical"]["flash"] == "1s"
    act(1, "Move up")
    assert [band["name"] for band in bands(hand)] == ["low", "critical"]
    act(0, "Remove")
    assert [band["name"] for band in bands(hand)] == ["critical"]


def test_a_colour_is_chosen_by_eye_by_value_from_the_project_and_from_the_picture(hand: Hand) -> None:
    def worn() -> str:
        found: str = hand.widget("hull_bar")["look"]["bands"].get("low", {}).get("fill", "")
        return found

    desk = hand.window.desk
    QTest.mouseClick(desk.card.band_lines[1].swatch, LEFT)
    chooser = desk.colouring.chooser
    assert chooser.isVisible()
    shade = chooser._shade
    QTest.mousePress(shade, LEFT, PLAIN, QPoint(10, 10))
    QTest.mouseMove(shade, QPoint(100, 50))
    QTest.mouseRelease(shade, LEFT, PLAIN, QPoint(shade.width() - 1, 1))
    by_eye = worn()
    assert by_eye != "#d9902f"
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before, "one undo step"
    QTest.mouseClick(chooser.swatches[0], LEFT)
    assert worn() == chooser.swatches[0].colour
    hand.type_into(chooser.value, "12AB34cc")
    assert worn() == "#12ab34cc"
    hand.type_into(chooser.value, "red")
    assert worn() == "#12ab34cc", "an invalid value changes nothing"
    QTest.mouseClick(chooser.dropper, LEFT)
    assert not chooser.isVisible()
    hand.press(hand.at("tide", 0.5, 0.4))
    assert chooser.isVisible()
    assert len(worn()) == 7
    QTest.mouseClick(chooser.none, LEFT)
    assert worn() == ""


def test_the_contrast_with_what_lies_behind_is_reported(hand: Hand) -> None:
    QTest.mouseClick(hand.window.desk.card.band_lines[1].swatch, LEFT)
    chooser = hand.window.desk.colouring.chooser
    behind = chooser._sample.behind
    hand.type_into(chooser.value, behind.name())
    assert chooser._told.text() == "1.0 to the plate, hard to read"
    hand.type_into(chooser.value, "#ffffff" if behind.lightnessF() < 0.5 else "#000000")
    assert float(chooser._told.text().split()[0]) > 3


def test_a_colour_of_the_look_has_its_swatch(hand: Hand) -> None:
    look = hand.window.desk.card._structs[1]
    QTest.mouseClick(look.swatches["back"], LEFT)
    hand.type_into(hand.window.desk.colouring.chooser.value, "#203040")
    assert hand.widget("hull_bar")["look"]["back"] == "#203040"
    assert look.swatches["back"].colour == "#203040"
    assert look.fields["back"].text() == "#203040"
    hand.drag(hand.at("hull_bar", 0.5, 0.9), QPoint(30, 20), ALT)
    assert hand.window.desk.colouring.chooser.isVisible()
