"""Ladders find every edge of any rule and show what the recording showed."""

from __future__ import annotations

import math

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.ladder.samples import Ladder, Sample, finish, sample_ladder, samples
from avrin.project.project import Band, Place, Project, Variable, Widget
from avrin.trace.frames import Column, Trace

HULL = Variable(name="hull", type="float", low=0, high=140)
SCRAP = Variable(name="scrap", type="int", low=0, high=500)
LEAK = Variable(name="leak", type="bool")


def ladder(widget: Widget, variable: Variable) -> list[Sample]:
    bound = bind(Project(variables=(HULL, SCRAP, LEAK), widgets=(widget,)))
    bound.raise_first()
    columns = {
        "hull": Column.of([140.0, 70.0, 35.0, 20.0, 12.0]),
        "scrap": Column.of([0.0, 10.0, 200.0, 399.0, 399.0]),
        "leak": Column.of([False, False, True, True, True]),
    }
    return samples(
        Tracks(bound, Trace.make("t", [0.0, 1.0, 2.0, 3.0, 4.0], columns)), bound.widgets["w"], variable.name, 0
    )


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
    found = {r.value: (r.interval.occurrences.frames, r.interval.occurrences.first) for r in ladder(BAR, HULL)}
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


def shown(widget: Widget, variable: Variable, *recorded: float) -> Ladder:
    bound = bind(Project(variables=(variable,), widgets=(widget,)))
    bound.raise_first()
    trace = Trace.make("t", [float(i) for i in range(len(recorded))], {"v": Column.of(list(recorded))})
    return finish(sample_ladder(Tracks(bound, trace), bound.widgets["w"], variable.name, 0))


def edged(ladder: Ladder) -> list[object]:
    return [sample.value for sample in ladder.samples if sample.edge]


V = Variable(name="v", type="float", low=0, high=1000)
LIVES = Variable(name="v", type="int")


def label(visible: str, **more: object) -> Widget:
    return Widget(id="w", kind="label", inputs={"text": "x", "visible": visible}, **more)  # type: ignore[arg-type]


def pips(full: str) -> Widget:
    return Widget(id="w", kind="pips", inputs={"value": "v", "full": full})


COUNTER = Widget(
    id="w",
    kind="counter",
    inputs={"value": "v"},
    bands=tuple(Band(name=n, below=n[1:]) for n in ("a100", "b104", "c500")),
)
GOAL = Widget(id="w", kind="bar", inputs={"value": "v", "full": "20", "caption": "kills {v}"})


@pytest.mark.parametrize(
    ("widget", "variable", "expected"),
    [
        (COUNTER, V, [100, 104, 500]),  # and not the numbers at which its text grows longer
        (pips("20"), Variable(name="v", type="int", low=0, high=20), [*range(1, 21)]),
        (pips("20"), LIVES, [*range(1, 21)]),  # no recording has more than 12
        (label("v in 501..503"), V, [501, 503]),
        (label("v == 777"), V, [777]),
        (GOAL, Variable(name="v", type="float"), [0, 20]),  # which no recording reaches; captions do not make edges
        (label("v > 5000"), V, [5000]),  # nor is it in the range declared
    ],
)
def test_all_that_something_hangs_on_is_drawn(widget: Widget, variable: Variable, expected: list[float]) -> None:
    found = shown(widget, variable, -9.0, 3.0, 12.0)
    assert edged(found) == expected
    assert (found.omitted, found.endless) == (0, False)


def test_either_side_of_an_edge_is_shown_and_only_there_it_changes() -> None:
    found = [sample for sample in shown(label("v == 777 or v > 5000"), V, 3.0).samples if sample.value is not None]
    assert [(r.value, r.state["visible"]) for r in found if isinstance(r.value, float) and r.value > 700] == [
        (776.0, False), (777.0, True), (778.0, False), (4999.0, False), (5000.0, False), (5001.0, True),
    ]  # fmt: skip


def test_three_edges_a_double_apart_are_all_shown() -> None:
    near = [5.0, math.nextafter(5, 6), math.nextafter(math.nextafter(5, 6), 6)]
    states = [sample.state["band"] for sample in shown(label_bands(near), V, 3.0).samples if sample.value is not None]
    assert [*dict.fromkeys(states)] == ["b0", "b1", "b2", ""]


def label_bands(limits: list[float]) -> Widget:
    bands = tuple(Band(name=f"b{i}", when=f"v < {value!r}") for i, value in enumerate(limits))
    return label("true", bands=bands)


def test_of_more_than_can_be_drawn_the_first_the_last_and_how_many_between() -> None:
    hundred = shown(label("mod(v, 4) < 2"), Variable(name="v", type="int", low=0, high=395), 3.0)
    assert (len(edged(hundred)), hundred.omitted) == (200, len(range(-22, 419, 2)) - 200)
    assert edged(hundred)[:2] == [-22.0, -20.0]
    assert edged(hundred)[-1] == 418.0
    endless = shown(label("mod(v, 1) < 0.5"), Variable(name="v", type="float", low=0, high=1e9), 3.0)
    assert endless.endless
    assert len(edged(endless)) >= 200


def test_a_text_makes_edges_only_where_its_room_is_at_stake() -> None:
    number = Widget(
        id="w", kind="label", inputs={"text": "{v | 0}"}, place=Place(size=(40, 30)), look={"text_size": 16}
    )
    below, above = edged(shown(number, Variable(name="v", type="float", low=0, high=1e6), 3.0))
    assert (below, above) == (-999.5, 9999.5)  # wherever it has a digit, or a sign, too many
    wide = replace(number, place=Place(size=(400, 30)))
    assert edged(shown(wide, V, 3.0)) == []


def test_words_that_rules_compare_with_are_rungs_though_nothing_recorded_them() -> None:
    phase = Variable(name="v", type="text")
    bound = bind(Project(variables=(phase,), widgets=(label('v == "won" or v == "lost"'),)))
    trace = Trace.make("t", [0.0, 1.0], {"v": Column.of(["dive", "lost"])})
    found = samples(Tracks(bound, trace), bound.widgets["w"], "v", 0)
    assert [sample.value for sample in found] == [None, "", "dive", "lost", "won"]
