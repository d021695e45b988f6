"""What every kind's record promises, and that nothing else in the program knows kinds by their names."""

from __future__ import annotations

import re
from pathlib import Path

import msgspec
import pytest
from msgspec.structs import replace

import avrin
from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.kinds.kind import EDGES, Kind, KindSample
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.ladder.drivers import drivers
from avrin.ladder.rows import sweep_row
from avrin.ladder.samples import finish
from avrin.offers.offers import offers
from avrin.trace.frames import Column, Event, Trace

SOURCES = Path(avrin.__file__).parent


def sampled(kind: Kind, sample: KindSample) -> Tracks:
    """A sample over three frames, the last of which has nothing."""
    bound = bind(sample_project(sample_widget(kind, sample)))
    bound.raise_first()
    columns = {
        "hull": Column.of([100.0, 5.0, None]),
        "full": Column.of([100.0] * 3),
        "words": Column.of(["a", "b", None]),
    }
    return Tracks(bound, Trace.make("t", [0.0, 1.0, 2.0], columns, events=[Event(0.0, "hit", {"points": 1.0})]))


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_the_track_has_the_columns_the_record_names(kind: Kind) -> None:
    for sample in (kind.manual_sample, kind.test_sample):
        widget = sampled(kind, sample).bound.widgets["w"]
        assert [*widget.columns] == [column.name for column in kind.all_columns()]
        for column in kind.all_columns():
            of = widget.columns[column.name].kind
            assert column.edge in (None, *EDGES)
            assert of == "number" or column.discrete
            assert column.edge not in ("end", "part") or of == "number"
            assert column.edge not in ("picture", "text") or of == "text"


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_what_the_record_names_is_there(kind: Kind) -> None:
    widget = sampled(kind, kind.test_sample).bound.widgets["w"]
    inputs = {one.name: one for one in kind.all_inputs()}
    options = {field.name for field in msgspec.structs.fields(kind.options)}
    values = {**widget.columns, **widget.drawn}
    assert all(values[name].kind == "text" for name in kind.writes)
    assert {kind.reading, kind.read, kind.glyph_text} - {""} <= {*widget.columns}
    assert not kind.words or inputs[kind.words].kind == "template"
    assert not kind.done_by or inputs[kind.done_by].kind == "flag"
    assert not kind.glyph_text or "face" in options
    assert {*kind.rule_options} <= options
    assert not kind.tells_events or {"lines", "keep", "most"} <= options
    assert not kind.pressed or ("key" in options and "enabled" in widget.columns)
    assert not kind.share or widget.level is not None


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_rules_in_options_lie_where_the_record_says_and_can_be_left_out(kind: Kind) -> None:
    for rule in kind.rules(kind.test_sample.options):
        value: object = kind.test_sample.options
        for part in rule.path.split("."):
            value = value[int(part)] if isinstance(value, list | tuple) else value[part]  # type: ignore[index]
        assert isinstance(value, str)
        assert rule.path.startswith(rule.entry)
        assert rule.title


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_what_can_be_added_gives_a_widget_without_faults(kind: Kind) -> None:
    base = sample_project(sample_widget(kind, kind.test_sample))
    for raw in ({}, kind.test_sample.options):
        for addition in kind.additions(raw, base, bind(base).scope.events):
            added = {**raw, addition.option: addition.value}
            bind(base.with_widget(replace(base.widget("w"), options=added))).raise_first()


@pytest.mark.parametrize("kind", [kind for kind in KINDS.values() if kind.share], ids=lambda kind: kind.name)
def test_a_level_that_is_a_share_has_its_findings_and_its_ends_in_the_ladder(kind: Kind) -> None:
    made = sample_widget(kind, kind.test_sample)
    bare = {name: rule for name, rule in made.inputs.items() if name != kind.words}  # a text's length has edges, too
    base = sample_project(replace(made, inputs=bare))
    bound = bind(
        replace(base, variables=tuple(replace(v, low=0, high=140) if v.name == "hull" else v for v in base.variables))
    )
    columns = {"hull": Column.of([120.0, -40.0]), "full": Column.of([100.0] * 2), "words": Column.of(["a"] * 2)}
    tracks = Tracks(bound, Trace.make("t", [0.0, 1.0], columns))
    codes = {finding.code for finding in Inspector(CHECKS).inspect(bound, [tracks])}
    assert {"above-full", "below-empty"} <= codes
    widget = bound.widgets["w"]
    assert drivers(bound, widget)[0] == "hull"
    row = finish(sweep_row(tracks, widget, "hull", 0, [tracks.trace]))
    named = {group.name: group.edge for group in row.groups}
    if kind.edged("end"):
        assert named["full"] == 100.0
    else:
        assert "one more" in named


def test_a_bearing_is_offered_the_kind_that_only_the_tests_know() -> None:
    project = sample_project()
    bearing = replace(project.variables[0], name="heading", unit="°", high=360.0)
    assert "dial" in [widget.kind for widget in offers("heading", project, variable=bearing)]


def test_nothing_asks_for_a_kind_by_its_name() -> None:
    by_name = re.compile(
        r"""kind\.name\s*(==|!=|in\b|not in\b)|widget\.kind\s*(==|!=)\s*["']|KINDS\[["']|name=?=["']bar"""
    )
    found = [
        f"{path.relative_to(SOURCES)}: {line.strip()}"
        for path in SOURCES.rglob("*.py")
        for line in path.read_text("utf-8").splitlines()
        if by_name.search(line)
    ]
    assert found == ['kinds/bar.py: name="bar",']
