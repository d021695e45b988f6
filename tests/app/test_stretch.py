"""A stretch is marked on the time axis and becomes a recording of its own."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest

from avrin.app.window import stretch as stretch_module
from gestures import CTRL, LEFT, SHIFT, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


def test_a_marked_stretch_becomes_a_recording(window: object, monkeypatch: pytest.MonkeyPatch) -> None:
    hand = Hand(window)
    ruler, editor = hand.window.desk.ruler, hand.window.editor
    scale = hand.window.desk.scale
    left, right = (QPoint(round(scale.x(at)), 20) for at in (20.0, 41.0))
    QTest.mousePress(ruler, LEFT, SHIFT, left)
    QTest.mouseMove(ruler, right)
    QTest.mouseRelease(ruler, LEFT, SHIFT, right)
    assert ruler.stretch == pytest.approx((20, 41), abs=0.6)
    assert editor.now.frame == 0, "marking does not move the playhead"
    target = editor.now.folder / "traces" / "these.csv"
    monkeypatch.setattr(stretch_module, "ask_target", lambda *_: target)
    before = len(editor.now.project.traces)
    hand.command("recording of the marked stretch, with made-up")
    assert target.exists()
    hand.window.workspace.wait()
    assert len(editor.now.project.traces) == before + 1
    assert editor.now.trace.length == pytest.approx(21, abs=1.3)
    assert editor.now.trace.name == "these"
    assert ruler.stretch is None
    assert editor.now.trace.columns["phase"][0] == "dive", "a text that rules compare with stays"
    hand.key(Key.Key_BracketRight, CTRL)
    assert ruler.stretch == (0.0, editor.now.seconds)
    monkeypatch.setattr(stretch_module, "ask_target", lambda *_: target)
    written = target.read_bytes()
    hand.command("cut: a recording")
    assert "is the recording it is cut from" in hand.window.message.text()
    assert target.read_bytes() == written
    monkeypatch.setattr(stretch_module, "ask_target", lambda *_: None)
    hand.command("cut: a recording")
    hand.command("mark no stretch")
    assert ruler.stretch is None
    assert Path(target).exists()
