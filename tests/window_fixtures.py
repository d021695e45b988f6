"""The real window over the demo, in a folder of its own; imported by the tests that drive it."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings
from pytestqt.qtbot import QtBot

from avrin.app.main import application, make_window
from avrin.app.session import checking
from avrin.app.window.window import SIZE, Window


@pytest.fixture(scope="session")
def qapp() -> object:
    return application()


@pytest.fixture
def window(qtbot: QtBot, demo: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    monkeypatch.setattr(checking, "REST", 600_000)  # only who settles them sees findings
    shutil.copytree(demo.parent, tmp_path / "b")
    QSettings().clear()
    made = make_window(tmp_path / "b" / demo.name)
    qtbot.addWidget(made)
    made.show()
    made.resize(*SIZE)
    made.desk.first_sizes()
    qtbot.waitExposed(made)
    application().processEvents()
    yield made
    made.session.files.forget_unsaved()
    made.session.history.mark_saved()
