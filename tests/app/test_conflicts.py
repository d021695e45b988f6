"""Conflicts of a merge, decided in the window one after the other."""

from __future__ import annotations

import json

from PySide6.QtTest import QTest

from gestures import CTRL, LEFT, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


def test_each_conflict_is_asked_decided_by_a_press_and_undone(window: object) -> None:
    hand = Hand(window)
    raw = hand.file()
    raw["title"] = "Ours"
    raw["conflicts"] = [
        {"at": ["title"], "ours": "Ours", "theirs": "Theirs"},
        {"at": ["widgets", "hull_bar", "inputs", "value"], "ours": "hull", "theirs": "hull - 5"},
    ]
    hand.folder.write_text(json.dumps(raw))
    hand.window.workspace.files.open(hand.folder)

    def question() -> str:
        line = hand.window.notices.lines.get("conflict")
        return str(line.accessibleName()) if line is not None else ""

    assert question() == "Changed by both, 1 of 2: title"
    hand.pressed("theirs: Theirs")
    assert hand.file()["title"] == "Theirs"
    assert question() == "Changed by both: widget 'hull_bar', inputs, value"
    hand.pressed("theirs: hull - 5")
    assert hand.window.editor.now.selection.widget == "hull_bar"
    assert "conflicts" not in hand.file()
    assert hand.widget("hull_bar")["inputs"]["value"] == "hull - 5"
    assert question() == ""
    hand.key(Key.Key_Z, CTRL)
    assert question() == "Changed by both: widget 'hull_bar', inputs, value"
    hand.pressed("ours: hull")
    assert hand.widget("hull_bar")["inputs"]["value"] == "hull"
    assert question() == ""
    QTest.mouseClick(hand.picture, LEFT)
