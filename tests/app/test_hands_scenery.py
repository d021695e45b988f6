"""Plates, their zones, and screens by mouse and keys, read back from the saved file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from gestures import CTRL, Hand, Key
from window_fixtures import look_at, look_over, qapp, window, write_inputs  # noqa: F401


@pytest.fixture
def hand(window: Any) -> Hand:
    return Hand(window)


def menu() -> QMenu:
    QApplication.processEvents()
    matches = QApplication.activePopupWidget()
    assert isinstance(matches, QMenu)
    return matches


def act(matches: QMenu, begins: str) -> None:
    next(one for one in matches.actions() if one.text().startswith(begins)).trigger()
    matches.close()
    QApplication.processEvents()


def picture(folder: Path, name: str) -> Path:
    image = QImage(64, 36, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.darkGreen)
    image.save(str(folder / name))
    return folder / name


def test_a_dropped_picture_becomes_a_plate_or_a_widget_as_is_wanted(hand: Hand, tmp_path: Path) -> None:
    reef = picture(tmp_path, "my reef.png")
    hand.drop(reef)
    hand.menu("Add as a plate")
    assert hand.file()["plates"][-1] == {"name": "my reef", "picture": "art/my reef.png", "proportions": "keep"}
    assert hand.window.editor.now.plate.name == "my reef"
    hand.drop(reef)
    hand.menu("Add as a picture widget")
    made = hand.file()["widgets"][-1]
    assert (made["kind"], made["options"]) == ("picture", {"asset": "art/my reef.png", "proportions": "keep"})
    assert made["place"]["size"] == [64, 36], "its own"
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before
    assert hand.window.editor.now.plate.name != "my reef"


def test_many_pictures_at_once_and_what_is_none(hand: Hand, tmp_path: Path) -> None:
    hand.drop(*(picture(tmp_path, f"p{number}.png") for number in range(20)))
    hand.menu("Add 20 plates")
    assert len(hand.file()["plates"]) == len(hand.before["plates"]) + 20
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before, "one undo step"
    sound = tmp_path / "dive.wav"
    sound.write_bytes(b"no picture")
    for other in (sound, tmp_path):
        hand.drop(other)
        assert hand.window.message.text()
    assert hand.file() == hand.before


def test_zones_are_drawn_moved_sized_and_taken_away_in_the_picture(hand: Hand) -> None:
    header = hand.window.header
    name = hand.window.editor.now.plate.name
    before = hand.before["plates"][0].get("keep_clear", [])

    def matches() -> list[Any]:
        plate = next(one for one in hand.file()["plates"] if one["name"] == name)
        return list(plate.get("keep_clear", []))

    def zones() -> list[list[float]]:
        return [zone["box"] if isinstance(zone, dict) else zone for zone in matches()]

    header.pick_plate()
    hand.menu("Name, zones")
    assert hand.window.popups.plate.isVisible()
    hand.drag(QPoint(80, 330), QPoint(100, 50))
    drawn = zones()[-1]
    assert len(zones()) == len(before) + 1
    zoom = hand.picture.picture_rect().width() / 1920  # type: ignore[attr-defined]
    assert drawn[2:] == pytest.approx([100 / zoom, 50 / zoom], abs=1)
    hand.drag(QPoint(120, 350), QPoint(40, 10))
    assert zones()[-1] == pytest.approx([drawn[0] + 40 / zoom, drawn[1] + 10 / zoom, *drawn[2:]], abs=1.5)
    hand.drag(QPoint(220, 390), QPoint(20, 20))
    assert zones()[-1][2:] == pytest.approx([120 / zoom, 70 / zoom], abs=1.5)
    hand.window.activateWindow()
    hand.picture.setFocus()
    hand.type_into(hand.window.popups.plate.zone, "the  way out")
    assert matches()[-1] == {"box": zones()[-1], "name": "the way out"}
    hand.key(Key.Key_Z, CTRL)
    x = zones()[-1][0]
    hand.key(Key.Key_Right)
    assert zones()[-1][0] == x + 1
    assert hand.window.editor.now.frame == 0, "the arrow moved no playhead"
    hand.key(Key.Key_Delete)
    assert zones() == before
    hand.pressed("done")
    hand.press(hand.at("scrap"))
    assert hand.window.editor.now.selection.widget == "scrap", "widgets are picked again"


def test_a_zone_follows_a_thing_and_stays_where_it_is_let_go(hand: Hand) -> None:
    window, editor = hand.window, hand.window.editor
    window.popups.plate.open_under(window.header.plate)
    hand.drag(QPoint(80, 330), QPoint(100, 50))
    drawn = hand.file()["plates"][0]["keep_clear"][-1]
    edit = window.popups.plate
    hand.type_into(edit.follows["y"], "depth * 10")
    box = hand.file()["plates"][0]["keep_clear"][-1]["box"]
    assert box == [drawn[0], -drawn[3] / 2, *drawn[2:]], "about the middle of what it follows"

    def middle() -> float:
        rects = edit._drawn.rects(hand.picture.picture_rect())  # type: ignore[attr-defined]
        area = hand.picture.picture_rect()  # type: ignore[attr-defined]
        return float((rects[-1].center().y() - area.y()) / area.height() * 1080)

    for second in (10.0, 20.0, 45.0):
        look_at(hand.window, second)
        QApplication.processEvents()
        assert middle() == pytest.approx(10 * editor.now.trace.columns["depth"].data[editor.now.frame], abs=0.5)
    rects = edit._drawn.rects(hand.picture.picture_rect())  # type: ignore[attr-defined]
    hand.drag(rects[-1].center().toPoint(), QPoint(0, 20))
    zoom = hand.picture.picture_rect().height() / 1080  # type: ignore[attr-defined]
    assert hand.file()["plates"][0]["keep_clear"][-1]["box"][1] == pytest.approx(box[1] + 20 / zoom, abs=1)
    hand.type_into(edit.follows["y"], "dephth")
    assert "did you mean `depth`" in window.message.text()
    hand.type_into(edit.follows["y"], "depth * 10")
    there = middle()
    hand.type_into(edit.follows["y"], "")
    assert middle() == pytest.approx(there, abs=1), "it stays where it was"
    edit.close_it()


def test_a_plate_is_called_otherwise_and_removed(hand: Hand) -> None:
    hand.window.header.pick_plate()
    hand.menu("Name, zones")
    edit = hand.window.popups.plate
    hand.type_into(edit.name, "the wreck")
    assert hand.file()["plates"][0]["name"] == "the wreck"
    assert hand.window.editor.now.plate.name == "the wreck"
    hand.type_into(edit.name, hand.before["plates"][1]["name"])
    assert "already" in hand.window.message.text()
    hand.pressed("remove it")
    assert [one["name"] for one in hand.file()["plates"]] == [one["name"] for one in hand.before["plates"][1:]]
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_screens_are_added_sized_and_removed(hand: Hand) -> None:
    header = hand.window.header
    header.pick_screen()
    sizes = next(one.menu() for one in menu().actions() if one.text() == "Add one")
    act(sizes, "phone")  # type: ignore[arg-type]
    menu_left = QApplication.activePopupWidget()
    if menu_left is not None:
        menu_left.close()
    assert hand.file()["screens"][-1] == {"name": "phone", "size": [2400, 1080], "safe": 0.05}
    assert header.screen_link.text() == "2400 × 1080"
    header.pick_screen()
    hand.menu("Name, size")
    edit = hand.window.popups.screen
    hand.type_into(edit.wide, "2340")
    hand.type_into(edit.safe, "3")
    hand.type_into(edit.name, "my phone")
    assert hand.file()["screens"][-1] == {"name": "my phone", "size": [2340, 1080], "safe": 0.03}
    for field, text in ((edit.high, "0"), (edit.high, "tall"), (edit.safe, "80"), (edit.name, "")):
        hand.type_into(field, text)
        assert hand.file()["screens"][-1]["size"] == [2340, 1080]
    hand.pressed("remove it")
    assert hand.file()["screens"] == hand.before["screens"]
    QTest.qWait(1)


def test_the_recording_chooses_the_plate_where_its_rule_is_true(hand: Hand) -> None:
    header, editor = hand.window.header, hand.window.editor
    first, second = (one["name"] for one in hand.before["plates"][:2])
    look_over(hand.window, 1)
    hand.window.popups.plate.open_under(header.plate)
    hand.type_into(hand.window.popups.plate.when, "depth > 20")
    hand.pressed("done")
    look_over(hand.window, 0)
    header.pick_plate()
    hand.menu("chosen by the recording")
    deep = next(frame for frame in range(len(editor.now.trace)) if (editor.now.trace.columns["depth"][frame] or 0) > 20)
    for frame, name in ((0, first), (deep, second), (deep - 1, first)):
        look_at(hand.window, float(editor.now.trace.axis[frame]))
        assert header.plate.text() == f"plate: {name}"
    hand.type_into(hand.window.popups.plate.when, "dept > 20")
    assert hand.file()["plates"][0].get("when") == "dept > 20", "of the one that is shown now"
    assert "did you mean" in hand.window.message.text() or editor.now.bound.errors


def test_a_split_screen_shows_one_players_part_at_a_time_and_all_on_the_sheet(hand: Hand) -> None:
    """What one player reads is another one's value: the card, the picture and the lanes follow whose part is looked at."""
    window, editor = hand.window, hand.window.editor
    look_at(window, 60.0)
    edit = window.popups.screen
    edit.open_under(window.header.screen_link)
    edit.split.setFocus()
    QTest.keyClick(edit.split, Key.Key_Down)
    QApplication.processEvents()
    edit.close_it()
    assert window.header.screen_link.text() == "desk, left"
    write_inputs(window, "depth", {"text": "{crew[slot].name}"})
    assert not editor.now.bound.errors
    assert editor.now.tracks.state(editor.now.bound.widgets["depth"], editor.now.frame)["text"] == "Ona"
    window.header.pick_screen()
    hand.menu("desk, right")
    assert editor.now.view.screen.size == (960, 1080)
    assert editor.now.tracks.state(editor.now.bound.widgets["depth"], editor.now.frame)["text"] == "Teo"
    edit.open_under(window.header.screen_link)
    hand.type_into(edit.views[1].fields["name"], "guest")
    assert window.header.screen_link.text() == "desk, guest", "it goes along with its new name"
    hand.type_into(edit.views[1].fields["box"], "60, 0, 50, 100")
    assert "reaches out of the screen" in window.message.text()
    edit.split.setFocus()
    QTest.keyClick(edit.split, Key.Key_Up)
    QApplication.processEvents()
    edit.close_it()
    assert "views" not in hand.file()["screens"][0]
    assert window.header.screen_link.text() == "1920 × 1080"
    (error,) = editor.now.bound.errors.values()
    assert "split screen" in error.problem
