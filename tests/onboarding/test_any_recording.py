"""Any recording can be started from: declared, judged, offered, placed, checked, swept. Properties over odd recordings."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.kinds.subject import Seen
from avrin.ladder.drivers import drivers
from avrin.ladder.samples import sample_ladder
from avrin.offers.offers import offers, ranked
from avrin.onboarding.first_hud import first_hud
from avrin.onboarding.recordings import begun
from avrin.project.project import Project, Recording
from avrin.trace.behaviour import behaviour
from avrin.trace.declare import guess
from avrin.trace.frames import Array, Column, Trace

NAMES = ("hp", "Player Health", "score", "x", "y", "lives", "time_left_s", "ammo_max", "ammo", "2nd gun", "if", "state")


@st.composite
def recordings(draw: st.DrawFn, columns: int = 4) -> Trace:
    """A few frames in a few runs, also one frame a run, with columns that behave in ways that trip a judge up."""
    runs = draw(st.lists(st.integers(1, 9), min_size=1, max_size=5) | st.just([1] * 6))
    run = np.repeat(np.arange(1, len(runs) + 1), runs)
    t = np.concatenate([np.arange(count) * draw(st.sampled_from([0.05, 0.25, 1.0])) for count in runs])
    made = {
        f"{name}{number or ''}": draw(_columns(run))
        for number, name in enumerate(draw(st.lists(st.sampled_from(NAMES), min_size=1, max_size=columns)))
    }
    return Trace.make("odd", t, made, run.tolist())


@st.composite
def _columns(draw: st.DrawFn, run: Array) -> Column:
    frames = len(run)
    sort = draw(
        st.sampled_from(["number", "between runs", "constant", "missing", "one frame", "flag", "figures", "text"])
    )
    sizes = st.sampled_from([0.0, -0.0, 1.0, -1.0, 0.5, 3.0, 100.0, -250.0, 1e-300, 5e-324, 1e300, -1e300, 2.0**53])
    numbers = st.lists(sizes | st.integers(-9, 99).map(float), min_size=frames, max_size=frames)
    if sort == "missing":
        return Column.missing(frames, draw(st.sampled_from(["number", "flag", "text"])))
    if sort == "flag":
        return Column.of([*draw(st.lists(st.none() | st.booleans(), min_size=frames - 1, max_size=frames - 1)), True])
    if sort == "text":
        words = st.none() | st.sampled_from(["", "dive", "{x}", "a b", "ünder", "ك"])
        return Column.of([*draw(st.lists(words, min_size=frames - 1, max_size=frames - 1)), "end"])
    if sort == "between runs":
        data = np.array(draw(numbers))[run - 1]
    elif sort == "constant":
        data = np.full(frames, draw(sizes))
    elif sort == "one frame":
        data = np.where(np.arange(frames) == draw(st.integers(0, frames - 1)), draw(sizes), np.nan)
    elif sort == "figures":
        data = np.array(draw(st.lists(st.sampled_from([0.0, 1.0]), min_size=frames, max_size=frames)))
    else:
        data = np.array(draw(numbers))
    gaps = draw(st.sets(st.integers(0, frames - 1), max_size=2))
    data[list(gaps)] = np.nan
    return Column("number", data)


def started(trace: Trace) -> tuple[Project, Trace]:
    """The project that begins over a recording."""
    project, (named,) = begun([(Recording(path="traces/odd.csv"), trace)])
    return project, named


@given(recordings())
def test_every_column_is_declared_and_judged(trace: Trace) -> None:
    for name, column in trace.columns.items():
        declared, found = guess(trace, name), behaviour(column, trace)
        present = column.data[~column.is_missing()]
        if declared.low is not None and declared.high is not None:
            assert declared.low * (1 + 1e-11) <= min(0.0, *present) <= max(0.0, *present) <= declared.high * (1 + 1e-11)
        assert found.missing == pytest.approx(column.is_missing().mean())
        assert 0 <= found.on <= 1


@given(recordings())
def test_a_number_that_changes_within_a_run_has_an_offer(trace: Trace) -> None:
    project, named = started(trace)
    seen = Seen(named)
    ranked(project, named, seen)
    assert seen.unjudged == []
    changing = [
        name for name, column in named.columns.items()
        if column.kind == "number" and (judged := seen.of(name)) is not None and judged.changes and "[" not in name
    ]  # fmt: skip
    for name in changing:
        assert offers(name, project, named), name


@settings(max_examples=15)
@given(recordings())
def test_a_first_hud_can_be_bound_checked_and_swept(trace: Trace) -> None:
    project, named = started(trace)
    made = first_hud(project, named)
    bound = bind(made, events=named.event_kinds)
    assert not bound.errors
    tracks = Tracks(bound, named)
    Inspector(CHECKS).inspect(bound, [tracks])
    for widget in bound.widgets.values():
        for driver in drivers(bound, widget):
            _run_through(widget, driver, tracks)


def _run_through(widget: BoundWidget, driver: str, tracks: Tracks) -> None:
    found = None
    work = sample_ladder(tracks, widget, driver, 0)
    while True:
        try:
            next(work)
        except StopIteration as over:
            found = over.value
            break
    assert found is not None


def test_a_recording_of_two_hundred_columns_gets_a_first_hud() -> None:
    rng = np.random.default_rng(3)
    columns = {f"value {i}": Column("number", rng.integers(-5, 300, 400).astype(float)) for i in range(200)}
    columns["hp"] = Column("number", np.concatenate([np.arange(200.0, 0, -1)] * 2))
    project, named = started(Trace.make("wide", np.arange(400) / 10, columns))
    assert any(widget.inputs.get("value") == "hp" for widget in first_hud(project, named).widgets)


def test_one_variable_that_cannot_be_judged_costs_its_own_offer_only(monkeypatch: pytest.MonkeyPatch) -> None:
    real = behaviour

    def breaks(column: Column, trace: Trace) -> object:
        if column is trace.columns["cursed"]:
            raise ZeroDivisionError
        return real(column, trace)

    monkeypatch.setattr("avrin.kinds.subject.behaviour", breaks)
    falls = np.concatenate([np.arange(100.0, 0, -1)] * 2)
    columns = {"hp": Column("number", falls), "cursed": Column("number", falls + 1)}
    project, named = started(Trace.make("t", np.arange(200) / 10, columns))
    seen = Seen(named)
    assert [one.widget.inputs["value"] for one in ranked(project, named, seen)] == ["hp"]
    assert seen.unjudged == ["cursed"]


def test_a_number_that_changes_only_between_runs_starts_a_project_on_the_command_line(tmp_path: Path) -> None:
    from avrin.cli import main

    rows = [f"{k / 10},{run},{20 + 5 * run},{100 - k}" for run in (1, 2, 3) for k in range(60)]
    (tmp_path / "g.csv").write_text("t,run,level_cap,hp\n" + "\n".join(rows) + "\n")
    assert main(["new", str(tmp_path / "g.avrin"), "--trace", str(tmp_path / "g.csv"), "--first-hud"]) == 0
    widgets = json.loads((tmp_path / "g.avrin").read_text())["widgets"]
    assert any(one["inputs"].get("value") == "hp" for one in widgets)
