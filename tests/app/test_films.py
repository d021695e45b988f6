"""Films behind the HUD in the real window: in step with the playhead, dragged to a mark, dropped, refused in a line."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.services import plates
from avrin.app.window.window import Window
from avrin.editor.layout import hide
from avrin.editor.playback import go_to_seconds
from avrin.editor.selecting import select_widget
from avrin.findings import registry
from avrin.storage.assets import take_in
from films import film, number_of, pictures
from gestures import CTRL, LEFT, PLAIN, Hand, Key
from window_fixtures import ALL_CHECKS, qapp, window  # noqa: F401


@pytest.fixture
def hand(window: Window) -> Hand:
    return Hand(window)


def until(holds: Callable[[], bool], seconds: float = 10.0) -> None:
    """Let the window live until something holds; threads of the background get their turn."""
    end = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < end, "it never came"
        QApplication.processEvents()
        time.sleep(0.002)


def rests(window: Window) -> None:
    """Until every picture that is wished for is there."""
    QApplication.processEvents()
    until(lambda: not window.workspace.video.busy)
    QApplication.processEvents()


def shown(window: Window) -> int:
    """Which picture of the film is behind the HUD now."""
    rests(window)
    assert window.editor.now.plate is not None
    found = window.workspace.video.picture(window.editor.now.plate, window.editor.now.trace, window.editor.now.frame)
    assert found is not None
    return number_in(found)


def number_in(image: QImage) -> int:
    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return number_of(rows[:, : plain.width() * 3].reshape(plain.height(), plain.width(), 3))


@pytest.fixture
def filmed(hand: Hand, tmp_path: Path) -> Hand:
    """A film of ten seconds at thirty pictures a second, dropped onto the picture."""
    hand.drop(film(tmp_path / "my dive.mp4", [number / 30 for number in range(300)], keys=1000))
    rests(hand.window)
    return hand


def test_a_dropped_film_becomes_a_plate_of_the_recording_that_is_looked_at(filmed: Hand) -> None:
    assert filmed.file()["plates"][-1] == {
        "name": "my dive", "film": "films/my dive.mp4", "proportions": "keep", "trace": "traces/leaky-dive.csv",
    }  # fmt: skip
    assert (filmed.folder.parent / "films/my dive.mp4").exists()
    assert filmed.window.header.plate.text() == "plate: my dive"
    filmed.key(Key.Key_Z, CTRL)
    assert filmed.file() == filmed.before


def test_the_film_is_in_step_wherever_the_playhead_goes(filmed: Hand) -> None:
    editor = filmed.window.editor
    for second, number in ((0.0, 0), (3.26, 97), (9.99, 299), (0.51, 15), (7.0, 210), (200.0, 299)):
        editor.do(go_to_seconds, second)
        assert shown(filmed.window) == number
    assert "the film runs from 0:00 to 0:10" in filmed.window.desk.hud._still
    filmed.window.workspace.traces.show("traces/calm-dive.csv")
    editor.do(go_to_seconds, 4.0)
    assert shown(filmed.window) == 0, "it never changes over another recording"
    assert filmed.window.desk.hud._still == "the film is of leaky-dive"


def test_what_is_painted_is_the_films_picture(filmed: Hand) -> None:
    editor, hud = filmed.window.editor, filmed.window.desk.hud
    editor.do(hide, [widget.id for widget in editor.now.project.widgets])
    for second, number in ((3.26, 97), (7.0, 210)):
        editor.do(go_to_seconds, second)
        rests(filmed.window)
        assert number_in(hud.grab(hud.picture_rect().toRect()).toImage()) == number


def test_while_it_plays_the_film_goes_along(filmed: Hand) -> None:
    editor = filmed.window.editor
    editor.do(go_to_seconds, 1.0)
    rests(filmed.window)
    filmed.key(Key.Key_Space)

    def in_step() -> bool:
        picture = filmed.window.workspace.video.picture(editor.now.plate, editor.now.trace, editor.now.frame)
        return (
            editor.now.seconds > 1.6
            and picture is not None
            and abs(number_in(picture) / 30 - editor.now.seconds) < 0.25
        )

    until(in_step)  # on a busy machine it is behind for a moment, and catches up
    assert editor.now.playing
    filmed.key(Key.Key_Space)


def test_a_large_film_is_copied_while_one_goes_on(hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(plates, "AT_ONCE", 1000)
    editor, goes = hand.window.editor, threading.Event()
    monkeypatch.setattr(plates, "take_in", lambda *given, **more: goes.wait(20) and take_in(*given, **more))
    hand.drop(film(tmp_path / "my dive.mp4", [number / 30 for number in range(30)]))
    assert "Copying my dive.mp4" in hand.window.message.text()
    assert len(hand.file()["plates"]) == len(hand.before["plates"]), "it is not there yet"
    editor.do(select_widget, "hull_bar")
    assert hand.window.workspace.files.jobs.busy, "selecting and saving end nothing"
    goes.set()
    hand.window.workspace.files.jobs.wait()
    assert editor.now.plate is not None
    assert editor.now.plate.film == "films/my dive.mp4"
    assert (editor.now.folder / editor.now.plate.film).exists()
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_a_copy_that_is_stopped_leaves_nothing_behind(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(plates, "AT_ONCE", 1000)
    waits, goes = threading.Event(), threading.Event()

    def slow(*given: Any, reported: Callable[[int], None] = lambda _: None) -> str:
        waits.set()
        goes.wait(20)
        given[-1](1) if callable(given[-1]) else reported(1)
        raise AssertionError("it goes on")

    monkeypatch.setattr(plates, "take_in", slow)
    hand.drop(film(tmp_path / "my dive.mp4", [0.0, 0.1]))
    assert waits.wait(20)
    hand.key(Key.Key_Escape)
    goes.set()
    hand.window.workspace.files.jobs.wait()
    assert hand.window.message.text() == "Stopped"
    assert hand.file() == hand.before


def test_once_it_was_looked_through_the_checks_judge_each_of_its_pictures(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(registry, "CHECKS", tuple(check for check in ALL_CHECKS if check.code == "low-contrast"))
    reported: list[int] = []
    hand.window.workspace.video.looked_through.connect(lambda: reported.append(1))
    hand.drop(film(tmp_path / "my dive.mp4", [number / 30 for number in range(300)], keys=1000))
    hand.window.workspace.checking.wait()
    until(lambda: bool(reported), 60.0)
    assert hand.window.workspace.checking.busy, "it looks again"
    hand.window.workspace.checking.wait()
    found = [
        one for one in hand.window.workspace.checking.findings if one.code == "low-contrast" and one.plate == "my dive"
    ]
    assert found
    assert any(one.start for one in found), "not the first frame, which is over the first key picture"


def test_the_film_is_dragged_until_what_is_seen_lies_under_its_mark(filmed: Hand) -> None:
    window = filmed.window
    editor = window.editor
    mark = next(
        float(editor.now.trace.axis[frame]) for frame, event in zip(*_events(editor), strict=True) if event == "rock"
    )
    editor.do(go_to_seconds, mark)
    window.header.plate_edit_wanted.emit(window.header.plate)
    QApplication.processEvents()
    strip = window.popups.plate.film
    middle, row = strip.width() // 2, 55
    there = strip.film_at(strip.seconds_at(middle - 120))
    QTest.mousePress(strip, LEFT, PLAIN, QPoint(middle - 120, row))
    QTest.mouseMove(strip, QPoint(middle - 40, row))
    assert strip.holds is None
    QTest.mouseMove(strip, QPoint(middle + 4, row))
    assert strip.holds == pytest.approx(mark)
    QTest.mouseRelease(strip, LEFT, PLAIN, QPoint(middle + 4, row))
    assert strip.film_at(mark) == pytest.approx(there, abs=1e-3)
    assert filmed.file()["plates"][-1]["offset"] == pytest.approx(there - mark, abs=1e-3)
    strip.setFocus()
    QTest.keyClick(strip, Qt.Key.Key_Right)
    assert strip.film_at(mark) == pytest.approx(there - 1 / 30, abs=1e-3)
    QTest.keyClick(strip, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert strip.film_at(mark) == pytest.approx(there - 1 / 30 + 1, abs=1e-3)
    window.popups.plate.close_it()
    filmed.key(Key.Key_Z, CTRL)
    filmed.key(Key.Key_Z, CTRL)
    assert "offset" not in filmed.file()["plates"][-1]


def _events(editor: Any) -> tuple[list[int], list[str]]:
    frames, events = editor.now.trace.events_by_frame
    return frames.tolist(), [event.name for event in events]


def test_the_strip_shows_the_film(filmed: Hand) -> None:
    window = filmed.window
    window.editor.do(go_to_seconds, 3.0)
    window.header.plate_edit_wanted.emit(window.header.plate)
    strip = window.popups.plate.film
    QApplication.processEvents()
    until(lambda: bool(strip._pictures) and not strip.busy)
    seconds = {second: number_in(picture) / 30 for second, picture in strip._pictures.items() if second < 9.9}
    assert len(seconds) >= 5
    assert all(abs(second - found) < 0.05 for second, found in seconds.items())


def test_numbered_pictures_are_one_film_and_run_as_fast_as_is_reported(hand: Hand, tmp_path: Path) -> None:
    hand.drop(*pictures(tmp_path / "shots", range(40, 60)))
    hand.menu("Add a film of 20 pictures")
    plate = hand.file()["plates"][-1]
    assert (plate["name"], plate["film"]) == ("shot", "films/shot/shot_####.png")
    hand.window.editor.do(go_to_seconds, 0.5)
    assert shown(hand.window) == 55
    hand.window.header.plate_edit_wanted.emit(hand.window.header.plate)
    hand.type_into(hand.window.popups.plate.rate, "10")
    assert hand.file()["plates"][-1]["rate"] == 10
    assert shown(hand.window) == 45


def test_a_film_that_is_none_is_reported_in_a_line_and_nothing_is_added(hand: Hand, tmp_path: Path) -> None:
    bad = tmp_path / "bad.mp4"
    bad.write_bytes(b"no film at all")
    hand.drop(bad)
    assert "bad.mp4: cannot be read as a film" in hand.window.message.text()
    assert hand.file() == hand.before


def test_a_film_that_goes_bad_is_reported_once_and_looked_at_again_when_it_is_another(
    filmed: Hand, tmp_path: Path
) -> None:
    window, path = filmed.window, filmed.folder.parent / "films/my dive.mp4"
    path.write_bytes(b"gone wrong")
    window.editor.do(go_to_seconds, 2.0)
    rests(window)
    assert "cannot be read as a film" in window.message.text()
    assert window.workspace.video.refusal(window.editor.now.plate)
    assert not window.desk.hud.grab().toImage().isNull()
    film(tmp_path / "other.mp4", [number / 30 for number in range(100, 200)]).replace(path)
    window.editor.do(go_to_seconds, 1.0)
    assert shown(window) == 30


def test_films_and_numbered_pictures_go_along_when_the_project_is_saved_elsewhere(filmed: Hand, tmp_path: Path) -> None:
    filmed.drop(*pictures(tmp_path / "shots", range(9), "shot_{:04d}.jpg"))
    target = tmp_path / "elsewhere" / "other.avrin"
    target.parent.mkdir()
    filmed.window.workspace.files.save(target)
    assert (target.parent / "films/my dive.mp4").exists()
    assert len(list((target.parent / "films/shot").iterdir())) == 9
