"""The real window over the demo, in a folder of its own; imported by the tests that drive it."""

from __future__ import annotations

import gc
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Protocol

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication, QEvent, QSettings
from pytestqt.qtbot import QtBot
from shiboken6 import isValid

from avrin.app.main import application, make_window
from avrin.app.services import checking
from avrin.app.shots import begin_anew
from avrin.app.window.window import SIZE, Window
from avrin.editor.changes import Change
from avrin.editor.edits import mark_saved, set_widget
from avrin.editor.playback import go_to_seconds
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Message
from avrin.editor.viewing import show_over
from avrin.findings import registry


class Busy(Protocol):
    """What may have work left."""

    @property
    def busy(self) -> bool:
        """Whether it has."""
        ...


ALL_CHECKS = registry.CHECKS


@pytest.fixture(scope="session")
def qapp() -> Iterator[object]:
    """The application. As in the running one, rubbish is not looked for in threads of the background.

    Checks run but that of contrast, which takes three quarters of their time and is tested without a window.
    """
    gc.disable()
    app = application()
    gc.freeze()  # what is loaded stays: looking through it after each window would take longer than the tests
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(registry, "CHECKS", tuple(check for check in ALL_CHECKS if check.code != "low-contrast"))
        yield app


@pytest.fixture
def window(qtbot: QtBot, demo: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    """A window of its own, in which checks run only for a test that waits for them."""
    monkeypatch.setattr(checking, "REST_MS", 2_000_000_000)
    shutil.copytree(demo.parent, tmp_path / "b")
    built = _opened(tmp_path / "b" / demo.name)
    qtbot.waitExposed(built)
    yield built
    close_window(built)


@contextmanager
def opened_over(
    recording: Path, home: Path, monkeypatch: pytest.MonkeyPatch, project: Path | None = None
) -> Iterator[Window]:
    """A window over a recording, from an empty home, its project saved beside it, or as it is said."""
    for name in ("STATE", "CACHE", "DATA"):
        monkeypatch.setenv(f"AVRIN_{name}", str(home / name.lower()))
    monkeypatch.setattr(checking, "REST_MS", 2_000_000_000)
    built = _opened(recording)
    built.workspace.files.save(project or recording.with_suffix(".avrin"))
    application().processEvents()
    yield built
    close_window(built)


@pytest.fixture(scope="module")
def one_window(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Window]:
    """One window for all tests of a module, where what it knows is dear: the checks have run."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(checking, "REST_MS", 2_000_000_000)
        folder = tmp_path_factory.mktemp("one") / "b"
        shutil.copytree(demo.parent, folder)
        built = _opened(folder / demo.name)
        built.workspace.checking.wait()
        yield built
        close_window(built)


@pytest.fixture
def carried(one_window: Window) -> Window:
    """The same window, reset to the opened project; only what the previous test touched is evaluated again."""
    begin_anew(one_window)
    application().processEvents()
    one_window.workspace.checking.wait()
    return one_window


def _opened(project: Path) -> Window:
    QSettings().clear()
    built = make_window(project)
    built.show()
    built.resize(*SIZE)
    built.desk.first_sizes()
    application().processEvents()
    return built


def close_window(built: Window) -> None:
    """Close a window without keeping its edits, and let go of all that it held."""
    if isValid(built):  # a test may have closed it
        if built.is_alive:
            built.workspace.files.forget_unsaved()
            built.editor.do(mark_saved)
        built.close()
    handle_deletions()
    gc.collect()


def look_at(window: Window, seconds: float) -> None:
    """Put the playhead at a time."""
    window.editor.do(go_to_seconds, seconds)


def look_over(window: Window, plate: int) -> None:
    """Show one of the project's plates, by its number."""
    window.editor.do(show_over, window.editor.now.project.plates[plate])


def choose(window: Window, ident: str) -> None:
    """Select a widget."""
    window.editor.do(select_widget, ident)


def write_inputs(window: Window, ident: str, inputs: dict[str, str]) -> None:
    """Give a widget other inputs."""
    window.editor.do(set_widget, replace(window.editor.now.project.widget(ident), inputs=inputs), "inputs")


def messages(window: Window) -> list[Message]:
    """Return a list to which each message of a window is added from now on."""
    told: list[Message] = []

    def hear(change: Change) -> None:
        if change.of("message"):
            told.append(window.editor.now.message)

    window.editor.changed.connect(hear)
    return told


def pending(window: Window) -> str:
    """Return what a window is waiting for, and what it says: the text of a test's timeout."""
    desk = window.desk
    parts: dict[str, Busy] = {
        "files": window.workspace.files.jobs, "traces": window.workspace.traces.jobs, "extents": window.workspace.extents,
        "checks": window.workspace.checking, "offers": window.workspace.suggestions, "comparison": window.workspace.comparison,
        "film": window.workspace.video, "desk": desk, "lanes": desk.lanes, "ribbons": desk.ribbons,
    }  # fmt: skip
    busy = [name for name, part in parts.items() if part.busy]
    said = window.message.text() if window.message.isVisible() else ""
    return f"busy: {busy or window.workspace.busy}, touched: {not window.workspace.files.untouched}, message: {said!r}"


def handle_deletions() -> None:
    """Let Qt delete what is to be deleted, as its own loop does."""
    application().processEvents()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
