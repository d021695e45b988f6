"""A failure in the background is shown where its result would be, with what to do next."""

from __future__ import annotations

from collections.abc import Generator
from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from avrin.app.findings_desk.desk import FindingsDesk
from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.services.comparison import Before
from avrin.app.services.jobs import TimeSlices
from avrin.app.window.window import Window
from avrin.errors import AvrinError
from window_fixtures import qapp, window  # noqa: F401


def breaks(*_: object, **__: object) -> None:
    raise IndexError("spoilt")


def fails(_: object) -> Generator[None, None, None]:
    yield
    breaks()


def painted(widget: object) -> list[str]:
    """What the painter is given to write while a widget paints itself."""
    from PySide6.QtGui import QPainter

    written: list[str] = []
    real = QPainter.drawText

    def note(self: QPainter, *arguments: object) -> object:
        written.extend(one for one in arguments if isinstance(one, str))
        return real(self, *arguments)  # type: ignore[call-overload]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(QPainter, "drawText", note)
        widget.grab()  # type: ignore[attr-defined]
    return written


def test_offers_that_fail_say_so_on_the_shelf_and_for_the_first_hud(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("avrin.app.services.suggestions.ranked", breaks)
    suggesting = window.workspace.suggestions
    window.desk.show_offers(True)
    suggesting._timer.stop()
    suggesting._ask()
    suggesting._jobs.wait()
    (text,) = [one for one in painted(window.desk.shelf) if "spoilt" in one]
    assert text.startswith("There are no offers: an internal error (IndexError: spoilt)")
    assert "Drag a variable from its lane" in text
    window.desk.first_hud()
    assert "There are no offers: an internal error" in window.message.text()


def test_checks_that_fail_say_so_on_the_findings_desk(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    window.show_desk("Findings")
    desk = window.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    with monkeypatch.context() as patch:
        patch.setattr("avrin.app.services.checking.opened", breaks)
        window.workspace.checking.wait()
    assert desk.title.text() == "The checks could not run"
    assert "an internal error (IndexError: spoilt)" in desk.empty.text()
    assert "The next edit starts them again" in desk.empty.text()
    window.workspace.checking.wait()
    assert desk.title.text() != "The checks could not run"


def test_a_ladder_that_fails_says_so_and_the_next_one_is_worked_out(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_desk("Ladder")
    desk = window.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    with monkeypatch.context() as patch:
        patch.setattr("avrin.app.ladder_desk.desk.drivers", breaks)
        desk.wait()
    assert desk.rows.rows == []
    assert "The ladder could not be computed: an internal error (IndexError: spoilt)" in desk.rows._otherwise
    desk.wait()
    assert desk.rows.rows


def test_a_comparison_that_fails_says_so(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    editor = window.editor
    monkeypatch.setattr("avrin.app.services.comparison._compared", breaks)
    window.workspace.comparison.begin(Before("as saved", editor.now.history.saved, editor.now.folder))
    window.workspace.comparison._jobs.wait()
    assert window.comparing.told.text().startswith("cannot be compared: an internal error (IndexError: spoilt)")


def test_work_in_turns_that_fails_is_over_and_is_said_once(window: Window, qtbot: QtBot) -> None:
    turns = TimeSlices(window, window.editor, "tracks")
    told: list[AvrinError] = []
    turns._failed = told.append
    turns.submit(fails, lambda _, __: None)
    qtbot.waitUntil(lambda: bool(told), timeout=60_000)
    QApplication.processEvents()
    assert not turns.busy
    assert len(told) == 1
    assert turns.failure is told[0]


def test_one_variable_without_an_offer_is_reported(
    window: Window, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    from avrin.trace.behaviour import behaviour

    rows = "\n".join(f"{k / 10},{100 - k % 50},{k % 7}" for k in range(200))
    (tmp_path / "g.csv").write_text(f"t,hp,cursed\n{rows}\n")

    def judged(column: object, trace: object) -> object:
        if column is trace.columns["cursed"]:  # type: ignore[attr-defined]
            raise IndexError("spoilt")
        return behaviour(column, trace)  # type: ignore[arg-type]

    monkeypatch.setattr("avrin.kinds.subject.behaviour", judged)
    window.show_first_page()
    window.open_files([tmp_path / "g.csv"])
    window.workspace.suggestions.wait()
    assert [one.widget.widget.id for one in window.workspace.suggestions.offers] == ["hp_bar"]
    assert window.message.text() == "No offer could be made for cursed; drag it onto the picture instead"
