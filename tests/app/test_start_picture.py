"""The picture a window shows while it gets ready."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from avrin.app.main import application, make_window
from avrin.app.services.extents import Extents
from avrin.app.window import message as message_module
from avrin.app.window import window as window_module
from avrin.app.window.start_picture import start_picture
from avrin.app.window.window import Window
from avrin.binding.places import RulePlace
from avrin.editor.edits import set_rule
from window_fixtures import close_window, pending, qapp  # noqa: F401

Open = Callable[[], Window]


@pytest.fixture(scope="session")
def demo(brief: Path) -> Path:
    return brief


@pytest.fixture
def project(demo: Path, tmp_path: Path) -> Path:
    shutil.copytree(demo.parent, tmp_path / "b")
    return tmp_path / "b" / demo.name


@pytest.fixture
def opened(qtbot: QtBot, project: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Open]:
    """Opens the project in a new window and waits until its picture would have been kept."""
    QSettings().clear()
    monkeypatch.setattr(window_module, "AT_REST", 60)
    made: list[Window] = []

    def open_() -> Window:
        window = make_window(project)
        made.append(window)
        window.show()
        wait_for_picture(qtbot, project, window)
        return window

    yield open_
    for window in made:
        close_window(window)


def wait_for_picture(qtbot: QtBot, project: Path, window: Window) -> None:
    """Wait until a window's picture is cached; a timeout says what kept it."""

    def is_cached() -> None:
        assert start_picture(project, window) is not None, pending(window)

    qtbot.waitUntil(is_cached, timeout=180_000)


def test_the_next_start_shows_at_once_what_the_window_will_show(opened: Open, project: Path) -> None:
    first = opened()
    shown = start_picture(project, first)
    assert shown is not None
    assert shown.toImage().convertToFormat(first.grab().toImage().format()) == first.grab().toImage()
    second = Window()
    assert second.show_opening(project)
    assert second.grab().toImage() == first.grab().toImage()
    second.close()


@pytest.mark.usefixtures("opened")
def test_what_was_touched_meanwhile_is_not_kept(qtbot: QtBot, project: Path) -> None:
    window = make_window(project)
    qtbot.addWidget(window)
    window.show()
    qtbot.waitExposed(window)
    application().processEvents()
    QTest.keyClick(window.desk.hud, Qt.Key.Key_Right)
    assert window.editor.now.frame == 1
    qtbot.waitUntil(lambda: not window.busy, timeout=60_000)
    qtbot.wait(150)
    assert start_picture(project, window) is None


def test_a_picture_is_not_kept_while_something_in_it_is_on_its_way(
    qtbot: QtBot, project: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    QSettings().clear()
    monkeypatch.setattr(window_module, "AT_REST", 60)
    monkeypatch.setattr(Extents, "busy", True)
    window = make_window(project)
    qtbot.addWidget(window)
    window.show()
    qtbot.waitUntil(lambda: not window.workspace.checking.busy, timeout=60_000)
    qtbot.wait(200)
    assert start_picture(project, window) is None
    monkeypatch.setattr(Extents, "busy", False)
    wait_for_picture(qtbot, project, window)


def test_a_picture_is_not_shown_once_the_project_would_open_differently(opened: Open, project: Path) -> None:
    window = opened()
    project.write_text(project.read_text().replace('"HULL"', '"BODY"'))
    assert start_picture(project, window) is None
    window = opened()
    assert start_picture(project, window) is not None
    window.editor.do(set_rule, RulePlace("widget", "hull_bar", "inputs", "value"), "hull / 2")
    window.close()  # the edit is kept and would come back
    assert start_picture(project, Window()) is None


def test_a_picture_is_kept_once_a_message_is_gone(qtbot: QtBot, project: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    QSettings().clear()
    monkeypatch.setattr(window_module, "AT_REST", 60)
    monkeypatch.setattr(message_module, "SHOWN", 2_000_000_000)
    window = make_window(project)
    qtbot.addWidget(window)
    window.editor.say("Restored")
    window.show()
    qtbot.waitUntil(lambda: not window.busy, timeout=60_000)
    qtbot.wait(200)
    assert start_picture(project, window) is None
    QTest.mouseClick(window.message, Qt.MouseButton.LeftButton)
    wait_for_picture(qtbot, project, window)


def test_a_broken_picture_is_as_good_as_none(opened: Open, project: Path) -> None:
    window = opened()
    from avrin.app.window.start_picture import _file

    kept = _file(project, window)
    kept.write_bytes(kept.read_bytes()[:2000])
    assert not Window().show_opening(project)
    assert make_window(project).editor.now.path == project
    assert window.isVisible()
