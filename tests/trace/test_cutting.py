"""Stretches cut out of recordings: frames, times, runs and events; and texts replaced before sharing."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.cli import main
from avrin.errors import AvrinError
from avrin.trace.cutting import cut, quoted, with_made_up_names
from avrin.trace.frames import Column, Event, Trace
from avrin.trace.store import open_trace, save_trace
from strategies import identical, traces

DIVE = Trace.make(
    "dive", [0.0, 1.0, 2.0, 3.0, 0.0, 1.0, 2.0],
    {"hull": Column.of([9.0, 8.0, 7.0, 6.0, 9.0, 8.0, None]),
     "who": Column.of(["Kim", "Kim", "Lee", "Lee", "Max", None, "dive"])},
    [1, 1, 1, 1, 2, 2, 2], [Event(1.5, "hit", {"by": "Lee", "points": 3.0}), Event(0.5, "hit", {"by": "Max"}, 2)],
)  # fmt: skip


@given(traces(least=1), st.data())
def test_any_stretch_has_the_frames_and_events_of_the_whole(trace: Trace, data: st.DataObject) -> None:
    first = data.draw(st.integers(0, len(trace) - 1))
    end = data.draw(st.integers(first + 1, len(trace)))
    part = cut(trace, first, end)
    assert len(part) == end - first
    assert part.t[0] == 0.0
    assert np.array_equal(np.diff(part.run) != 0, np.diff(trace.run[first:end]) != 0)
    same = np.diff(part.run) == 0
    assert np.allclose(np.diff(part.t)[same], np.diff(trace.t[first:end])[same])
    for name, column in part.columns.items():
        assert [column[i] for i in range(len(part))] == [trace.columns[name][first + i] for i in range(len(part))]
    frames, events = trace.events_by_frame
    kept = [event for frame, event in zip(frames, events, strict=True) if first <= frame < end]
    assert [(e.name, e.args) for e in part.events_by_frame[1]] == [(e.name, e.args) for e in kept]
    if (first, end) == (0, len(trace)):
        for name in trace.columns:
            assert identical(part.columns[name].is_missing(), trace.columns[name].is_missing())


def test_later_runs_keep_their_times_where_each_starts_anew() -> None:
    part = cut(DIVE, 2, 6)
    assert (part.t.tolist(), part.run.tolist()) == ([0, 1, 0, 1], [1, 1, 2, 2])
    assert [(e.t, e.run, e.args.get("by")) for e in part.events] == [(-0.5, 1, "Lee"), (0.5, 2, "Max")]
    assert part.event_frames.tolist() == [0, 3]
    on = Trace.make("on", [5.0, 6.0, 7.0], {}, [1, 1, 2])
    assert cut(on, 1, 3).t.tolist() == [0, 1]


def test_texts_that_occur_only_elsewhere_are_not_handed_on() -> None:
    assert cut(DIVE, 0, 2).columns["who"].words == ("Kim",)


@pytest.mark.parametrize(("first", "end"), [(3, 3), (5, 2), (7, 9)])
def test_a_stretch_without_frames_is_refused(first: int, end: int) -> None:
    with pytest.raises(AvrinError, match="holds no frame"):
        cut(DIVE, first, end)


def test_names_become_the_same_made_up_ones_wherever_they_occur() -> None:
    made = with_made_up_names(DIVE, quoted(['who == "dive"', 'Say {who} "Max"']))
    said = [made.columns["who"][i] for i in range(len(made))]
    assert said[0] == said[1] != said[2] == said[3] == made.events[0].args["by"]
    assert said[4:] == ["Max", None, "dive"]
    assert not {"Kim", "Lee"} & {*said}
    assert made.events[0].args["points"] == 3.0
    many = Trace.make("t", range(50), {"who": Column.of([f"player {i}" for i in range(50)])})
    names = {with_made_up_names(many).columns["who"][i] for i in range(50)}
    assert len(names) == 50
    assert not any(str(name).startswith("player") for name in names)


def test_the_command_cuts_by_seconds_and_says_where_there_is_nothing(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    save_trace(DIVE, tmp_path / "dive.csv")
    arguments = ["trace", "cut", str(tmp_path / "dive.csv"), "--out", str(tmp_path / "part.csv")]
    assert main([*arguments, "--from", "1", "--to", "2", "--made-up-names"]) == 0
    part = open_trace(tmp_path / "part.csv")
    assert (part.t.tolist(), part.columns["hull"].data.tolist()) == ([0, 1], [8, 7])
    assert b"Kim" not in (tmp_path / "part.csv").read_bytes() + (tmp_path / "part.events.jsonl").read_bytes()
    assert main([*arguments, "--from", "90"]) == 2
    assert "dive.csv: has no frame there; it is 6" in capsys.readouterr().err
    assert main(["trace", "cut", str(tmp_path / "dive.csv"), "--out", str(tmp_path / "dive.csv")]) == 2
    assert len(open_trace(tmp_path / "dive.csv")) == 7
