"""One gesture for all binding: lanes dragged onto the picture, and how many gestures common tasks take.

On a recording of somebody's own game too, from an empty home, saved and read back.
"""

from __future__ import annotations

import gc
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu

from gestures import CTRL, LEFT, PLAIN, Hand, Key
from window_fixtures import opened_over, qapp, window  # noqa: F401


def carry(hand: Hand, sort: str, name: str, to: QPoint) -> None:
    """A lane's head dragged to a point of the picture."""
    lanes = hand.window.desk.lanes
    lane = next(one for one in lanes.lanes if (one.sort, one.name) == (sort, name))
    lanes.verticalScrollBar().setValue(lanes.stack.bring(name, lane.sort))
    QApplication.processEvents()
    start = lanes.lane_rect(name, sort=lane.sort).topLeft() + QPoint(80, 8)
    there = hand.picture.mapToGlobal(to)
    QTest.mousePress(lanes.viewport(), LEFT, PLAIN, start)
    for at in (start + QPoint(30, -4), lanes.viewport().mapFromGlobal(there)):
        move = QMouseEvent(
            QEvent.Type.MouseMove, QPointF(at), QPointF(lanes.viewport().mapToGlobal(at)), Qt.MouseButton.NoButton,
            LEFT, PLAIN,
        )  # fmt: skip
        QApplication.sendEvent(lanes.viewport(), move)
    QTest.mouseRelease(lanes.viewport(), LEFT, PLAIN, lanes.viewport().mapFromGlobal(there))
    QApplication.processEvents()


def pick(begins: str) -> None:
    found = QApplication.activePopupWidget()
    assert isinstance(found, QMenu)
    next(one for one in found.actions() if one.text().startswith(begins)).trigger()
    found.close()
    QApplication.processEvents()


@pytest.fixture
def hand(window: Any) -> Hand:
    return Hand(window)


def test_a_bar_to_its_finished_look_in_five_gestures(hand: Hand) -> None:
    carry(hand, "variable", "air", QPoint(380, 120))  # a bar with its caption, full at what it is full at, two bands
    made = hand.file()["widgets"][-1]
    assert (made["kind"], [band["name"] for band in made["bands"]]) == ("bar", ["critical", "low"])
    strip = hand.window.desk.card.bands
    QTest.mouseClick(strip, LEFT, PLAIN, QPoint(round(strip.width() * 0.6), 40))  # a third band
    hand.type_into(hand.window.desk.card._structs[1].fields["fill"], "#70c0d0")  # a colour of its own
    hand.key(Key.Key_P, CTRL)
    place = hand.window.desk.place_edit
    hand.type_into(place.numbers["x"], "40")  # an exact place, from the corner it hangs from anyway
    hand.type_into(place.numbers["y"], "300")
    made = hand.file()["widgets"][-1]
    assert len(made["bands"]) == 3
    assert made["look"]["fill"] == "#70c0d0"
    assert made["place"]["offset"] == [40, 300]
    assert made["inputs"]["caption"]


def test_a_table_of_four_sorted_with_free_seats_in_three_gestures(hand: Hand) -> None:
    carry(hand, "roster", "crew", QPoint(380, 330))
    made = hand.file()["widgets"][-1]
    assert (made["kind"], made["options"]["roster"]) == ("table", "crew")
    hand.press_if_there("+ sorting")
    hand.type_into(hand.window.desk.card._structs[0].fields["empty"], "free")
    options = hand.file()["widgets"][-1]["options"]
    assert options["empty"] == "free"
    assert options["sort_by"].startswith("crew[slot].")
    assert len(options["columns"]) >= 2


def test_columns_are_called_and_ordered_on_the_card(hand: Hand) -> None:
    hand.press(hand.at("crew_table"))
    titles = [column["title"] for column in hand.widget("crew_table")["options"]["columns"]]
    row = next(one for one in hand.window.desk.card.rows if one.place.name.startswith("columns.1"))
    hand.type_into(row.findChild(QLineEdit), "haul")
    hand.pressed("↑")
    assert [one["title"] for one in hand.widget("crew_table")["options"]["columns"]] == ["haul", titles[0]]


def test_an_icon_by_band_in_three_gestures_a_band(hand: Hand) -> None:
    hand.press(hand.at("depth"))
    hand.command("make it a picture")
    hand.pressed("+ band with a condition")
    QTest.keyClicks(hand.window.focusWidget(), "depth > 20")
    fields = hand.window.desk.card._structs[0].fields
    name = next(one for one in fields if one.startswith("by_band.band"))
    hand.type_into(fields[name], "skull")
    made = hand.widget("depth")
    assert made["options"]["by_band"]["band"] == "skull"
    assert made["bands"][0] == {"name": "band", "when": "depth > 20"}


def test_an_event_becomes_a_line_of_a_feed_or_a_feed(hand: Hand) -> None:
    carry(hand, "event", "lost", hand.at("log"))
    assert "lost" in hand.widget("log")["options"]["lines"]
    carry(hand, "event", "rock", QPoint(380, 330))
    made = hand.file()["widgets"][-1]
    assert (made["kind"], list(made["options"]["lines"])) == ("feed", ["rock"])
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


# -- on a game of one's own ---------------------------------------------------------------------------------------------


@pytest.fixture
def divers(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Hand]:
    """Four divers that swim about, as shares of the screen, over a project saved from an empty home."""
    lines = ["t," + ",".join(f"diver{n}_{what}" for n in range(1, 5) for what in ("x", "y", "breath"))]
    for frame in range(120):
        row = [f"{frame / 10:.1f}"]
        for n in range(1, 5):
            phase = (frame / 120 + n / 5) % 1
            row += [f"{phase:.3f}", f"{0.2 + 0.15 * n:.3f}", str(100 - (frame + 7 * n) % 90)]
        lines.append(",".join(row))
    recording = tmp_path / "swim.csv"
    recording.write_text("\n".join(lines) + "\n")
    with opened_over(recording, tmp_path, monkeypatch) as made:
        yield Hand(made)
    gc.collect()


def test_bars_above_four_moving_divers_in_three_gestures(divers: Hand) -> None:
    hand = divers
    assert [one["name"] for one in hand.file()["rosters"]] == ["diver"]
    hand.window.desk.lanes.reveal("diver[0].breath")
    carry(hand, "variable", "diver[0].breath", QPoint(300, 200))
    made = hand.file()["widgets"][-1]
    ident = made["id"]
    carry(hand, "roster", "diver", hand.at(ident))
    carry(hand, "variable", "diver[0].x", hand.at(ident))
    pick("follow")
    made = hand.widget(ident)
    assert made["repeat"] == "diver"
    assert made["place"]["follow"] == {"x": "diver[slot].x * 1920", "y": "diver[slot].y * 1080", "hold": True}
    drawn = [one for one in hand.picture.placed if one.ident == ident]  # type: ignore[attr-defined]
    assert len(drawn) == 4
    assert len({round(one.rect.x) for one in drawn}) == 4, "each where its diver is"
    saved = json.loads(hand.folder.read_text("utf-8"))
    assert saved["widgets"][-1] == made


def test_a_position_dragged_onto_a_zone_lets_it_follow(divers: Hand, tmp_path: Path) -> None:
    hand, window = divers, divers.window
    image = QImage(64, 36, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.darkCyan)
    image.save(str(tmp_path / "reef.png"))
    hand.drop(tmp_path / "reef.png")
    hand.menu("Add as a plate")
    window.desk.lanes.reveal("diver[0].x")
    window.popups.plate.open_under(window.header.plate)
    hand.drag(QPoint(150, 150), QPoint(100, 50))
    before = hand.file()["plates"][0]["keep_clear"][-1]
    carry(hand, "variable", "diver[0].x", QPoint(190, 170))
    zone = hand.file()["plates"][0]["keep_clear"][-1]
    _, _, wide, high = before  # a zone without a name is its box alone
    assert zone == {"box": [-wide / 2, -high / 2, wide, high], "x": "diver[0].x * 1920", "y": "diver[0].y * 1080"}
    assert window.popups.plate.isVisible(), "and drawing continues"
    assert window.popups.plate.follows["y"].text() == "diver[0].y * 1080"
    window.desk.lanes.reveal("diver[0].breath")
    carry(hand, "variable", "diver[0].breath", QPoint(190, 170))
    assert "Drop a position" in window.message.text()
    assert "widgets" not in hand.file(), "no widget comes of it while zones are drawn"
    hand.key(Key.Key_Z, CTRL)
    assert hand.file()["plates"][0]["keep_clear"][-1] == before
    window.popups.plate.close_it()
