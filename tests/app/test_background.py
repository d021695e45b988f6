"""Work off the interface thread: the newest edit wins, recordings appear once they are read, faults are reported."""

from __future__ import annotations

import pytest
from pytestqt.qtbot import QtBot

from avrin.app.session import editor_state as present_module
from avrin.app.session import traces as traces_module
from avrin.app.window.window import Window
from avrin.widgets import RulePlace
from window_fixtures import qapp, window  # noqa: F401

VALUE = RulePlace("widget", "hull_bar", "inputs", "value")


def test_of_edits_in_a_row_only_the_newest_is_shown(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(present_module, "AT_ONCE", 0)
    session = window.session
    session.go_to_seconds(118)
    shown: list[object] = []
    session.project_changed.connect(lambda: shown.append(session.bound.project.widget("hull_bar").inputs["value"]))
    before = session.tracks
    for text in ("hull * 0.5", "hull * 0.25", "hull * 0"):
        session.set_rule(VALUE, text)
        assert session.tracks is before  # the window goes on with what it has
        assert session.rule_text(VALUE) == text
    session.wait()
    assert shown == ["hull * 0"]
    assert session.tracks.state(session.bound.widgets["hull_bar"], session.frame)["fraction"] == 0
    session.undo()
    session.wait()
    assert shown[-1] == "hull"


def test_a_recording_is_read_in_the_background(window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(traces_module, "READ_AT_ONCE", 0)
    session = window.session
    session.traces.show("traces/calm-dive.csv")
    assert session.trace_name == "traces/leaky-dive.csv"
    with qtbot.waitSignal(session.trace_changed, timeout=60_000):
        pass
    assert session.trace_name == "traces/calm-dive.csv"
    assert "frames" in window.message.text()
    (session.folder / "traces/rich-haul.csv").write_text("t,x\n1,1\n0,1\n")
    session.traces.show("traces/rich-haul.csv")
    session.wait()
    assert "time runs backwards" in window.message.text()
    assert session.trace_name == "traces/calm-dive.csv"


def test_a_trace_is_made_from_the_window_and_listed(window: Window) -> None:
    session = window.session
    session.traces.make()
    session.wait()
    assert session.trace_name == "traces/made-1.csv"
    assert session.project.traces[-1].note.startswith("made")
    assert len(session.trace.run_starts) == 6
    bands = session.tracks.column(session.bound.widgets["hull_bar"].columns["band"])
    assert {"", "low", "critical"} <= {bands.words[code] for code in set(bands.data.tolist())}
    session.undo()
    assert session.project.recording("traces/made-1.csv") is None
