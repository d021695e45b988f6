"""How what comes, goes and pops is drawn, by tables worked by hand."""

from __future__ import annotations

from typing import Any

import pytest

from avrin.kinds.shapes import Group
from avrin.project.project import Follow, Passage, Place, Pop, Widget
from avrin.render.layout import Rect
from avrin.render.transitions import in_motion

SCREEN = (1000.0, 500.0)
BOX = Rect(100.0, 50.0, 200.0, 40.0)


def moved(place: Place, state: dict[str, Any], **text: Any) -> Group:
    widget = Widget(id="w", kind="label", place=place, **text)
    group = Group((), BOX.x, BOX.y, 2.0, 0.5, name="w")
    return in_motion(group, widget, {"visible": True, **state}, BOX, SCREEN)


# anchor, presence -> how far it still is from its place: three quarters of the way are left at presence 1 - √¾
WAYS = [
    ("top-left", 0.0, (-300.0, 0.0)), ("left", 0.5, (-75.0, 0.0)), ("bottom-right", 0.0, (900.0, 0.0)),
    ("top", 0.0, (0.0, -90.0)), ("bottom", 0.5, (0.0, 112.5)), ("center", 0.0, (0.0, 40.0)), ("top", 1.0, (0.0, 0.0)),
]  # fmt: skip


@pytest.mark.parametrize(("anchor", "presence", "way"), WAYS)
def test_a_slide_comes_from_beyond_the_side_it_hangs_on(anchor: Any, presence: float, way: tuple[float, float]) -> None:
    found = moved(Place(anchor=anchor), {"presence": presence}, enter=Passage(how="slide"))
    assert (found.dx - BOX.x, found.dy - BOX.y) == pytest.approx(way)
    assert found.opacity == (0.5 * presence if anchor == "center" else 0.5)
    assert found.scale == 2.0


def test_what_follows_something_rises_and_fades() -> None:
    found = moved(Place(follow=Follow(x="1", y="1")), {"presence": 0.5}, enter=Passage(how="slide"))
    assert (found.dx - BOX.x, found.dy - BOX.y, found.opacity) == (0.0, 10.0, 0.25)


def test_fading_and_growing() -> None:
    assert moved(Place(), {"presence": 0.25}, enter=Passage()).opacity == 0.125
    grown = moved(Place(), {"presence": 0.5}, enter=Passage(how="grow"))
    assert (grown.scale, grown.opacity) == (1.5, 0.5)
    # About the middle of the box, (200, 70): its corner is three quarters as far from it.
    assert (grown.dx, grown.dy) == (125.0, 55.0)


def test_it_comes_as_it_enters_and_goes_as_it_leaves() -> None:
    text = {"enter": Passage(how="grow"), "leave": Passage(how="fade")}
    assert moved(Place(), {"presence": 0.5}, **text).scale == 1.5
    gone = moved(Place(), {"presence": 0.5, "visible": False}, **text)
    assert (gone.scale, gone.opacity) == (2.0, 0.25)


def test_a_pop_is_largest_when_fresh_and_done_when_spent() -> None:
    text = {"pop": Pop(when="x", size=1.5)}
    assert moved(Place(), {"pop": 1.0}, **text).scale == 3.0
    assert moved(Place(), {"pop": 0.5}, **text).scale == 2.25
    still = moved(Place(), {"pop": 0.0}, **text)
    assert (still.scale, still.dx, still.dy) == (2.0, BOX.x, BOX.y)
