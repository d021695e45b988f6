"""Rows of the ladder, what the recordings covered of them, and the sheet they are drawn on."""

from __future__ import annotations

import csv
import io
import xml.etree.ElementTree as Xml
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.kinds.shapes import TextRun
from avrin.kinds.states import HIDDEN
from avrin.ladder.coverage import coverage
from avrin.ladder.coverage_sheet import coverage_sheet, coverage_table
from avrin.ladder.distribution import Found
from avrin.ladder.drivers import drivers
from avrin.ladder.files import page, table
from avrin.ladder.rows import Cells, Row, never_shown, sweep_row
from avrin.ladder.samples import finish
from avrin.ladder.sheet import row_sheet, whole_sheet
from avrin.project.project import Band, Derived, Project, Variable, Widget
from avrin.render.layout import Rect
from avrin.render.svg import svg
from avrin.trace.frames import Column, Trace

VARIABLES = (
    Variable(name="hull", type="float", low=0, high=100),
    Variable(name="hull_max", type="float", low=50, high=200),
    Variable(name="leak", type="bool"),
)
BANDS = (Band(name="critical", below="10%"), Band(name="low", below="25%"))
BAR = Widget(
    id="bar",
    kind="bar",
    inputs={"value": "hull", "full": "hull_max"},
    bands=BANDS,
    options={"trail": {"wait": 0.5, "rate": 1}},
)
PROMPT = Widget(id="hint", kind="prompt", inputs={"when": "leak", "text": "Seal"}, options={"after": 1.0})
PIPS = Widget(id="pips", kind="pips", inputs={"value": "hull", "full": "100"}, options={"per_pip": 50})


def tracks(*widgets: Widget, hull: list[float], leak: list[bool] | None = None, name: str = "dive") -> Tracks:
    bound = bind(Project(title="Dive", variables=VARIABLES, widgets=widgets))
    bound.raise_first()
    frames = len(hull)
    columns = {"hull": Column.of(list(hull)), "hull_max": Column.of([100.0] * frames)}
    columns["leak"] = Column.of(list(leak or [False] * frames))
    return Tracks(bound, Trace.make(name, [float(i) for i in range(frames)], columns))


def row(
    of: Tracks, ident: str, driver: str, observed: list[Trace] | None = None, frame: int = 0, **more: object
) -> Row:
    return finish(sweep_row(of, of.bound.widgets[ident], driver, frame, observed or [of.trace], **more))  # type: ignore[arg-type]


def test_edges_are_named_by_the_band_entered_and_hold_the_cells_around_them() -> None:
    got = row(tracks(BAR, hull=[80.0, 20.0, 5.0]), "bar", "hull")
    named = [
        (group.name, group.band, group.edge, [sample.value for sample in group.samples])
        for group in got.groups
        if group.name
    ]
    assert named == [
        ("empty", "", 0.0, [-0.1, 0.0, 0.1]),
        ("critical below 10%", "critical", 10.0, [9.9, 10.0, 10.1]),
        ("low below 25%", "low", 25.0, [24.9, 25.0, 25.1]),
        ("full", "", 100.0, [99.9, 100.0, 100.1]),
    ]
    assert got.others == ("hull_max",)
    assert (got.now.value, got.now.state["fraction"]) == (80.0, 0.8)


def test_each_pip_more_is_an_edge() -> None:
    got = row(tracks(PIPS, hull=[80.0]), "pips", "hull")
    assert [group.edge for group in got.groups if group.name] == [0.0, 50.0]
    lives = replace(PIPS, inputs={"value": "hull", "full": "8"}, options={}, bands=(Band(name="low", below="25%"),))
    crowded = row(tracks(lives, hull=[8.0, 3.0, 2.0, 1.0]), "pips", "hull")
    assert [(group.edge, group.name) for group in crowded.groups if group.band] == [(2.0, "low below 25%")]


def test_a_threshold_that_was_passed_keeps_its_cells_and_so_does_the_way_back() -> None:
    sticky = replace(BAR, bands=(Band(name="low", below="25%", back="40%"),))
    of = tracks(sticky, hull=[80.0, 20.0, 30.0])
    edges = {
        frame: [(g.name, g.edge, g.back) for g in row(of, "bar", "hull", frame=frame).groups if g.band]
        for frame in (0, 2)
    }
    assert edges == {
        0: [("low below 25%", 25.0, False)],
        2: [("low below 25%", 25.0, False), ("low until 40%", 40.0, True)],
    }
    low = {sample.value: sample.state["band"] for sample in row(of, "bar", "hull", frame=2).samples}
    assert (low[24.9], low[25.0], low[39.9], low[40.0]) == ("low", "low", "low", "")


def test_cells_tell_how_much_of_all_recordings_showed_them_and_which_first() -> None:
    calm = tracks(BAR, hull=[80.0, 70.0, 60.0, 50.0])
    rough = tracks(BAR, hull=[30.0, 20.0, 20.0, 5.0], name="rough")
    by_value = {sample.value: sample for sample in row(calm, "bar", "hull", [calm.trace, rough.trace]).samples}
    low, calm_ones, missing = (by_value[value].interval for value in (24.9, 25.1, None))
    assert (low.occurrences, low.share, low.first, low.last) == (Found(2, 1.0, "rough"), 0.25, 10.0, 25.0)
    assert (calm_ones.occurrences, calm_ones.last) == (Found(5, 0.0, "dive"), 100.0)
    assert missing.occurrences == Found()
    assert by_value[60.0].there == Found(1, 2.0, "dive")  # the median of what was recorded there
    assert by_value[25.1].there == Found(5, 0.0, "dive")  # never that value itself


def test_what_cannot_come_is_reported_from_what_only_has_not() -> None:
    got = row(tracks(BAR, hull=[80.0, 20.0]), "bar", "hull")
    never = [sample.value for sample in got.samples if sample.never]
    assert got.beyond(VARIABLES[0]) == sum(value is None or not 0 <= value <= 100 for value in never)  # type: ignore[operator]
    assert 0 < got.beyond(VARIABLES[0]) < len(never)


def test_another_variable_held_elsewhere_moves_the_edges() -> None:
    of = tracks(BAR, hull=[80.0])
    assert [g.edge for g in row(of, "bar", "hull", held={"hull_max": 200.0}).groups if g.band] == [20.0, 50.0]


def test_rows_held_elsewhere_are_reported_apart_in_the_table_and_arrive_as_they_are_held() -> None:
    of = tracks(BAR, hull=[80.0])
    crossed = row(of, "bar", "hull", held={"hull_max": 200.0}, arriving=True)
    lines = list(csv.DictReader(io.StringIO(table([row(of, "bar", "hull"), crossed]))))
    assert {line["held"] for line in lines} == {"", "hull_max = 200"}
    for arrival in crossed.arrivals:
        assert isinstance(arrival.after, float)
        assert [state["fraction"] for _, state in arrival.states] == pytest.approx([max(0.0, arrival.after / 200)] * 7)


def test_what_was_never_shown_stands_alone() -> None:
    got = row(tracks(BAR, hull=[80.0, 20.0]), "bar", "hull")
    (left,) = never_shown([got])
    assert left.samples == tuple(sample for sample in got.samples if sample.never)
    assert {group.name for group in left.groups} <= {group.name for group in got.groups}
    assert left.now == got.now
    assert never_shown([left]) == [left]
    shown = replace(got, groups=tuple(Cells((sample,)) for sample in got.samples if not sample.never))
    assert never_shown([shown]) == []


def test_what_takes_time_is_shown_as_it_arrives() -> None:
    of = tracks(BAR, PROMPT, hull=[80.0])
    (arrival,) = row(of, "hint", "leak", arriving=True).arrivals
    assert (arrival.before, arrival.after) == (False, True)
    assert [second for second, state in arrival.states if state["visible"]] == [1.0, 2.0, 4.0]
    fall = row(tracks(BAR, hull=[80.0, 80.0]), "bar", "hull", frame=1, arriving=True).arrivals[0]
    assert (fall.before, fall.after) == (80.0, -0.1)
    assert [state["fraction"] for _, state in fall.states] == [0.0] * len(fall.states)
    trail = [float(state["trail"] or 0.0) for _, state in fall.states]
    assert trail[:3] == [0.8] * 3  # it waits for half a second
    assert 0.7 < trail[3] < 0.8
    assert trail[-1] == 0.0


def test_drivers_are_found_through_derived_values_the_main_one_first() -> None:
    of = tracks(BAR, PROMPT, hull=[1.0])
    assert drivers(of.bound, of.bound.widgets["bar"]) == ("hull", "hull_max")
    assert drivers(of.bound, of.bound.widgets["hint"]) == ("leak",)
    scaled = tracks(replace(BAR, inputs={"value": "hull * 0.6", "full": "hull_max"}), hull=[1.0])
    assert drivers(scaled.bound, scaled.bound.widgets["bar"]) == ("hull", "hull_max"), (
        "what it is about, though further"
    )


def test_a_derived_value_that_is_another_name_or_never_changes_drives_nothing() -> None:
    label = Widget(id="w", kind="label", inputs={"text": "{same} {half} {fixed}"})
    derived = tuple(Derived(name=n, rule=r) for n, r in (("same", "hull"), ("half", "hull / 2"), ("fixed", "2 * 3")))
    bound = bind(Project(variables=VARIABLES, derived=derived, widgets=(label,)))
    assert drivers(bound, bound.widgets["w"]) == ("hull", "half")


COVERED = [
    # hull by the second, state, frames, times, shortest, longest, first
    ([80, 80, 20, 20, 5, 80], "low", 2, 1, 2.0, 2.0, 2.0),
    ([80, 20, 80, 20, 20, 20], "low", 4, 2, 1.0, 3.0, 1.0),
    ([80, 20, 80, 20, 20, 20], "critical", 0, 0, None, None, None),
    ([80, 20, 80, 20, 20, 20], "", 2, 2, 1.0, 1.0, 0.0),
]  # fmt: skip


@pytest.mark.parametrize(("hull", "state", "frames", "times", "shortest", "longest", "first"), COVERED)
def test_stays_in_a_state(
    hull: list[float], state: str, frames: int, times: int, shortest: float, longest: float, first: float
) -> None:
    of = tracks(BAR, hull=[float(value) for value in hull])
    (stay,) = coverage([of], of.bound.widgets["bar"])[state]
    assert (stay.frames, stay.times, stay.shortest, stay.longest, stay.first) == (
        frames,
        times,
        shortest,
        longest,
        first,
    )
    assert stay.share == pytest.approx(frames / len(hull))


@given(st.lists(st.floats(-10, 110), min_size=1, max_size=40), st.lists(st.booleans(), min_size=1, max_size=40))
def test_every_frame_is_in_one_state(hull: list[float], leak: list[bool]) -> None:
    count = min(len(hull), len(leak))
    of = tracks(BAR, PROMPT, hull=hull[:count], leak=leak[:count])
    for ident in ("bar", "hint"):
        found = coverage([of], of.bound.widgets[ident])
        assert sum(stay.frames for stays in found.values() for stay in stays) == count
        assert HIDDEN in found
        for (stay,) in found.values():
            seconds = 0.0 if stay.longest is None else stay.longest
            assert seconds <= count
            assert (stay.first is None) == (stay.frames == 0)


def test_the_sheet_wraps_and_its_cells_lie_where_they_are_drawn() -> None:
    of = tracks(BAR, hull=[80.0])
    got = row(of, "bar", "hull")
    wide, narrow = (row_sheet(got, of.bound, width) for width in (3000.0, 900.0))
    assert [sample for _, sample in wide.cells] == [sample for _, sample in narrow.cells] == [got.now, *got.samples]
    assert {rect.y for rect, _ in wide.cells} == {36.0}
    assert len({rect.y for rect, _ in narrow.cells}) > 1
    assert all(rect.x + rect.width <= 900 for rect, _ in narrow.cells)
    assert narrow.height > wide.height
    assert [cells.name for _, cells in wide.brackets] == [group.name for group in got.groups if group.name]


def test_links_are_there_for_a_hand_alone() -> None:
    of = tracks(BAR, hull=[80.0])
    got = row(of, "bar", "hull")
    assert row_sheet(got, of.bound, 1200.0).links == ()
    links = row_sheet(got, of.bound, 1200.0, pressed=True).links
    assert [tuple(link) for _, link in links] == [("drive", "hull_max"), ("cross", "hull_max"), ("arrive", "")]
    assert all(isinstance(rect, Rect) for rect, _ in links)


def test_tables_and_pages_hold_every_cell() -> None:
    of = tracks(BAR, hull=[80.0, 20.0])
    got = row(of, "bar", "hull")
    lines = list(csv.DictReader(io.StringIO(table([got]))))
    assert len(lines) == len(got.samples)
    at = next(line for line in lines if line["value"] == "25")
    assert (at["edge"], at["band"], at["fraction"], at["first"], at["recording"]) == (
        "true",
        "",
        "0.25",
        "0.000",
        "dive",
    )
    made = page([got], of.bound, "held", {"bar": coverage([of], of.bound.widgets["bar"])})
    assert made.count("<svg") == 1
    assert "50.0%, 1 times, 1 to 1 s, first 0:01.00" in made
    shapes, height = whole_sheet([got], of.bound, 1200.0, "Dive", "held")
    Xml.fromstring(svg(shapes, 1200, round(height)))
    assert np.isfinite(height)


@pytest.mark.parametrize("end", ["svg", "csv", "html"])
def test_the_command_writes_each_kind(end: str, demo: Path, tmp_path: Path) -> None:
    out = tmp_path / f"ladder.{end}"
    assert main(["ladder", str(demo), "--widget", "hull_bar", "--at", "118", "--out", str(out)]) == 0
    content = out.read_bytes()
    assert content.startswith({"svg": b"<svg", "csv": b"widget,", "html": b"<!DOCTYPE"}[end])


def test_a_state_no_recording_shows_is_reported_on_the_sheet_and_in_the_table() -> None:
    of = tracks(BAR, hull=[80.0, 20.0])
    covered = {"bar": coverage([of], of.bound.widgets["bar"])}
    shapes, height = coverage_sheet(covered, of.bound, 900.0)
    reported = [shape.text for shape in shapes if isinstance(shape, TextRun)]
    assert reported.count("no recording shows it") == 1  # critical; never being hidden is not reported
    assert "50%   1 s   first 0:01" in reported
    assert height > 100
    lines = list(csv.DictReader(io.StringIO(coverage_table(covered))))
    assert [(line["state"], line["frames"], line["first"]) for line in lines] == [
        ("critical", "0", ""), ("low", "1", "1.000"), ("", "1", "0.000"), ("hidden", "0", ""),
    ]  # fmt: skip


@pytest.mark.parametrize("end", ["svg", "csv"])
def test_the_command_writes_coverage(end: str, demo: Path, tmp_path: Path) -> None:
    out = tmp_path / f"states.{end}"
    assert main(["ladder", str(demo), "--coverage", "--out", str(out)]) == 0
    assert out.read_bytes().startswith({"svg": b"<svg", "csv": b"widget,state,recording"}[end])


@pytest.mark.parametrize(
    ("arguments", "reported"),
    [(["--widget", "hul_bar", "--out", "x.csv"], "did you mean 'hull_bar'?"), (["--out", "x.doc"], "x.doc")],
)
def test_the_command_tells_what_it_cannot_do(
    arguments: list[str], reported: str, demo: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["ladder", str(demo), *arguments]) == 2
    assert reported in capsys.readouterr().err


@pytest.mark.parametrize(
    ("battery", "labels"),
    [
        ([0.2493, 0.25, 0.2507], ["0.249", "0.25", "0.251"]),
        ([0.249993, 0.25, 0.250007], ["0.24999", "0.25", "0.25001"]),
        ([0.1, 0.25, 0.9], ["0.1", "0.25", "0.9"]),
    ],
)
def test_cells_beside_each_other_have_labels_of_their_own(battery: list[float], labels: list[str]) -> None:
    ring = Widget(id="b", kind="ring", inputs={"value": "battery", "full": "1"}, bands=(Band(name="low", below="25%"),))
    bound = bind(Project(variables=(Variable(name="battery", type="float", low=0, high=1),), widgets=(ring,)))
    trace = Trace.make("t", [0.0, 1.0, 2.0], {"battery": Column.of([*battery])})
    row = finish(sweep_row(Tracks(bound, trace), bound.widgets["b"], "battery", 0, [trace]))
    samples = [replace(row.samples[0], value=value) for value in battery]
    group = replace(row.groups[0], samples=tuple(samples))
    shapes = row_sheet(replace(row, groups=(group,)), bound, 2000.0).shapes
    written = [shape.text for shape in shapes if isinstance(shape, TextRun) and shape.size == 12]
    assert [text for text in labels if text in written[1:]] == labels
