"""The real window over the demo, in a folder of its own; imported by the tests that drive it."""

from __future__ import annotations

import gc
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Protocol

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QSettings
from pytestqt.qtbot import QtBot
from shiboken6 import isValid

from avrin.app.main import application, make_window
from avrin.app.session import checking
from avrin.app.shots import begin_anew
from avrin.app.window.window import SIZE, Window
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
    built.session.files.save(project or recording.with_suffix(".avrin"))
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
        built.session.checking.wait()
        yield built
        close_window(built)


@pytest.fixture
def carried(one_window: Window) -> Window:
    """The same window, reset to the opened project; only what the previous test touched is evaluated again."""
    begin_anew(one_window)
    application().processEvents()
    one_window.session.checking.wait()
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
            built.session.files.forget_unsaved()
            built.session.history.mark_saved()
        built.close()
    handle_deletions()
    gc.collect()


def pending(window: Window) -> str:
    """Return what a window is waiting for, and what it says: the text of a test's timeout."""
    session, desk = window.session, window.desk
    parts: dict[str, Busy] = {
        "files": session.files.jobs, "traces": session.traces.jobs, "extents": session.extents,
        "checks": session.checking, "offers": session.suggestions, "comparison": session.comparison,
        "film": session.video, "desk": desk, "lanes": desk.lanes, "ribbons": desk.ribbons,
    }  # fmt: skip
    busy = [name for name, part in parts.items() if part.busy]
    said = window.message.text() if window.message.isVisible() else ""
    return f"busy: {busy or session.busy}, touched: {not session.untouched}, message: {said!r}"


def handle_deletions() -> None:
    """Let Qt delete what is to be deleted, as its own loop does."""
    application().processEvents()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
