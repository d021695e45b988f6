"""Which cells of a row looked different in the previous project, checked by drawing both at each value."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.places import RulePlace, with_rule
from avrin.binding.tracks import Tracks
from avrin.ladder.comparison import otherwise
from avrin.ladder.rows import sweep_row
from avrin.ladder.samples import finish
from avrin.project.project import Band, Place, Project, Variable, Widget
from avrin.trace.frames import Column, Trace

BAR = Widget(
    id="bar", kind="bar", inputs={"value": "hull", "full": "100", "caption": "{hull | 0}"}, place=Place(size=(200.0, 40.0)),
    bands=(Band(name="low", below="30%"),), look={"bands": {"low": {"fill": "#ff0000"}}},
)  # fmt: skip
PROJECT = Project(variables=(Variable(name="hull", type="float", low=0, high=100),), widgets=(BAR,))
TRACE = Trace.make("t", [float(i) for i in range(11)], {"hull": Column.of([float(100 - 10 * i) for i in range(11)])})


def reported(old: Project, new: Project) -> dict[object, bool]:
    """Whether it looked otherwise, by value."""
    bound = bind(new)
    before = Tracks(bind(old, bound), TRACE)
    row = finish(sweep_row(Tracks(bound, TRACE), bound.widgets["bar"], "hull", 3, [TRACE]))
    now, *cells = finish(otherwise(row, bound, before, 3))
    return {row.now.value: now, **dict(zip([sample.value for sample in row.samples], cells, strict=True))}


def test_what_is_alike_differs_nowhere() -> None:
    assert not any(reported(PROJECT, replace(PROJECT, title="another")).values())


def test_a_limit_that_was_moved_differs_between_the_two() -> None:
    moved = with_rule(PROJECT, RulePlace("widget", "bar", "bands", "low", "below"), "50%")
    found = reported(PROJECT, moved)
    numbers = {value: differs for value, differs in found.items() if isinstance(value, float)}
    assert {value for value, differs in numbers.items() if differs} == {v for v in numbers if 30 <= v < 50}
    assert not found[None]


def test_a_widget_that_was_not_there_differs_everywhere() -> None:
    assert all(reported(replace(PROJECT, widgets=()), PROJECT).values())


@pytest.mark.parametrize("rule", ["false", "hull < 50"])
def test_a_widget_that_was_hidden_differs_where_it_is_seen_now(rule: str) -> None:
    hidden = with_rule(PROJECT, RulePlace("widget", "bar", "inputs", "visible"), rule)
    for value, differs in reported(hidden, PROJECT).items():
        if isinstance(value, float):
            assert differs == (rule == "false" or value >= 50)
