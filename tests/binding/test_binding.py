"""Bound projects: errors by place, what stays computed, what drags create."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks, track
from avrin.errors import AvrinError
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.look import seconds
from avrin.kinds.registry import KINDS
from avrin.kinds.schema import project_schema
from avrin.offers.offers import free_id, offers, placed_at
from avrin.project.project import Band, Derived, Group, Project, Widget
from avrin.storage.files import load
from avrin.trace.frames import Event, Value
from avrin.trace.store import open_trace
from strategies import identical
from widget_helpers import VARIABLES, over, project


def with_rule(base: Project, name: str, rule: str) -> Project:
    widget = base.widgets[0]
    return replace(base, widgets=(replace(widget, inputs={**widget.inputs, name: rule}), *base.widgets[1:]))


FAULTS = [
    (project("bar", {"value": "hul", "full": "1"}), "widget 'w', input 'value', column 1: no variable `hul`"),
    (project("bar", {"full": "1"}), "widget 'w', input 'value': nothing feeds it"),
    (project("bar", {"value": "hull", "full": "1", "vale": "1"}), "a bar has no input 'vale': did you mean 'value'?"),
    (
        project("bar", {"value": "leak", "full": "1"}),
        "input 'value', column 1: expected a number, but this is a condition",
    ),
    (project("barr", {}), "widget 'w', kind: unknown kind 'barr': did you mean 'bar'?"),
    (
        project("bar", {"value": "1"}, {"grow": "rigth"}),
        "options, grow: 'rigth' is not one of down, left, middle, right, up: did you mean 'right'?",
    ),
    (
        project("bar", {"value": "1"}, {"trail": {"wait": -1}}),
        "options, trail, wait: expected a number of at least 0, got -1",
    ),
    (project("bar", {"value": "1"}, look={"fill": "red"}), "look, fill: 'red' is not #rrggbb"),
    (
        project("bar", {"value": "1"}, bands=[{"name": "low", "below": "ten"}]),
        "band 'low', below, column 1: no variable `ten`",
    ),
    (
        project("label", {"text": "a"}, bands=[{"name": "low", "below": "1"}]),
        "band 'low': a label has no level to compare",
    ),
    (project("label", {"text": "{hull | q}"}), "input 'text', column 8: `q` is not a pattern"),
    (
        replace(project("bar", {"value": "a"}), derived=(Derived(name="a", rule="b"), Derived(name="b", rule="a"))),
        "derived value 'a', column 1: the derived value needs itself: a -> b -> a",
    ),
]


@pytest.mark.parametrize(("faulty", "words"), FAULTS)
def test_fault_table(faulty: Project, words: str) -> None:
    with pytest.raises(AvrinError) as found:
        bind(faulty).raise_first()
    assert words in str(found.value)


def test_a_faulty_rule_stops_nothing_else() -> None:
    base = project("bar", {"value": "hul", "full": "100"})
    both = replace(base, widgets=(*base.widgets, Widget(id="v", kind="bar", inputs={"value": "hull", "full": "100"})))
    bound = bind(both)
    tracks = over(bound, {"hull": [50.0]})
    assert tracks.state(bound.widgets["w"], 0)["fraction"] is None
    assert tracks.state(bound.widgets["v"], 0)["fraction"] == 0.5


def test_a_rule_edit_computes_only_what_depends_on_it() -> None:
    base = project("bar", {"value": "hull", "full": "100", "visible": "held(leak, 1s)"})
    other = Widget(id="v", kind="bar", inputs={"value": "air", "full": "60"})
    bound = bind(replace(base, widgets=(*base.widgets, other)))
    columns: dict[str, list[Value]] = {"hull": [50.0, 40.0], "air": [1.0, 2.0], "leak": [True, True]}
    first = over(bound, columns)
    again = Tracks(bind(bound.project, bound), first.trace, first)
    assert again.computed == 0
    edited = Tracks(bind(with_rule(bound.project, "full", "120"), bound), first.trace, first)
    new = {id(step) for step in edited._values} - {id(step) for step in first._values}
    assert edited.computed == len(new) == 2  # the level and the fraction
    untouched = bound.widgets["v"].columns["fraction"]
    assert edited._values[untouched] is first._values[untouched]


def test_groups_hide_and_fade_what_lies_in_them() -> None:
    groups = (Group(id="outer", visible="leak", opacity="0.5"), Group(id="inner", group="outer", opacity="0.5"))
    base = replace(project("label", {"text": "x"}, group="inner"), groups=groups)
    bound = bind(base)
    tracks = over(bound, {"leak": [True, False, None]})
    found = [tracks.state(bound.widgets["w"], i) for i in range(3)]
    assert [s["visible"] for s in found] == [True, False, False]
    assert found[0]["opacity"] == 0.25


# What makes a kind remember: how it is fed beside the way in which its record says it is tried.
FED: dict[str, dict[str, str]] = {
    "banner": {"when": "hull > 20"}, "prompt": {"when": "hull < 25", "until": "hull > 90"},
    "button": {"enabled": "hull > 3"},
}  # fmt: skip
SET: dict[str, dict[str, object]] = {
    "bar": {"trail": {"wait": 1.0, "rate": 0.07}}, "counter": {"roll": 2.5, "pattern": "0.0"},
    "prompt": {"after": 1, "at_least": 3, "rest": 2}, "pips": {"per_pip": 20, "parts": 4},
    "table": {"roster": "crew", "columns": [{"text": "{crew[slot].scrap}"}], "sort_by": "crew[slot].scrap + hull"},
    "feed": {"lines": {"hit": "{points} of {hull}"}, "keep": 2, "most": 2},
}  # fmt: skip
BANDS = (Band(name="a", when="hull < 10"), Band(name="b", when="held(hull < 25, 2s)"))
STICKY = Band(name="c", below="0.25", back="0.3")
WAITING = Band(name="d", below="0.27", back="0.4", held="1.5s")


@pytest.mark.parametrize("kind", KINDS)
@settings(max_examples=max(8, settings().max_examples // len(KINDS)))
@given(
    hull=st.lists(
        st.none() | st.sampled_from([-10.0, 0.0, 9.0, 24.0, 26.0, 31.0, 80.0, 140.0]), min_size=1, max_size=24
    ),
    cuts=st.lists(st.integers(0, 24), max_size=6),
)
def test_any_chunking_gives_identical_tracks(kind: str, hull: list[float | None], cuts: list[int]) -> None:
    from avrin.rules.scan import evaluate

    tried = sample_widget(KINDS[kind], KINDS[kind].test_sample)
    fed = replace(tried, inputs={**tried.inputs, **FED.get(kind, {})}, options={**tried.options, **SET.get(kind, {})})
    bound = bind(sample_project(replace(fed, bands=(*BANDS, STICKY, WAITING)), slots=3))
    if bound.errors:  # without a level there is no hysteresis
        bound = bind(sample_project(replace(fed, bands=BANDS), slots=3))
    bound.raise_first()
    columns: dict[str, list[Value]] = {
        "hull": list(hull),
        "full": [100.0] * len(hull),
        "words": ["Hull"] * len(hull),
        "crew[0].scrap": [5.0] * len(hull),
        "crew[2].scrap": list(hull),
    }
    hits = [Event(float(i) - 0.5, "hit", {"points": float(i)}) for i in range(0, len(hull), 2)]
    tracks = over(bound, columns, hits)
    steps = list(bound.widgets["w"].steps())
    whole = evaluate(steps, tracks.trace, bound.graph)
    for chunk in (1, sorted(set(cuts))):
        for a, b in zip(whole, evaluate(steps, tracks.trace, bound.graph, chunk=chunk), strict=True):
            assert identical(a, b)


def test_moments_are_changes_people_see_and_not_running_numbers(demo: Path) -> None:
    bound = bind(load(demo)[0])
    trace = open_trace(demo.parent / "traces/leaky-dive.csv", bound.project.all_variables())
    tracks = Tracks(bound, trace)
    hull = tracks.moments([bound.widgets["hull_bar"]])
    expected = set(trace.run_starts.tolist())
    for name in ("visible", "band"):
        data = tracks.column(bound.widgets["hull_bar"].columns[name]).data
        shown = tracks.column(bound.widgets["hull_bar"].columns["visible"]).data > 0
        expected |= {i for i in range(1, len(data)) if data[i] != data[i - 1] and (name == "visible" or shown[i])}
    assert set(hull.tolist()) == expected
    assert len(tracks.moments([bound.widgets["depth"]])) < 40  # its figures change on most frames


def test_a_track_has_a_column_for_each_state(demo: Path) -> None:
    bound = bind(load(demo)[0])
    trace = open_trace(demo.parent / "traces/calm-dive.csv", bound.project.all_variables())
    columns = track(bound, trace).columns
    mine = [name for name in columns if name.startswith("hull_bar.")]
    assert mine == [f"hull_bar.{n}" for n in ("visible", "band", "fraction", "trail", "caption")]
    assert columns["tide.text"][0] == "9:00"
    assert not any("._" in name or name.endswith((".opacity", ".length")) for name in columns)


@pytest.mark.parametrize("name", [name for name in KINDS if name != "dial"])
def test_every_kind_has_tests_and_describes_its_inputs(name: str) -> None:
    assert (Path(__file__).parents[1] / f"kinds/test_{name}.py").is_file()
    for info in KINDS[name].all_inputs():
        assert info.help.endswith(".")
    assert project_schema()["$defs"]["Widget"]["properties"]["kind"]["enum"] == list(KINDS)


@pytest.mark.parametrize("variable", VARIABLES, ids=lambda v: v.name)
def test_what_a_drag_makes_is_complete_and_without_fault(variable: object) -> None:
    base = Project(variables=VARIABLES)
    found = offers(variable.name, base)  # type: ignore[attr-defined]
    assert found
    for widget in found:
        bound = bind(base.with_widget(widget))
        bound.raise_first()
        assert not bound.warnings
        assert any("{" in text or text == variable.name for text in widget.inputs.values())  # type: ignore[attr-defined]


def test_a_number_with_a_range_becomes_a_clamped_labelled_bar_first() -> None:
    bar = offers("hull", Project(variables=VARIABLES))[0]
    assert bar.kind == "bar"
    assert bar.inputs == {"value": "hull", "full": "100", "caption": "Hull  {hull | 0, up}"}
    assert [band.name for band in bar.bands] == ["critical", "low"]


def test_ids_stay_apart() -> None:
    base = Project(widgets=(Widget(id="hull_bar", kind="bar"), Widget(id="hull_bar_2", kind="bar")))
    assert free_id("hull_bar", base) == "hull_bar_3"
    assert free_id("air_bar", base) == "air_bar"


@given(st.floats(0, 1920), st.floats(0, 1080))
def test_a_dropped_widget_is_centred_where_it_was_dropped(x: float, y: float) -> None:
    from avrin.project.project import Screen
    from avrin.render.scene import widget_rect

    base = Project(variables=VARIABLES)
    widget = placed_at(offers("hull", base)[0], x, y, base)
    center = widget_rect(base, widget, Screen(name="s", size=(1920, 1080))).center
    assert center == pytest.approx((x, y), abs=0.51)
    assert widget.place.anchor == widget.place.pivot


def test_durations_in_looks() -> None:
    assert [seconds(text) for text in ("", "0.5s", "250ms", "2min")] == [0.0, 0.5, 0.25, 120.0]
