"""Positions of several widgets: tables worked out by hand, and properties."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.edits.placing import WAYS, Way, aligned, in_grid, moved, only_moved, put_at, same_size, spread
from avrin.project.project import Anchor, Follow, Place, Project, Screen, Widget
from avrin.render.layout import Rect
from avrin.render.scene import widget_rect

PLAIN = Screen(name="plain", size=(1920, 1080))
HALF = Screen(name="half", size=(960, 540))
ANCHORS: tuple[Anchor, ...] = (
    "top-left", "top", "top-right", "left", "center", "right", "bottom-left", "bottom", "bottom-right",
)  # fmt: skip


def project(*places: Place) -> Project:
    widgets = tuple(Widget(id=f"w{n}", kind="panel", place=place) for n, place in enumerate(places))
    return Project(reference=(1920, 1080), widgets=widgets)


def boxes(built: Project, screen: Screen = PLAIN) -> list[tuple[float, float, float, float]]:
    rects = [widget_rect(built, widget, screen) for widget in built.widgets]
    return [(round(r.x, 2), round(r.y, 2), round(r.width, 2), round(r.height, 2)) for r in rects]


THREE = project(
    Place(offset=(100, 100), size=(200, 40)),
    Place(anchor="top-right", pivot="top-right", offset=(-300, 200), size=(100, 100)),  # 1520 … 1620
    Place(anchor="center", pivot="center", offset=(0, 0), size=(60, 20)),  # 930 … 990, 530 … 550
)
ALL = ["w0", "w1", "w2"]


@pytest.mark.parametrize(
    ("way", "lefts", "tops"),
    [
        ("left", [100, 100, 100], [100, 200, 530]),
        ("right", [1420, 1520, 1560], [100, 200, 530]),
        ("middle", [760, 810, 830], [100, 200, 530]),  # the middle of 100 … 1620
        ("top", [100, 1520, 930], [100, 100, 100]),
        ("bottom", [100, 1520, 930], [510, 450, 530]),
        ("centre", [100, 1520, 930], [305, 275, 315]),  # the middle of 100 … 550
    ],
)
def test_widgets_are_lined_up(way: Way, lefts: list[float], tops: list[float]) -> None:
    built = boxes(aligned(THREE, ALL, way, PLAIN))
    assert [box[0] for box in built] == lefts
    assert [box[1] for box in built] == tops
    assert [box[2:] for box in built] == [box[2:] for box in boxes(THREE)]


def test_a_single_one_is_lined_up_with_the_safe_area() -> None:
    screen = Screen(name="safe", size=(1920, 1080), safe=0.05)
    built = aligned(THREE, ["w2"], "left", screen)
    rect = widget_rect(built, built.widget("w2"), screen)
    assert (rect.x, rect.y) == pytest.approx((96, 530))
    assert aligned(THREE, ["w2"], "right", screen).widget("w0") == THREE.widget("w0")


def test_gaps_become_equal_and_the_outermost_stay() -> None:
    across, down = boxes(spread(THREE, ["w2", "w0", "w1"], True, PLAIN)), boxes(spread(THREE, ALL, False, PLAIN))
    assert [box[0] for box in across] == [100, 1520, 880]  # 1220 less 60 between 300 and 1520: gaps of 580
    assert [box[1] for box in across] == [100, 200, 530]
    assert [box[1] for box in down] == [100, 285, 530]  # 390 less 100 between 140 and 530: gaps of 145
    assert spread(THREE, ["w0", "w1"], True, PLAIN) is THREE


def test_sizes_follow_the_first() -> None:
    wide = same_size(THREE, ["w1", "w0"], wide=True)
    assert [widget.place.size for widget in wide.widgets] == [(100, 40), (100, 100), (60, 20)]
    high = same_size(THREE, ["w1", "w0"], high=True)
    assert [widget.place.size for widget in high.widgets] == [(200, 100), (100, 100), (60, 20)]
    assert same_size(THREE, [], wide=True) is THREE


def test_sixteen_lie_in_a_grid() -> None:
    many = project(*(Place(offset=(50, 60), size=(30 + n, 20)) for n in range(16)))
    built = boxes(in_grid(many, [w.id for w in many.widgets], 4, 10, PLAIN))
    assert [box[:2] for box in built] == [(50 + n % 4 * 55, 60 + n // 4 * 30) for n in range(16)]
    assert in_grid(many, [], 4, 10, PLAIN) is many
    assert in_grid(many, ["w0"], 0, 10, PLAIN) is many


def test_what_follows_something_that_moves_stays_where_it_is() -> None:
    follows = replace(THREE.widget("w1").place, follow=Follow(x="0.5", y="0.5"))
    built = THREE.with_widget(replace(THREE.widget("w1"), place=follows))
    after = aligned(built, ALL, "left", PLAIN)
    assert after.widget("w1") == built.widget("w1")
    assert boxes(after)[2][0] == 100


def test_places_stay_within_reason() -> None:
    assert moved(THREE, ["w0"], 1e9, -1e9).widget("w0").place.offset == (100_000, -100_000)
    put = put_at(THREE, "w0", PLAIN, x=-1e7, y=5.126, wide=0, high=1e8).widget("w0").place
    assert (put.offset, put.size) == ((-100_000, 5.13), (1, 100_000))


def test_only_what_is_named_moves() -> None:
    built = moved(THREE, ["w0", "w2"], 3, -4)
    assert [w.place.offset for w in built.widgets] == [(103, 96), (-300, 200), (3, -4)]
    assert moved(THREE, ["w0"], 0, 0).widgets[0] is THREE.widgets[0]


@given(st.sampled_from(ANCHORS), st.sampled_from(ANCHORS), st.sampled_from([PLAIN, HALF]))
def test_hung_from_elsewhere_a_widget_stays(anchor: Anchor, pivot: Anchor, screen: Screen) -> None:
    built = put_at(THREE, "w0", screen, anchor=anchor, pivot=pivot)
    place = built.widget("w0").place
    assert (place.anchor, place.pivot) == (anchor, pivot)
    assert boxes(built, screen)[0] == pytest.approx(boxes(THREE, screen)[0], abs=0.02)
    sized = put_at(THREE, "w0", screen, anchor=anchor, pivot=pivot, wide=300.0)
    assert boxes(sized, screen)[0][:2] == pytest.approx(boxes(THREE, screen)[0][:2], abs=0.02)


@given(
    st.lists(st.tuples(st.sampled_from(ANCHORS), st.integers(-400, 400), st.integers(1, 300)), min_size=3, max_size=9)
)
def test_lining_up_and_spreading_do_what_they_say(reported: list[tuple[Anchor, int, int]]) -> None:
    many = project(*(Place(anchor=a, pivot=a, offset=(x, x / 2), size=(w, w / 2)) for a, x, w in reported))
    names = [widget.id for widget in many.widgets]
    for screen in (PLAIN, HALF):
        for way in WAYS:
            rects = [
                widget_rect(built, w, screen) for built in [aligned(many, names, way, screen)] for w in built.widgets
            ]
            edges = [_edge(rect, way) for rect in rects]
            assert edges == pytest.approx([edges[0]] * len(edges), abs=0.05)
        before = {w.id: widget_rect(many, w, screen) for w in many.widgets}
        order = sorted(names, key=lambda name: (before[name].x, before[name].x + before[name].width))
        built = spread(many, names, True, screen)
        after = [widget_rect(built, built.widget(name), screen) for name in order]
        assert (after[0], after[-1]) == (before[order[0]], before[order[-1]])
        gaps = [right.x - left.x - left.width for left, right in pairwise(after)]
        assert gaps == pytest.approx([gaps[0]] * len(gaps), abs=0.05)


def _edge(rect: Rect, way: Way) -> float:
    share = {"left": 0, "top": 0, "middle": 0.5, "centre": 0.5, "right": 1, "bottom": 1}[way]
    return rect.x + share * rect.width if way in ("left", "middle", "right") else rect.y + share * rect.height


def test_only_a_move_is_only_a_move() -> None:
    assert only_moved(THREE, THREE)
    assert only_moved(THREE, moved(THREE, ["w0", "w2"], 3, 4))
    assert only_moved(THREE, aligned(THREE, ALL, "left", PLAIN))
    for other in (
        put_at(THREE, "w0", PLAIN, wide=7),
        put_at(THREE, "w0", PLAIN, anchor="top"),
        replace(moved(THREE, ["w0"], 1, 1), title="Other"),
        replace(THREE, widgets=THREE.widgets[:2]),
        replace(THREE, widgets=THREE.widgets[::-1]),
        THREE.with_widget(replace(THREE.widget("w1"), look={"back": "#000000"})),
    ):
        assert not only_moved(THREE, other)
