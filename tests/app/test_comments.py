"""Comments on widgets at moments: written with one key, walked, resolved, kept when their widget is gone."""

from __future__ import annotations

import pytest
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel

from avrin.app.controls.link import Link
from avrin.editor.by_hand import advance_drive
from gestures import CTRL, LEFT, Hand, Key
from window_fixtures import look_at, qapp, window  # noqa: F401


@pytest.fixture
def hand(window: object, monkeypatch: pytest.MonkeyPatch) -> Hand:
    monkeypatch.setattr("avrin.app.window.comments_edit.author", lambda: "Ona Quay")
    return Hand(window)


def test_a_comment_is_written_with_one_key_and_resolved_and_undone(hand: Hand) -> None:
    window = hand.window
    look_at(window, 200)
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    hand.key(Key.Key_C)
    edit = window.popups.comments
    assert edit.about.text().startswith("About Hull bar at 3:20.00")
    QTest.keyClicks(window.focusWidget(), "too thin to read")
    QTest.keyClick(window.focusWidget(), Key.Key_Return)
    (made,) = hand.file()["comments"]
    assert (made["text"], made["widget"], made["author"], made["run"]) == (
        "too thin to read",
        "hull_bar",
        "Ona Quay",
        2,
    )
    assert made["trace"].endswith(".csv")
    assert len(made["date"]) == len("2026-01-01")
    assert edit.field.text() == "", "ready for the next one"
    hand.pressed("resolve")
    assert hand.file()["comments"][0]["resolved"] is True
    hand.pressed("reopen")
    edit.close_it()
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_the_newest_open_comment_is_listed_first_and_a_half_written_one_waits(hand: Hand) -> None:
    window = hand.window
    hand.key(Key.Key_C)
    edit = window.popups.comments

    def listed() -> list[str]:
        said = {one.text for one in window.editor.now.project.comments}
        labels = [label for label in edit.list.widget().findChildren(QLabel) if label.text() in said]
        return [label.text() for label in sorted(labels, key=lambda label: label.y())]

    for text in ("first", "second", "third"):
        QTest.keyClicks(edit.field, text)
        QTest.keyClick(edit.field, Key.Key_Return)
    QApplication.processEvents()
    assert listed() == ["third", "second", "first"]
    hand.pressed("resolve")
    QApplication.processEvents()
    assert listed() == ["second", "first", "third"]
    QTest.keyClicks(edit.field, "half")
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    assert edit.field.text() == "half"
    assert edit.about.text().startswith("About Hull bar")
    assert len(window.editor.now.project.comments) == 3


def test_walking_goes_through_comments_one_at_a_time_and_says_which(hand: Hand) -> None:
    window, ruler = hand.window, hand.window.desk.ruler
    for seconds, text in ((200.0, "later"), (20.0, "sooner")):
        look_at(window, seconds)
        hand.press(hand.at("hull_bar", 0.5, 0.9))
        hand.key(Key.Key_C)
        QTest.keyClicks(window.focusWidget(), text)
        QTest.keyClick(window.focusWidget(), Key.Key_Return)
        window.popups.comments.close_it()
    walk = next(part for part in ruler.assisted_parts() if part.name == "Walk with [ and ]")
    for expected in ("differences", "findings", "comments"):
        QTest.mouseClick(ruler, LEFT, pos=walk.rect.center().toPoint())
        assert ruler.walk == expected
    window.desk.hud.setFocus()
    look_at(window, 0)
    told = []
    for key in (Key.Key_BracketRight, Key.Key_BracketRight, Key.Key_BracketRight, Key.Key_BracketLeft):
        hand.key(key)
        told.append((round(window.editor.now.seconds), window.message.text()))
    assert told == [
        (20, "Hull bar: sooner"), (200, "Hull bar: later"), (200, "No later comment in this recording"), (20, "Hull bar: sooner"),
    ]  # fmt: skip


def test_comments_follow_a_new_id_and_outlive_their_widget(hand: Hand) -> None:
    window = hand.window
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_C)
    QTest.keyClicks(window.focusWidget(), "whose scrap?")
    QTest.keyClick(window.focusWidget(), Key.Key_Return)
    edit = window.popups.comments
    edit.close_it()
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_Delete)
    (kept,) = hand.file()["comments"]
    assert kept["widget"] == "scrap"
    hand.key(Key.Key_C)
    labels = [link.text() for link in edit.findChildren(Link)]
    assert any(text.startswith("scrap, which is gone at ") for text in labels)


def test_an_action_with_the_key_of_a_command_has_it_while_driving(hand: Hand) -> None:
    window, editor = hand.window, hand.window.editor
    hand.pressed("+ action")
    hand.type_into(window.desk.action_edit.line, "Crouch C hull = 7")
    hand.key(Key.Key_D)
    hand.key(Key.Key_C)
    editor.do(advance_drive, 0.2)
    assert editor.now.live is not None
    assert editor.now.trace.columns["hull"].data[-1] == 7
    assert "comments" not in window.popups.__dict__, "the list of comments was not even made"
    hand.key(Key.Key_D)
    hand.key(Key.Key_C)
    assert window.popups.comments.isVisible()
