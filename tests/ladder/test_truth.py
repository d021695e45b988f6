"""Everything in and under a cell is true for its value."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.ladder.drivers import drivers
from avrin.ladder.rows import Row, sweep_row
from avrin.ladder.samples import Sample, finish
from avrin.project.project import Band, Derived, Project, Roster, Variable, Widget
from avrin.trace.frames import Column, Trace, Value

CREW = Roster(name="crew", slots=2, fields=(Variable(name="air", type="float"), Variable(name="name", type="text")))
PROJECT = Project(
    variables=(
        Variable(name="hull", type="float", low=0, high=100), Variable(name="lives", type="int"),
        Variable(name="leak", type="bool"), Variable(name="phase", type="text"),
    ),
    rosters=(CREW,),
    derived=(Derived(name="lost", rule="losses(hull)"), Derived(name="share", rule="hull / 100")),
    widgets=(
        Widget(id="bar", kind="bar", inputs={"value": "ease(hull, 1s)", "full": "100"},
               bands=(Band(name="low", below="30%", back="50%"), Band(name="critical", below="10%"))),
        Widget(id="lives", kind="pips", inputs={"value": "lives", "full": "5"}),
        Widget(id="best", kind="label", inputs={"text": "{best(lives)} of {best_ever(lives)}", "visible": "lost < 60"}),
        Widget(id="steps", kind="counter", inputs={"value": "tally(hull > 20)"}),
        Widget(id="hint", kind="prompt", inputs={"when": "leak or phase == \"lost\"", "text": "Seal"}, options={"after": 0.5}),
        Widget(id="half", kind="ring", inputs={"value": "share", "full": "1"}, bands=(Band(name="low", below="25%"),)),
        Widget(id="crew", kind="label", repeat="crew",
               inputs={"text": "{crew[slot].name} {crew[slot].air | 0}", "visible": "crew[slot].air > 5"}),
    ),
)  # fmt: skip
CELLS: dict[str, st.SearchStrategy[Any]] = {
    "hull": st.floats(-20, 130).map(lambda value: round(value, 1)), "lives": st.integers(-2, 9).map(float),
    "leak": st.booleans(), "phase": st.sampled_from(["dive", "lost", ""]),
    "crew[0].air": st.floats(0, 20), "crew[1].air": st.sampled_from([4.0, 5.0, 6.0]),
    "crew[0].name": st.sampled_from(["Teo", "Ann"]), "crew[1].name": st.just("Bo"),
}  # fmt: skip
KINDS_OF = {"leak": "flag", "phase": "text", "crew[0].name": "text", "crew[1].name": "text"}


@st.composite
def recordings(draw: st.DrawFn) -> list[Trace]:
    """Some recordings of a few runs; a variable may be missing on frames, or be no column at all."""
    matches = []
    for number in range(draw(st.integers(1, 2))):
        count = draw(st.integers(1, 12))
        columns = {}
        for name, cells in CELLS.items():
            values: list[Value] = draw(st.lists(st.none() | cells, min_size=count, max_size=count))
            if any(value is not None for value in values):
                columns[name] = Column.of(values)
        runs = sorted(draw(st.lists(st.integers(1, 2), min_size=count, max_size=count)))
        matches.append(Trace.make(f"t{number}", [float(i) for i in range(count)], columns, runs))
    return matches


def rows(matches: Sequence[Trace], frame: int) -> list[tuple[Tracks, Row]]:
    bound = bind(PROJECT)
    bound.raise_first()
    tracks = Tracks(bound, matches[0])
    every = [copy for widget in bound.widgets.values() for copy in widget.each()]
    return [
        (tracks, finish(sweep_row(tracks, widget, name, frame, matches)))
        for widget in every
        for name in drivers(bound, widget)
    ]


def in_recording(tracks: Tracks, name: str, trace: Trace) -> list[Value]:
    """A driver's value on each frame of a recording that has it: counted one by one."""
    if name in tracks.bound.project.all_variables():
        column = trace.find(name)
    else:
        column = Tracks(tracks.bound, trace).column(tracks.bound.scope.derived(name))
    return [column[i] for i in range(len(trace))] if column is not None else []


def lies_in(value: Value, sample: Sample) -> bool:
    """Whether a recorded value is of the interval that is written under a cell."""
    interval = sample.interval
    if interval.low is None or interval.high is None:
        return value == sample.value and type(value) is type(sample.value)
    return isinstance(value, float) and (interval.low <= value < interval.high)


@given(recordings(), st.data())
def test_every_share_is_a_count_over_the_recordings(matches: list[Trace], data: st.DataObject) -> None:
    frame = data.draw(st.integers(0, len(matches[0]) - 1))
    frames = sum(map(len, matches))
    for tracks, row in rows(matches, frame):
        recorded = [(trace, i, v) for trace in matches for i, v in enumerate(in_recording(tracks, row.driver, trace))]
        for sample in (row.now, *row.samples):
            mine = [(trace, i) for trace, i, value in recorded if lies_in(value, sample)]
            told = sample.interval.occurrences
            assert (told.frames, sample.interval.share) == (len(mine), len(mine) / frames)
            assert (told.trace, told.first) == ((mine[0][0].name, mine[0][0].axis[mine[0][1]]) if mine else ("", None))
            exact = [
                (trace, i)
                for trace, i, value in recorded
                if value == sample.value and type(value) is type(sample.value)
            ]
            assert sample.recorded.frames == len(exact)
            there = (exact or mine)[:1]
            assert [(sample.there.trace, sample.there.first)][: len(there)] == [(t.name, t.axis[i]) for t, i in there]
            assert sample.never == (not mine or (sample.discrete and not exact))
        assert sum(one.occurrences.frames for one in {id(r.interval): r.interval for r in row.samples}.values()) == len(
            recorded
        )


@given(recordings(), st.data())
def test_the_present_cell_is_the_picture(matches: list[Trace], data: st.DataObject) -> None:
    frame = data.draw(st.integers(0, len(matches[0]) - 1))
    for tracks, row in rows(matches, frame):
        assert row.now.value == (in_recording(tracks, row.driver, matches[0]) or [None] * len(matches[0]))[frame]
        expected = {**tracks.state_apart(row.widget, frame), "state": tracks.value(row.widget.state, frame)}
        assert repr(row.now.state) == repr(expected)


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_the_present_cell_of_every_kind_is_the_picture(kind: Any) -> None:
    project = sample_project(sample_widget(kind, kind.test_sample))
    bound = bind(project)
    rng = np.random.default_rng(1)
    columns = {}
    for name, variable in project.all_variables().items():
        if variable.type == "bool":
            columns[name] = Column.of([bool(v) for v in rng.integers(0, 2, 200)])
        elif variable.type == "text":
            columns[name] = Column.of([["a", "b"][v] for v in rng.integers(0, 2, 200)])
        else:
            columns[name] = Column.of([float(v) for v in np.cumsum(rng.normal(0, 5, 200)) + 50])
    tracks = Tracks(bound, Trace.make("t", [i / 10 for i in range(200)], columns))
    for widget in bound.widgets.values():
        for name in drivers(bound, widget):
            for frame in (0, 7, 123, 199):
                row = finish(sweep_row(tracks, widget, name, frame, [tracks.trace]))
                expected = {**tracks.state_apart(widget, frame), "state": tracks.value(widget.state, frame)}
                assert repr(row.now.state) == repr(expected), (name, frame)


@given(recordings(), st.data())
def test_cells_between_edges_are_recorded_values_where_there_are_any(matches: list[Trace], data: st.DataObject) -> None:
    frame = data.draw(st.integers(0, len(matches[0]) - 1))
    for _, row in rows(matches, frame):
        if len(row.samples) > 40:  # as many pips: a cell each
            continue
        for interval in {id(sample.interval): sample.interval for sample in row.samples}.values():
            mine = [sample for sample in row.samples if sample.interval is interval]
            if interval.occurrences.frames and row.driver not in ("lives",):
                assert any(sample.recorded.frames for sample in mine), (row.widget.widget.id, row.driver, interval)
            if not interval.occurrences.frames:
                assert all(sample.never for sample in mine)


def test_a_best_so_far_is_shown_in_every_cell() -> None:
    label = Widget(id="w", kind="label", inputs={"text": "{best(haul)}"})
    bound = bind(Project(variables=(Variable(name="haul", type="int", low=0, high=75),), widgets=(label,)))
    trace = Trace.make("t", [0.0, 1.0, 2.0], {"haul": Column.of([3.0, 47.0, 12.0])})
    tracks = Tracks(bound, trace)
    row = finish(sweep_row(tracks, bound.widgets["w"], "haul", 2, [trace]))
    assert row.now.state["text"] == "47"
    told = {sample.value: sample.state["text"] for sample in row.samples if isinstance(sample.value, float)}
    assert all(text == f"{max(47.0, value):g}" for value, text in told.items())


def test_a_derived_count_drives_and_its_one_frame_is_found() -> None:
    hint = Widget(id="w", kind="prompt", inputs={"when": "strokes == 3", "text": "Rest"})
    bound = bind(
        Project(
            variables=(Variable(name="oar", type="bool"),),
            derived=(Derived(name="strokes", rule="count(oar)"),),
            widgets=(hint,),
        )
    )
    trace = Trace.make("t", [float(i) for i in range(8)], {"oar": Column.of([i % 2 == 1 for i in range(8)])})
    tracks = Tracks(bound, trace)
    assert drivers(bound, bound.widgets["w"]) == ("strokes", "oar")
    row = finish(sweep_row(tracks, bound.widgets["w"], "strokes", 0, [trace]))
    three = next(sample for sample in row.samples if sample.value == 3.0)
    assert (three.state["visible"], three.recorded.frames, three.there.first) == (True, 2, 5.0)
    assert [sample.value for sample in row.samples if sample.state["visible"]] == [3.0]


@pytest.mark.parametrize("value", [math.inf, -math.inf, 1e308, -1e308])
def test_numbers_beyond_all_bounds_are_counted(value: float) -> None:
    bar = Widget(id="w", kind="bar", inputs={"value": "hull", "full": "100"})
    bound = bind(Project(variables=(Variable(name="hull", type="float"),), widgets=(bar,)))
    trace = Trace.make("t", [0.0, 1.0], {"hull": Column.of([50.0, value])})
    row = finish(sweep_row(Tracks(bound, trace), bound.widgets["w"], "hull", 1, [trace]))
    matches = {id(sample.interval): sample.interval.occurrences.frames for sample in row.samples}
    assert sum(matches.values()) == 2
    assert row.now.interval.occurrences.frames >= 1
