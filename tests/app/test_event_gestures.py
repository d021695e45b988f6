"""Events that no recording contains, made from its columns by mouse and keys, from an empty home."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.window.window import Window
from avrin.editor.playback import go_to
from gestures import CTRL, LEFT, PLAIN, Hand, Key
from window_fixtures import opened_over, qapp  # noqa: F401

KILLS = {40: ("Ona", "Rask"), 90: ("Ona", "Rask"), 300: ("Teo", "Ona"), 420: ("Mika", "Teo")}  # by frame
HEALTH = {50: 70, 200: 40, 430: -5}


@pytest.fixture
def hand(tmp_path: Path, qapp: object, monkeypatch: pytest.MonkeyPatch) -> Iterator[Hand]:
    """A window over half a minute of an arena: who beat whom is in two columns, and a number steps with them."""
    del qapp
    recording = tmp_path / "arena.csv"
    with recording.open("w", newline="") as file:
        rows = csv.writer(file)
        rows.writerow(["t", "player_hp", "kill_id", "last_killer", "last_victim"])
        hp, number, who, whom = 100, 0, "", ""
        for frame in range(600):
            hp = HEALTH.get(frame, hp)
            if frame in KILLS:
                number, (who, whom) = number + 1, KILLS[frame]
            rows.writerow([frame / 20, hp, number, who, whom])
    with opened_over(recording, tmp_path / "home", monkeypatch) as window:
        window.workspace.suggestions.wait()
        yield Hand(window)


def lines(window: Window, ident: str, frame: int) -> str:
    now = window.editor.now
    return str(now.tracks.state(now.bound.widgets[ident], frame)["lines"])


def press_lane(window: Window, name: str, sort: str = "variable") -> QPoint:
    lanes = window.desk.lanes
    lane = next(one for one in lanes.lanes if (one.name, one.sort) == (name, sort))
    lanes.reveal(f"{name}()" if sort == "event" else name)
    rect = lanes.lane_rect(lane.name, sort=lane.sort)
    assert rect is not None
    at = QPoint(100, rect.y() + 10)
    QTest.mouseClick(lanes.viewport(), LEFT, PLAIN, at)
    QApplication.processEvents()
    return at


def test_who_beat_whom_is_offered_and_taken_by_one_press(hand: Hand) -> None:
    window = hand.window
    shelf = window.desk.shelf
    number = next(i for i, one in enumerate(shelf.offers) if one.widget.kind.name == "feed")
    assert shelf.offers[number].offer.why == "kill_id steps with last_killer and last_victim"
    QTest.mouseClick(shelf, LEFT, PLAIN, shelf._cell(number).center().toPoint())
    file = hand.file()
    assert file["events"] == [
        {"name": "kill", "args": {"who": "text", "whom": "text"}, "when": "changed(kill_id)",
         "values": {"who": "last_killer", "whom": "last_victim"}},
    ]  # fmt: skip
    assert file["widgets"][0]["options"]["lines"] == {"kill": "{who} beat {whom}"}
    assert lines(window, "feed", 100) == "Ona beat Rask\nOna beat Rask", "the second of two equal ones is seen too"
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before, "one undo step takes back the feed and its event"


def test_a_fall_of_health_becomes_an_event_and_a_feed_in_three_gestures(hand: Hand) -> None:
    window, lanes = hand.window, hand.window.desk.lanes
    press_lane(window, "player_hp")
    hand.pressed("falls")
    window.editor.do(go_to, 250)
    QApplication.processEvents()
    assert window.desk.card._head.assisted_value() == "2×"
    start = press_lane(window, "player_hp_fell", "event")
    goal = lanes.viewport().mapFromGlobal(hand.picture.mapToGlobal(hand.picture.rect().center()))
    QTest.mousePress(lanes.viewport(), LEFT, PLAIN, start)
    for step in range(1, 6):
        at = QPointF(start) + QPointF(goal - start) * step / 5
        there = QPointF(lanes.viewport().mapToGlobal(at.toPoint()))
        move = QMouseEvent(QEvent.Type.MouseMove, at, there, Qt.MouseButton.NoButton, LEFT, PLAIN)
        QApplication.sendEvent(lanes.viewport(), move)
    QTest.mouseRelease(lanes.viewport(), LEFT, PLAIN, goal)
    QApplication.processEvents()
    (event,), (feed,) = hand.file()["events"], hand.file()["widgets"]
    assert (event["when"], event["values"]["by"]) == ("change(player_hp) < 0", "-change(player_hp)")
    assert feed["options"]["lines"] == {"player_hp_fell": "Player HP fell {by} {to}"}
    assert lines(window, "feed", 440) == "Player HP fell 45 -5"


def test_an_edited_rule_changes_the_lane_the_card_and_the_feed_at_once(hand: Hand) -> None:
    window = hand.window
    press_lane(window, "player_hp")
    hand.pressed("falls")
    card = window.desk.card
    assert card._facts["happens"].text() == "3 times"
    (rule,) = (row.edit for row in card.rows if row.place.part == "when")
    rule.setFocus()
    QTest.keyClick(rule, Key.Key_End)
    QTest.keyClicks(rule, " - 40")
    QApplication.processEvents()
    assert rule is next(row.edit for row in card.rows if row.place.part == "when"), "the field keeps its caret"
    assert card._facts["happens"].text() == "once"
    assert window.editor.now.tracks.occurrences("player_hp_fell").frames.tolist() == [430]
    QTest.keyClicks(rule, " +")
    QApplication.processEvents()
    assert card.rows[0].problem.isVisibleTo(card.rows[0])
    assert len(window.editor.now.tracks.occurrences("player_hp_fell")) == 0
    hand.key(Key.Key_Z, CTRL)
    assert window.editor.now.bound.errors == {}


def test_the_lane_says_what_happened_under_the_pointer(hand: Hand) -> None:
    window, bodies = hand.window, hand.window.desk.lanes._bodies
    press_lane(window, "player_hp")
    hand.pressed("falls")
    x = window.desk.lanes.scale.x(430 / 20)
    assert bodies.event_at("player_hp_fell", x + 2) == "player_hp_fell at 0:21.50\nby: 45\nto: −5"
    assert bodies.event_at("player_hp_fell", x + 40) == ""
