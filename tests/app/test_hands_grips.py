"""Parts of a widget taken hold of in the picture: heads, ends of columns, copies; by mouse, read back from the saved file."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from gestures import CTRL, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


@pytest.fixture
def hand(window: Any) -> Hand:
    hand = Hand(window)
    hand.press(hand.at("crew_table"))
    return hand


def part(hand: Hand, title: str) -> QPoint:
    """The position of an active part."""
    grips = hand.picture.grips  # type: ignore[attr-defined]
    found: QPoint = next(rect for rect, grip in grips.parts() if grip.title == title).center().toPoint()
    return found


def test_a_head_sorts_and_a_drag_from_it_moves_the_table(hand: Hand) -> None:
    before = hand.widget("crew_table")
    assert before["options"]["sort_by"] == "crew[slot].scrap"
    hand.press(part(hand, "sort by diver"))
    sorted_ = hand.widget("crew_table")
    assert (sorted_["options"]["sort_by"], sorted_["place"]) == ("crew[slot].name", before["place"])
    hand.press(part(hand, "sort by diver"))
    assert hand.widget("crew_table")["options"]["falling"] is False
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.widget("crew_table") == before, "each press is a step of its own"
    hand.drag(part(hand, "sort by diver"), QPoint(-60, 0))
    moved = hand.widget("crew_table")
    assert moved["options"] == before["options"]
    assert moved["place"] != before["place"]


def test_a_column_is_widened_in_the_picture_and_typed_on_the_card(hand: Hand) -> None:
    before = hand.widget("crew_table")
    hand.drag(part(hand, "width of diver"), QPoint(20, 0))
    wide = hand.widget("crew_table")["options"]["columns"][0]["width"]
    assert wide > 100
    assert hand.widget("crew_table")["place"] == before["place"]
    field = next(f for f in hand.window.desk.card.findChildren(QLineEdit) if f.accessibleName() == "width")
    assert field.text() == f"{wide:g}", "it follows the hand"
    hand.type_into(field, "120")
    assert hand.widget("crew_table")["options"]["columns"][0]["width"] == 120
    hand.type_into(field, "")
    assert hand.widget("crew_table") == before


def test_the_second_copy_is_dragged_and_all_go_along(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    choice = hand.window.desk.card._belongs.choices["repeat"]
    choice.setFocus()
    QTest.keyClick(choice, Key.Key_Down)
    QApplication.processEvents()
    place = hand.widget("scrap")["place"]
    grips = hand.picture.grips  # type: ignore[attr-defined]
    assert len(grips.copies()) == 3
    start = grips.copies()[0].center().toPoint()
    assert place["step"] == [0, -140], "copies anchored at the bottom are stacked upwards"
    hand.drag(start, QPoint(-40, 3))
    step = hand.widget("scrap")["place"]["step"]
    assert step[0] < 0
    third = grips.copies()[2]
    hand.drag(third.center().toPoint(), QPoint(0, -30))
    again = hand.widget("scrap")["place"]
    assert again["step"][1] != step[1]
    assert again["offset"] == place["offset"], "the first one stays"
