"""Widgets that hang on moving things, and one copy for each slot of a roster."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks, track
from avrin.kinds.shapes import Group
from avrin.project.project import Follow, Place, Project, Roster, Screen, Variable, Widget
from avrin.render.scene import scene
from avrin.trace.frames import Column, Trace, Value

SCREEN = Screen(name="s", size=(800, 400), safe=0.05)
PLACE = Place(pivot="bottom", offset=(0.0, -10.0), size=(100.0, 20.0))
PROJECT = Project(
    reference=(1600, 800),
    variables=(Variable(name="x", type="float"), Variable(name="y", type="float")),
    rosters=(Roster(name="boats", slots=3, fields=(Variable(name="x", type="float"), Variable(name="fuel", type="float"))),),
)  # fmt: skip

# x, y, hold -> the box's corner in pixels (scale ½; safe area 40 … 760 by 20 … 380), None for nowhere
HUNG: list[tuple[Value, Value, bool, tuple[float, float] | None]] = [
    (800.0, 400.0, False, (375, 185)),
    (0.0, 0.0, False, (-25, -15)),
    (0.0, 0.0, True, (40, 20)),
    (1600.0, 800.0, False, (775, 385)),
    (1600.0, 800.0, True, (710, 370)),
    (130.0, 70.0, True, (40, 20)),
    (132.0, 72.0, True, (41, 21)),
    (-5000.0, 400.0, True, (40, 185)),
    (800.0, 1e6, True, (375, 370)),
    (None, 400.0, True, None),
    (800.0, None, False, None),
    (None, None, False, None),
]


@pytest.mark.parametrize(("x", "y", "hold", "corner"), HUNG)
def test_where_a_followed_thing_takes_it_table(
    x: Value, y: Value, hold: bool, corner: tuple[float, float] | None
) -> None:
    place = replace(PLACE, follow=Follow(x="x", y="y", hold=hold))
    bound = bind(replace(PROJECT, widgets=(Widget(id="w", kind="panel", place=place),)))
    bound.raise_first()
    columns = {"x": Column.of([x]), "y": Column.of([y])}
    found = scene(Tracks(bound, Trace.make("t", [0.0], columns)), 0, SCREEN)
    assert [(p.rect.x, p.rect.y) for p in found] == ([corner] if corner is not None else [])
    assert all((p.rect.width, p.rect.height) == (50, 10) for p in found)


def test_an_arrow_stands_only_where_it_was_held_back() -> None:
    place = replace(PLACE, follow=Follow(x="x", y="y", hold=True, arrow=True))
    bound = bind(replace(PROJECT, widgets=(Widget(id="w", kind="panel", place=place),)))
    columns = {"x": Column.of([800.0, 3000.0]), "y": Column.of([400.0, 400.0])}
    tracks = Tracks(bound, Trace.make("t", [0.0, 1.0], columns))
    (inside,), (held,) = scene(tracks, 0, SCREEN), scene(tracks, 1, SCREEN)
    assert len(inside.group.shapes) == 1
    arrow = held.group.shapes[1]
    assert isinstance(arrow, Group)
    _, x, y = arrow.shapes[0].commands[0]  # type: ignore[union-attr]
    assert float(x) > 100  # to the right of the box
    assert 0 < float(y) < 20
    points = [command[1:] for command in arrow.shapes[0].commands if len(command) == 3]  # type: ignore[union-attr]
    (tip, left, notch, right) = [(float(a), float(b)) for a, b in points]
    middle = (tip[1] + notch[1]) / 2
    assert tip[0] > notch[0] > left[0]
    assert left[0] == pytest.approx(right[0], abs=0.6)
    assert left[1] < middle < right[1] or right[1] < middle < left[1]
    assert tip[0] - notch[0] == pytest.approx(11 * 1.2, abs=0.05)  # half its size, from its tip to its notch
    assert abs(left[1] - right[1]) == pytest.approx(11 * 1.5, abs=0.3)


def test_copies_hang_on_moving_things_a_step_apart() -> None:
    place = replace(PLACE, follow=Follow(x="x", y="y"), step=(30.0, 50.0))
    crew = Roster(name="crew", slots=2, fields=(Variable(name="scrap", type="int"),))
    project = replace(PROJECT, rosters=(crew,), widgets=(Widget(id="w", kind="panel", repeat="crew", place=place),))
    columns = {"x": Column.of([800.0]), "y": Column.of([400.0])}
    first, second = scene(Tracks(bind(project), Trace.make("t", [0.0], columns)), 0, SCREEN)
    scale = first.rect.width / place.size[0]
    assert (second.rect.x - first.rect.x, second.rect.y - first.rect.y) == pytest.approx((30 * scale, 50 * scale))


def test_one_copy_for_each_slot_each_with_its_own_values() -> None:
    widget = Widget(
        id="fuel", kind="bar", repeat="boats", place=replace(PLACE, pivot="top-left", offset=(0.0, 0.0), step=(120.0, 4.0)),
        inputs={"value": "boats[slot].fuel", "full": "10", "visible": "has(boats[slot].fuel)", "caption": "{slot}"},
    )  # fmt: skip
    bound = bind(replace(PROJECT, widgets=(widget,)))
    bound.raise_first()
    columns = {f"boats[{i}].fuel": Column.of([value]) for i, value in enumerate((5.0, None, 10.0))}
    tracks = Tracks(bound, Trace.make("t", [0.0], {k: v for k, v in columns.items() if v.kind == "number"}))
    found = scene(tracks, 0, SCREEN)
    assert [(p.rect.x, p.rect.y) for p in found] == [(40, 20), (40 + 120, 20 + 4)]
    names = track(bound, tracks.trace).columns
    assert [names[f"fuel[{i}].fraction"][0] for i in range(3)] == [0.5, None, 1.0]
    assert names["fuel[2].caption"][0] == "2"


@pytest.mark.parametrize("slots", [0, 64])
def test_a_roster_of_none_and_of_many(slots: int) -> None:
    roster = replace(PROJECT.rosters[0], slots=slots)
    widget = Widget(id="w", kind="label", repeat="boats", inputs={"text": "{boats[slot].fuel}"})
    bound = bind(replace(PROJECT, rosters=(roster,), widgets=(widget,)))
    bound.raise_first()
    assert len(scene(Tracks(bound, Trace.make("t", [0.0], {})), 0, SCREEN)) == slots


def test_a_roster_nobody_knows_is_reported() -> None:
    bound = bind(replace(PROJECT, widgets=(Widget(id="w", kind="panel", repeat="boat"),)))
    assert "there is no roster 'boat' to repeat it over: did you mean 'boats'?" in str(
        bound.errors[RulePlace("widget", "w", "repeat")]
    )


def test_a_style_is_shared_and_a_widgets_own_look_goes_over_it() -> None:
    styles = {"glow": {"back": "#112233", "radius": 3, "thick": 9, "bands": {"low": {"back": "#ff0000"}}}}
    own = Widget(id="w", kind="panel", style="glow", look={"radius": 8})
    bound = bind(replace(PROJECT, styles=styles, widgets=(own,)))
    bound.raise_first()
    look = bound.widgets["w"].looks[""]
    assert (look.back, look.radius) == ("#112233", 8)  # type: ignore[attr-defined]
    wrong = bind(replace(PROJECT, styles=styles, widgets=(replace(own, style="glwo"),)))
    assert "did you mean 'glow'?" in str(wrong.errors[RulePlace("widget", "w", "style")])
