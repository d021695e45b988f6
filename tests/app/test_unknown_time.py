"""A recording none of whose columns is known to be its time: asked in place, the best guess first."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication, QLabel

from avrin.app.window.window import Window
from gestures import Hand
from window_fixtures import qapp, window  # noqa: F401


def recorded(path: Path, *names: str) -> Path:
    """The first column counts in steps of 100, the second falls back now and then, the third is a text."""
    rows = [f"{100 * k},{100 - k % 40},x" for k in range(120)]
    path.write_text(",".join(names) + "\n" + "\n".join(rows) + "\n")
    return path


def asked(window: Window) -> list[str]:
    return [label.text() for line in window.notices.lines.values() for label in line.findChildren(QLabel)]


@pytest.mark.parametrize("adding", [False, True])
def test_it_is_read_by_the_likeliest_and_asked_about(window: Window, tmp_path: Path, adding: bool) -> None:
    path = recorded(tmp_path / "arena.csv", "Uhr", "hp", "who")
    if not adding:
        window.show_first_page()
    window.open_files([path])
    QApplication.processEvents()
    editor = window.editor
    clock = editor.now.recorded.clock
    assert clock is not None
    assert (clock.time, clock.unit) == ("Uhr", "ms")
    assert asked(window) == ["No column of arena is recognised as the time. Using ‘Uhr’ in ms"]
    hand_of(window).pressed("one frame per row, 60 per second")
    clock = editor.now.recorded.clock
    assert clock is not None
    assert (clock.time, clock.rate) == ("none", 60.0)
    assert editor.now.trace.length == pytest.approx(119 / 60)
    assert "uhr" in editor.now.trace.columns or "Uhr" in editor.now.trace.columns
    assert asked(window) == []
    assert editor.now.project.traces[-1].time == "none"


def test_that_it_is_right_is_one_press(window: Window, tmp_path: Path) -> None:
    window.show_first_page()
    window.open_files([recorded(tmp_path / "arena.csv", "Uhr", "hp", "who")])
    QApplication.processEvents()
    hand_of(window).pressed("that is correct")
    assert asked(window) == []
    assert window.editor.now.project.traces[0].time == "Uhr"


@pytest.mark.parametrize("name", ["Match Clock (ms)", "matchTimeMs", "time [Ms]", "elapsed_millis"])
def test_a_time_and_its_unit_in_any_spelling_need_no_question(window: Window, tmp_path: Path, name: str) -> None:
    window.show_first_page()
    window.open_files([recorded(tmp_path / "arena.csv", name, "hp", "who")])
    clock = window.editor.now.recorded.clock
    assert clock is not None
    assert (clock.time, clock.unit) == (name, "ms")
    assert asked(window) == []
    assert window.editor.now.trace.length == pytest.approx(11.9)


def hand_of(window: Window) -> Hand:
    made = Hand.__new__(Hand)
    made.window = window
    return made
