"""Work off the interface thread: the newest edit wins, recordings appear once they are read, faults are reported."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from avrin.app.session import editor_state as present_module
from avrin.app.session import traces as traces_module
from avrin.app.window.window import Window
from avrin.trace.frames import Column, Event
from avrin.trace.store import open_trace, save_trace
from avrin.widgets.places import RulePlace
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


def test_a_recording_the_checks_have_read_is_shown_as_the_same_object(window: Window) -> None:
    """What was found about it stays found, and its file is looked at all the same."""
    session = window.session
    session.checking.wait()
    calm = next(one for one in session.project.traces if "calm" in one.path)
    read = session.now.recordings[session.now.identity(calm)].trace
    bound = session.bound
    session.traces.show(calm.key)
    assert session.now.recorded is read
    assert session.bound is bound
    trace = session.now.recorded
    columns = {**trace.columns, "hull": Column("number", trace.columns["hull"].data + 1)}
    save_trace(replace(trace, columns=columns), session.now.identity(calm))
    session.traces.show(calm.key)
    assert (session.now.recorded.columns["hull"].data == columns["hull"].data).all()


def test_an_event_of_another_recording_is_known_once_that_was_read(window: Window) -> None:
    session = window.session
    rich = next(one for one in session.project.traces if "rich" in one.path)
    path = session.now.identity(rich)
    save_trace(replace(open_trace(path), events=(Event(1.0, "gong", {}),)), path)
    place = RulePlace("widget", "bell", "inputs", "visible")
    session.set_rule(place, 'events("gong") > 0')
    assert place in session.bound.errors
    session.checking.wait()
    assert session.bound.errors == {}
    session.traces.show(next(one.key for one in session.project.traces if "calm" in one.path))
    assert session.bound.errors == {}


def test_a_drive_leaves_the_binding_as_it_was(window: Window) -> None:
    session = window.session
    session.checking.wait()
    bound = session.bound
    session.manual.start()
    session.manual.press("Hit a rock")
    session.manual.go_on(0.5)
    session.manual.stop()
    assert "hit_a_rock" in session.bound.events
    session.traces.show(session.project.traces[0].key)
    assert session.bound is bound
