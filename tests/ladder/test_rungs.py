"""Ladders find every edge of any rule and tell what the recording showed."""

from __future__ import annotations

import pytest

from avrin.ladder import Rung, rungs
from avrin.model import Band, Project, Variable, Widget
from avrin.trace import Column, Trace
from avrin.widgets import Tracks, bind

HULL = Variable(name="hull", type="float", low=0, high=140)
SCRAP = Variable(name="scrap", type="int", low=0, high=500)
LEAK = Variable(name="leak", type="bool")


def ladder(widget: Widget, variable: Variable) -> list[Rung]:
    bound = bind(Project(variables=(HULL, SCRAP, LEAK), widgets=(widget,)))
    bound.raise_first()
    columns = {
        "hull": Column.of([140.0, 70.0, 35.0, 20.0, 12.0]),
        "scrap": Column.of([0.0, 10.0, 200.0, 399.0, 399.0]),
        "leak": Column.of([False, False, True, True, True]),
    }
    return rungs(Tracks(bound, Trace.make("t", [0.0, 1.0, 2.0, 3.0, 4.0], columns)), bound.widgets["w"], variable, 0)


BANDS = (Band(name="critical", below="10%"), Band(name="low", below="25%", back="30%"))
BAR = Widget(id="w", kind="bar", inputs={"value": "hull", "full": "140"}, bands=BANDS)


def test_band_limits_are_edges_with_both_sides() -> None:
    found = {r.value: r for r in ladder(BAR, HULL)}
    for edge, below, at in ((14.0, "critical", "low"), (35.0, "low", "")):
        assert found[edge].edge
        assert (found[edge - 0.1].state["band"], found[edge].state["band"]) == (below, at)
    assert found[None].state["fraction"] is None
    assert found[min(v for v in found if isinstance(v, float))].state["fraction"] == 0.0
    assert [v for v, r in found.items() if r.edge] == [0.0, 14.0, 35.0, 140.0]


def test_edges_are_found_through_any_rule_and_pinned_to_whole_numbers() -> None:
    widget = Widget(id="w", kind="label", inputs={"text": "x", "visible": "sqrt(scrap + 1) * 3 > 40 and scrap < 444"})
    edges = [r.value for r in ladder(widget, SCRAP) if r.edge]
    assert edges == [177.0, 444.0]  # 3·√178 = 40.02, 3·√177 = 39.91


def test_conditions_that_must_last_have_lasted() -> None:
    widget = Widget(id="w", kind="label", inputs={"text": "x", "visible": "held(leak, 2s)"})
    found = {r.value: r.state["visible"] for r in ladder(widget, LEAK)}
    assert found == {None: False, False: False, True: True}


def test_each_rung_tells_how_often_and_when_first_the_recording_was_there() -> None:
    found = {r.value: (r.frames, r.first) for r in ladder(BAR, HULL)}
    assert found[13.9] == (1, 4.0)  # below 14: the last frame
    assert found[14.0] == (1, 3.0)  # from 14 to below 35: 20
    assert found[140.0] == (1, 0.0)
    assert found[None] == (0, None)
    assert found[max(v for v in found if isinstance(v, float))] == (0, None)


@pytest.mark.parametrize("low", ["0.1", "1/3", "hull * 0 + 0.2"])
def test_any_limit_is_found_to_a_millionth(low: str) -> None:
    bar = Widget(id="w", kind="bar", inputs={"value": "hull", "full": "140"}, bands=(Band(name="low", below=low),))
    limit = {"0.1": 14.0, "1/3": 140 / 3, "hull * 0 + 0.2": 28.0}[low]
    edges = [r.value for r in ladder(bar, HULL) if r.edge]
    assert any(isinstance(e, float) and abs(e - limit) < 1e-4 for e in edges)
