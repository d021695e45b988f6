"""What is dragged takes the anchor it is near, and does not move by it."""

from __future__ import annotations

from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.edits.placing import anchored_there
from avrin.project.project import Anchor, Follow, Place, Project, Screen, Widget
from avrin.render.scene import widget_rect

DESK = Screen(name="desk", size=(1920, 1080))
SAFE = Screen(name="tv", size=(1280, 720), safe=0.05, scale=1.25)


def project(*places: Place, repeat: str = "") -> Project:
    widgets = (Widget(id=f"w{i}", kind="panel", place=place, repeat=repeat) for i, place in enumerate(places))
    return Project(widgets=tuple(widgets))


def at(x: float, y: float, wide: float = 200, high: float = 40) -> Place:
    return Place(offset=(x, y), size=(wide, high))


@pytest.mark.parametrize(
    ("place", "anchor"),
    [
        (at(30, 20), "top-left"), (at(900, 20), "top"), (at(1700, 20), "top-right"),
        (at(30, 500), "left"), (at(860, 520), "center"), (at(1700, 500), "right"),
        (at(30, 1020), "bottom-left"), (at(900, 1030), "bottom"), (at(1700, 1030), "bottom-right"),
        (at(10, 1030, 1900), "bottom"),  # as wide as the screen: its middle is on the screen's middle
        (at(0, 1040, 1920), "bottom-left"),  # exactly as wide: among equals the anchor it has
        (at(-50, -20), "top-left"),
    ],
)  # fmt: skip
def test_it_is_anchored_to_the_nearest_corner_edge_or_middle(place: Place, anchor: Anchor) -> None:
    found = anchored_there(project(place), ["w0"], DESK).widgets[0].place
    assert (found.anchor, found.pivot) == (anchor, anchor)


PLACES = st.builds(
    Place, anchor=st.sampled_from(get_args(Anchor)), pivot=st.sampled_from(get_args(Anchor)),
    offset=st.tuples(st.integers(-900, 900).map(float), st.integers(-900, 900).map(float)),
    size=st.tuples(st.integers(1, 1500).map(float), st.integers(1, 900).map(float)),
)  # fmt: skip


@given(st.lists(PLACES, min_size=1, max_size=3), st.sampled_from([DESK, SAFE]))
def test_nothing_moves_and_a_second_time_nothing_changes(places: list[Place], screen: Screen) -> None:
    before = project(*places)
    names = [widget.id for widget in before.widgets]
    after = anchored_there(before, names, screen)
    assert len({widget.place.anchor for widget in after.widgets}) == 1, "those dragged together share one anchor"
    for one, other in zip(before.widgets, after.widgets, strict=True):
        assert widget_rect(after, other, screen) == pytest.approx(widget_rect(before, one, screen), abs=0.02)
        if one.place.pivot != one.place.anchor:
            assert other.place.pivot == one.place.pivot
    assert anchored_there(after, names, screen) == after


def test_followers_and_copies_keep_theirs() -> None:
    follows = replace(at(1700, 1030), follow=Follow(x="100", y="100"))
    assert anchored_there(project(follows), ["w0"], DESK) == project(follows)
    copies = project(at(1700, 1030), repeat="crew")
    assert anchored_there(copies, ["w0"], DESK) == copies
