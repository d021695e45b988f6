"""One frame with other values is what a recording that ended with those values would have been."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.rules import what_if
from avrin.rules.check import Scope
from avrin.rules.scan import evaluate
from avrin.rules.steps import Step
from avrin.rules.what_if import MAX_SINGLY, RATE, SETTLED, Checkpoints, WhatIf, step_order
from avrin.trace.frames import Column, Trace, Value
from strategies import EVENTS, NUMBERS, identical, rules, smoothed, templates, traces

# the functions that evaluate many values by a kernel of their own, from more than a few on
BRANCHING = [
    "gains(air)",
    "gains(delay(air, 0.5s))",
    "losses(air)",
    "best(air)",
    "worst(air)",
    "ease(air, 1s)",
    "mean(air, 2s)",
]
MANY = st.lists(st.none() | NUMBERS, min_size=MAX_SINGLY + 1, max_size=12, unique=True)
VALUES = st.lists(st.none() | NUMBERS, min_size=1, max_size=12)  # more than a few are tried all at once


def scope_of(trace: Trace) -> Scope:
    return Scope({name: column.kind for name, column in trace.columns.items()}, events=EVENTS)


def steps_of(scope: Scope, data: st.DataObject) -> list[Step]:
    steps = [scope.rule(data.draw(rules(kind))) for kind in ("number", "flag", "text")]
    steps += [scope.rule(data.draw(smoothed(rules("number", 1)))), scope.template(data.draw(templates()))]
    return [step for step in steps if step.constant is None]


def looked_at(trace: Trace, scope: Scope, steps: list[Step], frame: int, marks: Checkpoints | None = None) -> WhatIf:
    """The frame of a trace, with all that happened before it."""
    work = (marks or Checkpoints(trace, scope.graph, {})).before(steps, frame)
    while True:
        try:
            next(work)
        except StopIteration as done:
            return WhatIf(trace, scope.graph, frame, done.value)


def ended(trace: Trace, frame: int, air: Value, *later: float) -> Trace:
    """The trace up to a frame on which `air` has another value, and frames some seconds later on which all stays."""
    kept = [*range(frame + 1), *[frame] * len(later)]
    columns = {}
    for name, column in trace.columns.items():
        data = column.data[kept].copy()
        if name == "air":
            data[frame:] = np.nan if air is None else air
        columns[name] = replace(column, data=data)
    t = np.append(trace.t[: frame + 1], [trace.t[frame] + second for second in later])
    happened = [e for e, at in zip(trace.events, trace.event_frames.tolist(), strict=True) if 0 <= at <= frame]
    return Trace("ended", t, trace.run[kept], columns, tuple(happened))


@given(traces(least=1), VALUES, st.data())
def test_a_frame_is_what_the_recording_would_have_ended_with(
    trace: Trace, values: list[float | None], data: st.DataObject
) -> None:
    scope = scope_of(trace)
    steps = steps_of(scope, data)
    frame = data.draw(st.integers(0, len(trace) - 1))
    found = looked_at(trace, scope, steps, frame)
    air = scope.graph.column("air", "number")
    got = found.values(steps, {air: Column.of([*values, 1.0]).data[:-1]})
    for i, value in enumerate(values):
        whole = evaluate(steps, ended(trace, frame, value), scope.graph)
        for step, array, expected in zip(steps, got, whole, strict=True):
            assert identical(array[i : i + 1], expected[-1:]), step


@pytest.mark.parametrize("rule", BRANCHING)
@given(traces(least=1), MANY, st.data())
def test_many_values_at_once_are_each_of_them_alone(
    rule: str, trace: Trace, values: list[float | None], data: st.DataObject
) -> None:
    scope = scope_of(trace)
    step = scope.rule(rule)
    frame = data.draw(st.integers(0, len(trace) - 1))
    found = looked_at(trace, scope, [step], frame)
    air = scope.graph.column("air", "number")
    for settled in (False, True):
        (together,) = found.values([step], {air: Column.of([*values, 1.0]).data[:-1]}, settled=settled)
        for i, value in enumerate(values):
            (alone,) = found.values([step], {air: Column.of([value, 1.0]).data[:1]}, settled=settled)
            assert identical(together[i : i + 1], alone)


@given(traces(least=1), VALUES, st.data())
def test_settled_is_what_a_frame_much_later_shows(
    trace: Trace, values: list[float | None], data: st.DataObject
) -> None:
    scope = scope_of(trace)
    steps = [s for s in steps_of(scope, data) if all(one.op.rests for one in step_order([s]))]
    frame = data.draw(st.integers(0, len(trace) - 1))
    found = looked_at(trace, scope, steps, frame)
    air = scope.graph.column("air", "number")
    got = found.values(steps, {air: Column.of([*values, 1.0]).data[:-1]}, settled=True)
    for i, value in enumerate(values):
        whole = evaluate(steps, ended(trace, frame, value, SETTLED), scope.graph)
        for step, array, expected in zip(steps, got, whole, strict=True):
            assert identical(array[i : i + 1], expected[-1:]), step


@given(traces(least=1), st.none() | NUMBERS, st.data())
def test_a_series_goes_on_from_the_frame(trace: Trace, value: float | None, data: st.DataObject) -> None:
    scope = scope_of(trace)
    steps = steps_of(scope, data)
    frame = data.draw(st.integers(0, len(trace) - 1))
    found = looked_at(trace, scope, steps, frame)
    air = scope.graph.column("air", "number")
    got = found.series(steps, {air: Column.of([value, 1.0]).data[:1]}, [0.0, 0.25, 1.0])
    later = [(i + 1) / RATE for i in range(RATE)]
    whole = evaluate(steps, ended(trace, frame, value, *later), scope.graph)
    for step, array, expected in zip(steps, got, whole, strict=True):
        assert identical(array, expected[[frame, frame + RATE // 4, frame + RATE]]), step


@given(traces(least=4, most=40), st.lists(st.integers(0, 39), min_size=1, max_size=6), st.data())
def test_states_are_the_same_whichever_frame_was_asked_for_before(
    trace: Trace, asked: list[int], data: st.DataObject
) -> None:
    scope = scope_of(trace)
    steps = [*steps_of(scope, data), scope.rule("best_ever(hull) + count(leak) + gains(air)")]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(what_if, "INTERVAL", 3)
        marks = Checkpoints(trace, scope.graph, {})
        for frame in (one % len(trace) for one in asked):
            found = looked_at(trace, scope, steps, frame, marks)
            whole = evaluate(steps, trace, scope.graph)
            for step, array, expected in zip(steps, found.values(steps, {}), whole, strict=True):
                assert identical(array, expected[frame : frame + 1]), step


@given(traces(least=8, most=40), st.integers(7, 39), st.integers(1, 6), st.data())
def test_states_are_the_same_after_a_scan_that_was_dropped_halfway(
    trace: Trace, at: int, turns: int, data: st.DataObject
) -> None:
    """As in the window, where a newer request cancels one whose time slice has ended."""
    scope, frame = scope_of(trace), at % len(trace)
    steps = [*steps_of(scope, data), scope.rule("best_ever(hull) + count(leak) + gains(air)")]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(what_if, "INTERVAL", 3)
        marks = Checkpoints(trace, scope.graph, {})
        dropped = marks.before(steps, frame)
        for _ in range(turns):
            next(dropped, None)
        found = looked_at(trace, scope, steps, frame, marks)
        whole = evaluate(steps, trace, scope.graph)
        for step, array, expected in zip(steps, found.values(steps, {}), whole, strict=True):
            assert identical(array, expected[frame : frame + 1]), step


@pytest.mark.parametrize(
    ("rule", "at", "settled"),
    [
        ("now", 2.0, 2.0),  # what never rests keeps the value of the frame
        ("since(air < 10)", 1.0, 1.0),
        ("tally(hull > 0)", 3.0, 3.0),
        ("approach(hull, 1)", 51.0, 60.0),
        ("if held(hull > 50, 2s) then 1 else 0", 0.0, 1.0),
        ("if rose(hull > 50) then 1 else 0", 1.0, 0.0),
        ("change(hull)", 10.0, 0.0),
        ("gains(hull)", 10.0, 10.0),
        ("best(hull)", 60.0, 60.0),
        ("mean(hull, 1s)", 60.0, 60.0),
    ],
)
def test_what_rests_and_what_does_not(rule: str, at: float, settled: float) -> None:
    columns = {"hull": Column.of([50.0, 50.0, 50.0]), "air": Column.of([20.0, 5.0, 20.0])}
    trace = Trace.make("t", [0.0, 1.0, 2.0], columns)
    scope = scope_of(trace)
    step = scope.rule(rule)
    found = looked_at(trace, scope, [step], 2)
    replaced = {scope.graph.column("hull", "number"): np.array([60.0])}
    assert [found.values([step], replaced, settled=late)[0].tolist() for late in (False, True)] == [[at], [settled]]


def test_a_step_that_is_replaced_hides_what_it_was_made_of() -> None:
    trace = Trace.make("t", [0.0, 1.0], {"hull": Column.of([4.0, 9.0])})
    scope = Scope({"hull": "number"}, derived={"half": "hull / 2"})
    step, half = scope.rule("half + hull"), scope.derived("half")
    found = looked_at(trace, scope, [step], 1)
    assert found.values([step], {half: np.array([1.0, 2.0])})[0].tolist() == [10.0, 11.0]
