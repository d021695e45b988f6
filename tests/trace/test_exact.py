"""Made and grown traces, summaries and pyramids, worked by hand to the value."""

from __future__ import annotations

import math
from itertools import groupby
from pathlib import Path

import numpy as np
import pytest

from avrin.errors import AvrinError
from avrin.project.project import Variable
from avrin.trace.frames import Column, Event, Trace
from avrin.trace.generate import Plan, generate_trace
from avrin.trace.growing import pinned
from avrin.trace.pyramid import Pyramid
from avrin.trace.store import save_trace
from avrin.trace.summary import summarise_column


def built(part: str, variable: Variable, **plan: object) -> list[float]:
    """The values that a made part goes through, one after another."""
    trace = generate_trace("built", {"v": variable}, Plan(parts=(part,), rate=30, **plan))  # type: ignore[arg-type]
    return [value for value, _ in groupby(trace.columns["v"].data.round(6).tolist())]


LIVES = Variable(name="v", type="int", start=3, low=2, high=9)
HULL = Variable(name="v", type="float", start=100, low=20, high=120)


def test_steps_go_up_and_down_below_at_and_above_each_mark() -> None:
    up = [1, 2, 3, 6, 7, 8, 9, 10]
    found = built("steps", LIVES, thresholds={"v": [7]})
    # 9 - 1 is 8 again: what never changes is one step here.
    assert found == [1, 2, 3, 6, 7, 8, 9, 10, 9, 8, 7, 6, 3, 2, 1, 3] == [*up, *reversed(up[:-1]), 3]


def test_each_step_is_held_for_half_a_second() -> None:
    trace = generate_trace("built", {"v": LIVES}, Plan(parts=("steps",), rate=30))
    lengths = [len(list(group)) for _, group in groupby(trace.columns["v"].data.tolist())]
    assert lengths[0] == 15
    assert set(lengths) <= {15, 30}


def test_jumps_fall_and_rise_over_an_eighth_of_the_range() -> None:
    found = built("jumps", HULL)
    turn = found.index(min(found))
    assert found[0] == 120
    assert np.allclose(np.diff(found[: turn - 1]), -13.7, atol=1e-5)
    assert np.allclose(np.diff(found[turn:]), 13.7, atol=1e-5)
    assert min(found) == pytest.approx(20 - 13.7)  # beyond the end, too


@pytest.mark.parametrize(
    ("samples", "level"), [(1, 0), (2, 0), (7.9, 0), (8, 1), (31, 1), (32.1, 2), (128.1, 3), (1e9, 5)]
)
def test_a_pyramids_level_keeps_two_entries_a_pixel(samples: float, level: int) -> None:
    pyramid = Pyramid(np.arange(8192.0))
    assert pyramid.level(samples) == min(level, len(pyramid.low) - 1)


@pytest.mark.parametrize(
    ("values", "type_", "low", "high"),
    [
        ([1.0, 2.0, None], "int", 1, 2),
        ([1.0, 2.5], "float", 1, 2.5),
        ([None, None], "float", None, None),
        ([-3.0], "int", -3, -3),
    ],
)
def test_what_a_column_holds_is_reported_from_all_of_it(
    values: list[float | None], type_: str, low: float | None, high: float | None
) -> None:
    column = Column.of(values)
    trace = Trace.make("t", [float(i) for i in range(len(values))], {"v": column})
    found = summarise_column("v", column, trace)
    assert (found.type, found.low, found.high) == (type_, low, high)
    assert found.missing == pytest.approx(sum(v is None for v in values) / len(values))


def test_changes_are_counted_within_runs_and_what_stays_missing_changes_nothing() -> None:
    column = Column.of([1.0, 1.0, 2.0, None, None, 2.0, 5.0])
    trace = Trace.make("t", [0.0, 1.0, 2.0, 3.0, 4.0, 0.0, 1.0], {"v": column}, [1, 1, 1, 1, 1, 2, 2])
    assert summarise_column("v", column, trace).changes == 3  # to 2, to missing, to 5: not over the restart


def test_an_event_shows_on_the_first_frame_at_or_after_it_also_on_the_very_first() -> None:
    happened = [Event(0.0, "a"), Event(0.4, "b"), Event(0.5, "c"), Event(9.0, "d")]
    trace = Trace.make("t", [0.0, 0.5, 1.0], {"v": Column.of([1.0, 2.0, 3.0])}, events=happened)
    frames, shown = trace.events_by_frame
    assert (frames.tolist(), [event.name for event in shown]) == ([0, 1, 1], ["a", "b", "c"])
    assert trace.event_frames.tolist() == [0, 1, 1, -1]
    counted = trace.find("a()")
    assert counted is not None
    assert counted.data.tolist() == [1, 0, 0]


def test_what_is_held_is_of_its_declared_kind_or_of_the_recordings() -> None:
    trace = Trace.make("t", [0.0, 1.0], {"s": Column.of(["a", "b"]), "v": Column.of([1.0, 2.0])})
    found = pinned(trace, {"s": None, "v": 7.0, "flag": None, "other": None}, {"flag": "flag"})
    assert [found.columns[name].kind for name in ("s", "v", "flag", "other")] == ["text", "number", "flag", "number"]
    assert [found.columns[name][1] for name in ("s", "v", "flag", "other")] == [None, 7.0, None, None]


def test_where_it_cannot_be_written_is_reported_in_the_systems_words(tmp_path: Path) -> None:
    trace = Trace.make("t", [0.0], {"v": Column.of([math.pi])})
    with pytest.raises(AvrinError, match=r"cannot be written \(no such file or directory\)"):
        save_trace(trace, tmp_path / "none" / "a.csv")
    (tmp_path / "b.csv").mkdir()
    with pytest.raises(AvrinError, match=r"cannot be written \(is a directory\)"):
        save_trace(trace, tmp_path / "b.csv")
