"""Work off the interface thread: the newest edit wins, recordings appear once they are read, faults are reported."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from avrin.app.services import traces as traces_module
from avrin.app.window.window import Window
from avrin.binding.places import RulePlace
from avrin.editor import evaluation
from avrin.editor.by_hand import advance_drive, press_action, start_drive, stop_drive
from avrin.editor.changes import Change
from avrin.editor.edits import set_rule, undo
from avrin.editor.playback import go_to_seconds
from avrin.trace.frames import Column, Event
from avrin.trace.store import open_trace, save_trace
from window_fixtures import qapp, window  # noqa: F401

VALUE = RulePlace("widget", "hull_bar", "inputs", "value")


def test_of_edits_in_a_row_only_the_newest_is_shown(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(evaluation, "AT_ONCE", 0)
    editor = window.editor
    editor.do(go_to_seconds, 118)
    shown: list[object] = []

    def note(change: Change) -> None:
        if change.of("tracks"):
            shown.append(editor.now.bound.project.widget("hull_bar").inputs["value"])

    editor.changed.connect(note)
    before = editor.now.tracks
    for text in ("hull * 0.5", "hull * 0.25", "hull * 0"):
        editor.do(set_rule, VALUE, text)
        assert editor.now.tracks is before  # the window goes on with what it has
        assert editor.now.rule_text(VALUE) == text
    window.workspace.wait()
    assert shown == ["hull * 0"]
    assert editor.now.tracks.state(editor.now.bound.widgets["hull_bar"], editor.now.frame)["fraction"] == 0
    editor.do(undo)
    window.workspace.wait()
    assert shown[-1] == "hull"


def test_a_recording_is_read_in_the_background(window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(traces_module, "READ_AT_ONCE", 0)
    editor = window.editor
    window.workspace.traces.show("traces/calm-dive.csv")
    assert editor.now.trace_name == "traces/leaky-dive.csv"
    qtbot.waitUntil(lambda: editor.now.trace_name == "traces/calm-dive.csv", timeout=60_000)
    assert editor.now.trace_name == "traces/calm-dive.csv"
    assert "frames" in window.message.text()
    (editor.now.folder / "traces/rich-haul.csv").write_text("t,x\n1,1\n0,1\n")
    window.workspace.traces.show("traces/rich-haul.csv")
    window.workspace.wait()
    assert "time runs backwards" in window.message.text()
    assert editor.now.trace_name == "traces/calm-dive.csv"


def test_a_trace_is_made_from_the_window_and_listed(window: Window) -> None:
    editor = window.editor
    window.workspace.traces.make()
    window.workspace.wait()
    assert editor.now.trace_name == "traces/made-1.csv"
    assert editor.now.project.traces[-1].note.startswith("made")
    assert len(editor.now.trace.run_starts) == 6
    bands = editor.now.tracks.column(editor.now.bound.widgets["hull_bar"].columns["band"])
    assert {"", "low", "critical"} <= {bands.words[code] for code in set(bands.data.tolist())}
    editor.do(undo)
    assert editor.now.project.recording("traces/made-1.csv") is None


def test_a_recording_the_checks_have_read_is_shown_as_the_same_object(window: Window) -> None:
    """What was found about it stays found, and its file is looked at all the same."""
    editor = window.editor
    window.workspace.checking.wait()
    calm = next(one for one in editor.now.project.traces if "calm" in one.path)
    read = editor.now.recordings[editor.now.identity(calm)].trace
    bound = editor.now.bound
    window.workspace.traces.show(calm.key)
    assert editor.now.recorded is read
    assert editor.now.bound is bound
    trace = editor.now.recorded
    columns = {**trace.columns, "hull": Column("number", trace.columns["hull"].data + 1)}
    save_trace(replace(trace, columns=columns), editor.now.identity(calm))
    window.workspace.traces.show(calm.key)
    assert (editor.now.recorded.columns["hull"].data == columns["hull"].data).all()


def test_an_event_of_another_recording_is_known_once_that_was_read(window: Window) -> None:
    editor = window.editor
    rich = next(one for one in editor.now.project.traces if "rich" in one.path)
    path = editor.now.identity(rich)
    save_trace(replace(open_trace(path), events=(Event(1.0, "gong", {}),)), path)
    place = RulePlace("widget", "bell", "inputs", "visible")
    editor.do(set_rule, place, 'events("gong") > 0')
    assert place in editor.now.bound.errors
    window.workspace.checking.wait()
    assert editor.now.bound.errors == {}
    window.workspace.traces.show(next(one.key for one in editor.now.project.traces if "calm" in one.path))
    assert editor.now.bound.errors == {}


def test_a_drive_leaves_the_binding_as_it_was(window: Window) -> None:
    editor = window.editor
    window.workspace.checking.wait()
    bound = editor.now.bound
    editor.do(start_drive)
    editor.do(press_action, "Hit a rock")
    editor.do(advance_drive, 0.5)
    editor.do(stop_drive)
    assert "hit_a_rock" in editor.now.bound.events
    window.workspace.traces.show(editor.now.project.traces[0].key)
    assert editor.now.bound is bound
