"""Boxes on the screen, worked by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.project.project import Anchor, Fit, Place, Project, Screen
from avrin.render.layout import Rect, anchor_point, placed, safe_area, screen_scale

FULL = Screen(name="s", size=(1920, 1080))
HALF = Screen(name="s", size=(960, 540))
SAFE = Screen(name="s", size=(1000, 500), safe=0.1)

# anchor, pivot, offset, size, screen, scale -> left, top, width, height
TABLE = [
    ("top-left", "top-left", (40, 40), (420, 36), FULL, 1.0, (40, 40, 420, 36)),
    ("top-left", "top-left", (40, 40), (420, 36), HALF, 0.5, (20, 20, 210, 18)),
    ("top-right", "top-right", (-40, 40), (300, 100), FULL, 1.0, (1580, 40, 300, 100)),
    ("top-right", "top-left", (-340, 40), (300, 100), FULL, 1.0, (1580, 40, 300, 100)),
    ("top", "top", (0, 10), (200, 20), FULL, 1.0, (860, 10, 200, 20)),
    ("left", "left", (5, 0), (10, 100), FULL, 1.0, (5, 490, 10, 100)),
    ("center", "center", (0, 0), (100, 50), FULL, 1.0, (910, 515, 100, 50)),
    ("right", "center", (0, 0), (100, 50), FULL, 1.0, (1870, 515, 100, 50)),
    ("bottom-left", "bottom-left", (40, -40), (100, 50), FULL, 1.0, (40, 990, 100, 50)),
    ("bottom", "bottom", (0, -150), (640, 78), FULL, 1.0, (640, 852, 640, 78)),
    ("bottom-right", "bottom-right", (-52, -44), (320, 132), FULL, 1.0, (1548, 904, 320, 132)),
    ("top-left", "top-left", (0, 0), (10, 10), SAFE, 1.0, (100, 50, 10, 10)),
    ("bottom-right", "bottom-right", (0, 0), (10, 10), SAFE, 2.0, (880, 430, 20, 20)),
    ("center", "top-left", (10, -10), (100, 50), SAFE, 0.5, (505, 245, 50, 25)),
]


@pytest.mark.parametrize(("anchor", "pivot", "offset", "size", "screen", "scale", "rect"), TABLE)
def test_box_table(
    anchor: Anchor,
    pivot: Anchor,
    offset: tuple[float, float],
    size: tuple[float, float],
    screen: Screen,
    scale: float,
    rect: object,
) -> None:
    place = Place(anchor=anchor, pivot=pivot, offset=offset, size=size)
    assert tuple(placed(place, safe_area(screen), scale)) == rect


@pytest.mark.parametrize(
    ("fit", "size", "scale"),
    [
        ("height", (2560, 1080), 1.0),
        ("width", (960, 1080), 0.5),
        ("smaller", (960, 1080), 0.5),
        ("none", (64, 64), 1.0),
    ],
)
def test_fit_table(fit: Fit, size: tuple[int, int], scale: float) -> None:
    assert screen_scale(Project(fit=fit), Screen(name="s", size=size)) == scale


@given(st.sampled_from(["top-left", "top", "center", "right", "bottom-right"]), st.floats(0.1, 4))
def test_the_pivot_lies_on_the_anchor_when_there_is_no_offset(anchor: Anchor, scale: float) -> None:
    rect = placed(Place(anchor=anchor, pivot=anchor, size=(30.0, 20.0)), safe_area(FULL), scale)
    ax, ay = anchor_point(anchor)
    assert rect.x + ax * rect.width == pytest.approx(ax * 1920)
    assert rect.y + ay * rect.height == pytest.approx(ay * 1080)


HELD = [
    (10, 20, True),
    (40, 60, True),
    (9.9, 30, False),
    (40.1, 30, False),
    (20, 19.9, False),
    (20, 60.1, False),
    (25, 40, True),
]


@pytest.mark.parametrize(("x", "y", "inside"), HELD)
def test_a_rectangle_holds_its_edges(x: float, y: float, inside: bool) -> None:
    assert Rect(10, 20, 30, 40).contains(x, y) is inside
