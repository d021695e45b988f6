"""What a start waits for, and what comes when the hand rests."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from avrin.app.bind_desk.picture.plate_cache import ground_file
from avrin.app.main import make_window
from avrin.app.painting import paint
from avrin.app.services.workspace import Workspace
from avrin.app.window.window import Window
from avrin.editor.viewing import show_over
from avrin.storage.folders import cache_folder
from window_fixtures import qapp  # noqa: F401

SLOW = (
    "numpy",
    "lark",
    "babel",
    "uharfbuzz",
    "html",
    "xml",
    "PySide6.QtSvg",
    "avrin.rules.steps",
    "avrin.kinds.kind",
    "avrin.trace.frames",
)
LATE = (
    "lark", "babel", "uharfbuzz", "PySide6.QtSvg", "csv", "concurrent.futures", "avrin.ladder", "avrin.findings",
    "avrin.diff", "avrin.sweep", "avrin.app.bind_desk.card.card", "avrin.app.services.sweeps",
)  # fmt: skip
PICTURE = """
from avrin.app.main import application
from avrin.app.window.window import Window
application()
Window().show_opening(None)
"""
ALIVE = """
from pathlib import Path
from avrin.app.main import application, make_window
window = make_window(Path(sys.argv[1]))
window.show()
application().sendPostedEvents()
assert window.desk.hud.isVisible()
"""
AT_REST = (
    "from avrin.findings import registry\nregistry.CHECKS = ()  # so that nothing is cached\n"
    + ALIVE
    + "\nwhile window.busy: application().processEvents()\nwindow.close()\n"
)


def _loaded(code: str, home: Path, *arguments: str) -> set[str]:
    """What a process has loaded by the end of a program; it ends as a program does that is left."""
    told = "\nprint('\\n'.join(sys.modules))"
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(home / "config")}
    environment |= {"AVRIN_CACHE": str(home / "cache"), "AVRIN_STATE": str(home / "state")}
    done = subprocess.run(
        [sys.executable, "-c", "import sys\n" + code + told, *arguments],
        capture_output=True, text=True, check=True, env=environment,
    )  # fmt: skip
    return set(done.stdout.split("\n"))


def test_a_picture_is_shown_before_anything_slow_is_loaded(tmp_path: Path) -> None:
    assert _loaded(PICTURE, tmp_path).isdisjoint(SLOW)


def test_a_window_follows_the_hand_before_what_it_does_not_need_is_loaded(tmp_path: Path, demo: Path) -> None:
    shutil.copytree(demo.parent, tmp_path / "b")
    project = str(tmp_path / "b" / demo.name)
    assert "lark" in _loaded(AT_REST, tmp_path, project), "what is worked out once is kept for the next start"
    loaded = _loaded(ALIVE, tmp_path, project)
    assert "avrin.binding.tracks" in loaded
    assert loaded.isdisjoint(LATE)


# -- the card ---------------------------------------------------------------------------------------------------------


def test_the_card_comes_when_picture_and_lanes_are_seen(qtbot: QtBot, demo: Path) -> None:
    window = make_window(demo)
    qtbot.addWidget(window)
    assert not window.desk.is_whole
    assert window.busy, "waiting for everything includes it"
    window.show()
    qtbot.waitUntil(lambda: window.desk.is_whole, timeout=60_000)
    card = window.desk.card
    assert card.isVisible()
    assert card.rows, "of what is selected"
    assert window.desk.upper.widget(1) is card
    assert window.desk.upper.count() == 2
    assert window.desk.footer.isVisible()
    after = window.desk.lanes.nextInFocusChain()
    while after is not None and not (after.isVisible() and after.focusPolicy() & Qt.FocusPolicy.TabFocus):
        after = after.nextInFocusChain()
    assert after is not None
    assert window.desk.footer.isAncestorOf(after), "the focus goes from the lanes to what is below them"


def test_who_asks_for_the_card_gets_it_at_once(qtbot: QtBot, demo: Path) -> None:
    window = make_window(demo)
    qtbot.addWidget(window)
    window.desk.focus_rules()
    assert window.focusWidget() is window.desk.card.rows[0].edit


def test_a_hand_that_comes_first_is_followed_first(qtbot: QtBot, demo: Path) -> None:
    window = make_window(demo)
    qtbot.addWidget(window)
    window.show()
    lanes = window.desk.lanes.viewport()
    QTest.mouseClick(lanes, Qt.MouseButton.LeftButton, pos=QPoint(lanes.width() * 3 // 5, 40))
    assert window.editor.now.frame > 0
    assert not window.desk.is_whole


def test_the_picture_of_the_last_time_is_seen_where_the_card_will_be(qtbot: QtBot, demo: Path) -> None:
    window = Window()
    qtbot.addWidget(window)
    known = QImage(window.size(), QImage.Format.Format_RGB32)
    known.fill(Qt.GlobalColor.magenta)
    window._picture = QPixmap.fromImage(known)
    editor = Workspace()
    window.fill(editor)
    window.workspace.files.open(demo)
    window.restore_layout()
    there = window.desk._card_place
    place = QRect(there.mapTo(window, QPoint()), there.size()).center()
    assert window.grab().toImage().pixelColor(place) == Qt.GlobalColor.magenta
    assert window.desk.card.rows
    assert window.grab().toImage().pixelColor(place) != Qt.GlobalColor.magenta
    window.workspace.close()


# -- the plate --------------------------------------------------------------------------------------------------------


@pytest.fixture(scope="session")
def demo(brief: Path) -> Path:
    return brief


@pytest.fixture
def shown(qtbot: QtBot, demo: Path, tmp_path: Path) -> Window:
    shutil.copytree(demo.parent, tmp_path / "b")
    window = make_window(tmp_path / "b" / demo.name)
    qtbot.addWidget(window)
    window.show()
    qtbot.waitUntil(lambda: not window.busy, timeout=60_000)
    window.editor.do(show_over, window.editor.now.project.plates[0])
    window.desk.hud.grab()
    for kept in _plates():
        kept.unlink()
    return window


def _plates() -> list[Path]:
    return sorted((cache_folder() / "plates").glob("*"))


def test_a_plate_is_drawn_from_what_was_kept(shown: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    first = shown.desk.hud.grab().toImage()
    shown.desk.hud.ground.keep()
    assert len(_plates()) == 1
    monkeypatch.setattr(paint, "artwork", lambda _: pytest.fail("it was kept"))
    shown.desk.hud._new_ground()
    assert shown.desk.hud.grab().toImage() == first


def test_a_plate_is_kept_for_all_that_decides_how_it_is_drawn(shown: Window) -> None:
    editor, size = shown.editor, shown.desk.hud.picture_rect().size().toSize()
    file = ground_file(editor, size, 1.0)
    assert file is not None
    others = {ground_file(editor, size, 2.0), ground_file(editor, size + QSize(1, 0), 1.0)}
    plate = editor.now.plate
    assert plate is not None
    picture = editor.now.folder / plate.picture
    os.utime(picture, ns=(1, 1))
    others.add(ground_file(editor, size, 1.0))
    editor.do(show_over, None)
    assert ground_file(editor, size, 1.0) is None
    assert len({file, *others}) == 4
    editor.do(show_over, plate)
    picture.unlink()
    assert ground_file(editor, size, 1.0) is None


def test_a_plate_that_is_painted_over_is_drawn_anew_and_never_kept_as_it_was(shown: Window) -> None:
    editor, hud = shown.editor, shown.desk.hud
    plate = editor.now.plate
    assert plate is not None
    picture, first = editor.now.folder / plate.picture, hud.grab().toImage()
    picture.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9z" fill="#f0f"/></svg>'
    )
    hud.ground.keep()
    hud._new_ground()
    second = hud.grab().toImage()
    assert second != first
    hud.ground.keep()
    hud._new_ground()
    assert hud.grab().toImage() == second


def test_what_cannot_be_read_is_not_kept(shown: Window) -> None:
    plate = shown.editor.now.plate
    assert plate is not None
    (shown.editor.now.folder / plate.picture).write_text("no picture")
    shown.desk.hud._new_ground()
    shown.desk.hud.grab()
    shown.desk.hud.ground.keep()
    assert _plates() == []


def test_a_kept_plate_that_is_spoilt_is_made_anew(shown: Window) -> None:
    shown.desk.hud.ground.keep()
    (newest,) = _plates()
    whole = newest.read_bytes()
    newest.write_bytes(whole[:-100])
    shown.desk.hud._new_ground()
    shown.desk.hud.grab()
    shown.desk.hud.ground.keep()
    assert newest.read_bytes() == whole


def test_only_some_plates_are_kept(shown: Window) -> None:
    for wide in range(12):
        shown.desk.hud.resize(600 + wide, 400)
        shown.desk.hud.grab()
        shown.desk.hud.ground.keep()
    assert len(_plates()) == 8
