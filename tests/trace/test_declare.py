"""Guessed declarations and what a trace holds, worked by hand."""

from __future__ import annotations

import pytest

from avrin.trace.declare import guess, outwards
from avrin.trace.frames import Column, Event, Trace, Value
from avrin.trace.summary import summarise

T = [0.0, 1.0, 2.0, 3.0]
GUESSES: list[tuple[str, list[Value], tuple[object, ...]]] = [
    ("depth_m", [0.2, 38.4, 57.3, 3.0], ("float", 0.0, 100.0, "m", 0.2)),
    ("scrap", [0.0, 12.0, 347.0, 20.0], ("int", 0.0, 500.0, "", 0.0)),
    ("hull", [100.0, -3.5, 98.7, 50.0], ("float", -5.0, 100.0, "", 100.0)),
    ("heading_deg", [-179.0, 20.5, 179.0, 3.0], ("float", -200.0, 200.0, "°", -179.0)),
    ("cooldown_s", [None, 4.0, 2.5, 0.0], ("float", 0.0, 5.0, "s", 4.0)),
    ("charge_pct", [40.0, 90.0, 55.0, 60.0], ("int", 0.0, 100.0, "%", 40.0)),
    ("top_speed_kmh", [12.0, 12.0, 12.0, 12.0], ("int", 0.0, 20.0, "km/h", 12.0)),
    ("lag_ms", [0.0, 0.0, 0.0, 0.0], ("int", 0.0, 1.0, "ms", 0.0)),
    ("debt", [-3.0, -20.0, -700.0, -1.0], ("int", -1000.0, 0.0, "", -3.0)),
    ("leak", [None, True, False, True], ("bool", None, None, "", True)),
    ("phase", ["dive", "dive", "lost", None], ("text", None, None, "", "dive")),
    ("never", [None, None, None, None], ("float", None, None, "", None)),
    ("boats[2].fuel_s", [3.0, 2.0, 1.0, 0.0], ("int", 0.0, 5.0, "s", 3.0)),
]
OUTWARDS = [
    (0.0, 0.0), (1.0, 1.0), (1.001, 2.0), (2.0, 2.0), (2.1, 5.0), (5.0, 5.0), (5.1, 10.0), (98.7, 100.0), (0.03, 0.05),
    (0.2, 0.2), (1e9, 1e9), (-28.0, -50.0), (-0.11, -0.2),
]  # fmt: skip


@pytest.mark.parametrize(("end", "expected"), OUTWARDS)
def test_the_end_of_a_range_is_rounded_outwards(end: float, expected: float) -> None:
    assert outwards(end) == expected


@pytest.mark.parametrize(("name", "cells", "expected"), GUESSES)
def test_a_declaration_is_guessed_from_name_and_values(
    name: str, cells: list[Value], expected: tuple[object, ...]
) -> None:
    found = guess(Trace.make("t", T, {name: Column.of(cells)}), name)
    assert (found.type, found.low, found.high, found.unit, found.start) == expected
    assert found.guessed
    assert found.name == name.rsplit("].", 1)[-1]


def test_a_summary_counts_changes_within_runs_and_shares_of_missing() -> None:
    columns = {"hull": Column.of([1.0, None, None, 5.0]), "leak": Column.of([True, False, True, True])}
    told = {s.name: s for s in summarise(Trace.make("t", [0.0, 1.0, 2.0, 0.0], columns, [1, 1, 1, 2]))}
    assert (told["hull"].type, told["hull"].low, told["hull"].high) == ("int", 1.0, 5.0)
    assert (told["hull"].missing, told["hull"].changes) == (0.5, 1)
    assert (told["leak"].type, told["leak"].changes) == ("bool", 2)


def test_events_belong_to_the_first_frame_at_or_after_them_in_their_run() -> None:
    events = [
        Event(-1.0, "a"), Event(0.0, "b"), Event(0.1, "c"), Event(1.0, "c", {"n": 1.0}), Event(2.1, "late"),
        Event(0.0, "d", {}, 2), Event(9.0, "d", {}, 2), Event(0.0, "nowhere", {}, 5),
    ]  # fmt: skip
    trace = Trace.make("t", [0.0, 1.0, 2.0, 0.0, 1.0], {}, [1, 1, 1, 2, 2], events)
    told = [(e.name, frame) for e, frame in zip(trace.events, trace.event_frames.tolist(), strict=True)]
    assert told == [
        ("a", 0), ("b", 0), ("c", 1), ("c", 1), ("late", -1), ("d", 3), ("d", -1), ("nowhere", -1),
    ]  # fmt: skip
    assert trace.event_kinds["c"] == {"n": "number"}
    counted = trace.find("c()")
    assert counted is not None
    assert counted.data.tolist() == [0, 2, 0, 0, 0]
    assert trace.find("x()") is None
