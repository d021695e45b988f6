"""The state word of a widget: by hand for every kind, and the same wherever it is shown."""

from __future__ import annotations

from typing import NamedTuple

import pytest

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.kinds.states import state_label
from avrin.ladder.coverage import coverage
from avrin.ladder.drivers import drivers
from avrin.ladder.rows import sweep_row
from avrin.ladder.samples import finish
from avrin.project.project import Band, Project, Roster, Variable, Widget
from avrin.render.values import own_value
from avrin.trace.frames import Column, Event, Trace, Value


class Case(NamedTuple):
    """A widget, and on each frame its word and what it says itself."""

    widget: Widget
    words: list[str]
    says: list[str]


LOW = (Band(name="low", below="30%"),)
HALF = (Band(name="few", below="2"),)
VARIABLES = (
    Variable(name="hull", type="float"), Variable(name="lives", type="int"), Variable(name="leak", type="bool"),
    Variable(name="diver", type="text"),
)  # fmt: skip
CREW = Roster(name="crew", slots=1, fields=(Variable(name="name", type="text"),))
# Four frames: all is well; low; missing; hidden.
COLUMNS: dict[str, list[Value]] = {
    "hull": [80.0, 20.0, None, 50.0], "lives": [3.0, 1.0, None, 2.0], "leak": [True, True, None, False],
    "diver": ["Teo", "Ona", None, "Teo"], "crew[0].name": ["Teo", "Ona", None, "Teo"],
}  # fmt: skip
SEEN = 'diver != "Teo" or hull != 50 or not has(hull)'
CASES = {
    "bar": Case(Widget(id="w", kind="bar", inputs={"value": "hull", "full": "100"}, bands=LOW),
                ["showing", "low", "missing", "hidden"], ["80 %", "20 %", "", "50 %"]),
    "ring": Case(Widget(id="w", kind="ring", inputs={"value": "hull", "full": "100"}, bands=LOW),
                 ["showing", "low", "missing", "hidden"], ["80 %", "20 %", "", "50 %"]),
    "pips": Case(Widget(id="w", kind="pips", inputs={"value": "lives", "full": "3"}, bands=(Band(name="few", below="50%"),)),
                 ["showing", "few", "missing", "hidden"], ["3", "1", "", "2"]),
    "counter": Case(Widget(id="w", kind="counter", inputs={"value": "lives"}, bands=HALF),
                    ["showing", "few", "missing", "hidden"], ["3", "1", "—", "2"]),
    "timer": Case(Widget(id="w", kind="timer", inputs={"value": "hull"}),
                  ["showing", "showing", "missing", "hidden"], ["1:20", "0:20", "—", "0:50"]),
    "label": Case(Widget(id="w", kind="label", inputs={"text": "{diver}"}),
                  ["showing", "showing", "missing", "hidden"], ["Teo", "Ona", "—", "Teo"]),
    "prompt": Case(Widget(id="w", kind="prompt", inputs={"when": "leak", "text": "Seal"}),
                   ["showing", "showing", "hidden", "hidden"], ["Seal"] * 4),
    "banner": Case(Widget(id="w", kind="banner", inputs={"when": "leak", "title": "Lost"}),
                   ["showing", "showing", "hidden", "hidden"], ["Lost"] * 4),
    "feed": Case(Widget(id="w", kind="feed", options={"lines": {"hit": "Rock"}, "keep": 9}),
                 ["showing", "showing", "showing", "hidden"], ["Rock"] * 4),
    "table": Case(Widget(id="w", kind="table", options={"roster": "crew", "columns": [{"text": "{crew[slot].name}"}]}),
                  ["showing", "showing", "showing", "hidden"], ["Teo", "Ona", "", "Teo"]),
    "picture": Case(Widget(id="w", kind="picture"), ["showing", "showing", "showing", "hidden"], [""] * 4),
    "panel": Case(Widget(id="w", kind="panel"), ["showing", "showing", "showing", "hidden"], [""] * 4),
    "button": Case(Widget(id="w", kind="button", inputs={"enabled": "leak"}, options={"key": "B"}),
                   ["showing", "showing", "off", "hidden"], [""] * 4),
}  # fmt: skip


def tracks(widget: Widget) -> Tracks:
    seen = Widget(**{name: getattr(widget, name) for name in widget.__struct_fields__ if name != "inputs"},
                  inputs={**widget.inputs, "visible": SEEN})  # fmt: skip
    bound = bind(Project(variables=VARIABLES, rosters=(CREW,), widgets=(seen,)), events={"hit": {}})
    columns = {name: Column.of(cells) for name, cells in COLUMNS.items()}
    return Tracks(bound, Trace.make("t", [0.0, 1.0, 2.0, 3.0], columns, events=[Event(0.0, "hit", {})]))


@pytest.mark.parametrize("name", CASES)
def test_words_and_values_are_those_worked_out_by_hand(name: str) -> None:
    case = CASES[name]
    of = tracks(case.widget)
    widget = of.bound.widgets["w"]
    told = [of.bound.state_word(widget, of.value(widget.state, frame)) for frame in range(4)]
    assert told == case.words
    assert [own_value(widget, of.state(widget, frame)) for frame in range(4)] == case.says


@pytest.mark.parametrize("name", CASES)
def test_coverage_and_ladder_tell_the_same(name: str) -> None:
    case = CASES[name]
    of = tracks(case.widget)
    widget = of.bound.widgets["w"]
    covered = coverage([of], widget)
    for word in ("hidden", "missing", "off", "low", "few", "showing"):
        frames = covered.get("" if word == "showing" else word, [])
        assert sum(stay.frames for stay in frames) == case.words.count(word), word
    for driver in drivers(of.bound, widget):
        for frame in range(4):
            row = finish(sweep_row(of, widget, driver, frame, [of.trace]))
            assert of.bound.state_word(widget, row.now.state["state"]) == case.words[frame]


def test_a_rule_that_is_wrong_breaks_it_whatever_the_frame() -> None:
    of = tracks(Widget(id="w", kind="bar", inputs={"value": "hul", "full": "100"}))
    widget = of.bound.widgets["w"]
    assert {of.bound.state_word(widget, of.value(widget.state, frame)) for frame in range(4)} == {"broken"}


@pytest.mark.parametrize(
    ("state", "states", "label"),
    [
        ("", ("", "low", "hidden"), "no band"), ("", ("", "hidden", "missing"), "showing"), ("", (), "showing"),
        ("low", ("", "low"), "low"), ("hidden", ("",), "hidden"),
    ],
)  # fmt: skip
def test_a_state_as_people_read_it(state: str, states: tuple[str, ...], label: str) -> None:
    assert state_label(state, states) == label
