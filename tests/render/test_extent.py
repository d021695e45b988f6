"""The largest extent of a widget over a trace, against drawing each of its states."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.project.project import Band, Place, Project, Variable, Widget
from avrin.render.bounds import bounds
from avrin.render.extent import Extent, declared_extent, extent
from avrin.render.scene import widget_shapes
from avrin.trace.frames import Column, Trace

BEARING = 6.0  # pixels by which letters of equally wide texts may differ in what they cover, at the sizes used here


def tracks(kind: str, values: list[float | None], inputs: dict[str, str], **more: Any) -> Tracks:
    widget = Widget(id="w", kind=kind, inputs=inputs, place=Place(size=(200.0, 40.0)), **more)
    bound = bind(Project(variables=(Variable(name="v", type="float"),), widgets=(widget,)))
    bound.raise_first()
    return Tracks(bound, Trace.make("t", np.arange(len(values)) / 10, {"v": Column.of(values)}))


def matches(of: Tracks) -> Extent | None:
    return extent(of, of.bound.widgets["w"])


CASES: dict[str, tuple[str, dict[str, str], dict[str, Any]]] = {
    "label": ("label", {"text": "Depth {v | 0.##}"}, {}),
    "right": ("label", {"text": "{v}"}, {"look": {"align": "right", "text_size": 60, "outline": "#000000"}}),
    "counter": ("counter", {"value": "v", "caption": "metres"}, {"options": {"pattern": "#,##0.0"}}),
    "pips": ("pips", {"value": "v", "full": "abs(v)"}, {"options": {"per_pip": 10}, "look": {"asset": "heart"}}),
    "bar": ("bar", {"value": "v / 2", "full": "abs(v)"}, {"options": {"per_unit": 3}}),
    "spill": ("bar", {"value": "v", "full": "100"}, {"options": {"over": "spill"}}),
    "hidden": ("label", {"text": "{v}", "visible": "v > 50"}, {}),
    "by band": (
        "label",
        {"text": "{v}"},
        {"bands": (Band(name="deep", when="v > 90"),), "look": {"bands": {"deep": {"text_size": 80}}}},
    ),
}


@pytest.mark.parametrize("name", CASES)
@given(values=st.lists(st.one_of(st.none(), st.floats(-2e4, 2e4), st.floats(0, 120)), min_size=1, max_size=12))
def test_no_state_reaches_further_and_one_reaches_that_far(name: str, values: list[float | None]) -> None:
    kind, inputs, more = CASES[name]
    of = tracks(kind, values, inputs, **more)
    widget, got = of.bound.widgets["w"], matches(of)
    states = [of.state(widget, i) for i in range(len(values))]
    reaches = [bounds((widget_shapes(widget, s, 0.0, of.bound),)) for s in states if s["visible"]]
    reaches = [r for r in reaches if r.width and r.height]
    assert (got is None) == (not reaches)
    if got is not None:
        lefts, tops = [r.x for r in reaches], [r.y for r in reaches]
        rights, bottoms = [r.x + r.width for r in reaches], [r.y + r.height for r in reaches]
        assert tuple(got.most)[:2] == pytest.approx((min(lefts), min(tops)), abs=BEARING)
        assert got.most.x + got.most.width == pytest.approx(max(rights), abs=BEARING)
        assert got.most.y + got.most.height == pytest.approx(max(bottoms), abs=BEARING)


def test_a_bar_of_pixels_a_unit_grows_with_its_full_and_tells_when() -> None:
    got = matches(tracks("bar", [50, 60, 100, 80], {"value": "10", "full": "v"}, options={"per_unit": 3}))
    assert got is not None
    assert got.most.width == 300  # 100 units of 3 pixels; the box has 200
    assert got.over == (0, 0, 100, 0)
    assert (got.frame, got.grows) == (2, True)


def test_what_is_always_too_wide_does_not_grow() -> None:
    got = matches(tracks("bar", [100, 100], {"value": "10", "full": "v"}, options={"per_unit": 3}))
    assert got is not None
    assert got.over[2] == 100
    assert not got.grows


def test_more_pips_grow_and_within_the_box_nothing_does() -> None:
    got = matches(tracks("pips", [2, 5, 9], {"value": "v", "full": "v"}))
    assert got is not None
    assert got.grows
    assert got.frame == 2
    calm = matches(tracks("pips", [2, 3, 4], {"value": "v", "full": "v"}))
    assert calm is not None
    assert (calm.over, calm.grows) == ((0, 0, 0, 0), False)


@given(
    st.sampled_from(["v + w", "prev(v)", "ease(v, 1s) + w", "tally(v > 20) * 50", "best(w)", "now + v"]),
    st.tuples(st.integers(-50, 50), st.integers(60, 200)), st.tuples(st.integers(0, 20), st.integers(70, 300)),
)  # fmt: skip
def test_each_end_of_a_range_is_a_beginning_of_its_own(rule: str, v: tuple[int, int], w: tuple[int, int]) -> None:
    """The bar is as long as its full: with one variable at an end of its range, and the other as recorded."""
    declared = tuple(
        Variable(name=name, type="int", low=low, high=high) for name, (low, high) in {"v": v, "w": w}.items()
    )
    bar = Widget(
        id="w",
        kind="bar",
        inputs={"value": "10", "full": rule},
        options={"per_unit": 3},
        place=Place(size=(200.0, 40.0)),
    )
    bound = bind(Project(variables=declared, widgets=(bar,)))
    bound.raise_first()
    recorded = Trace.make("t", [0.0, 1.0], {"v": Column.of([5.0, 30.0]), "w": Column.of([7.0, 11.0])})
    longest = 0.0
    for values in ((v[0], 11), (v[1], 11), (30, w[0]), (30, w[1])):
        alone = Trace.make("one", [0.0], {name: Column.of([float(x)]) for name, x in zip("vw", values, strict=True)})
        full = Tracks(bound, alone).value(bound.widgets["w"].inputs["full"], 0)
        longest = max(longest, 3 * full if isinstance(full, float) else 0.0)
    got = declared_extent(Tracks(bound, recorded), bound.widgets["w"], 1)
    if longest <= 203:
        assert got is None
    else:
        assert got is not None
        assert got.most.width == pytest.approx(longest, abs=1)
