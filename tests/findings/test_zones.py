"""Zones over time: the position of a following zone, which widgets cover it, and for how many seconds. Tables by hand."""

from __future__ import annotations

import math
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.finding import Finding
from avrin.project.project import Follow, Place, Plate, Recording, Roster, Screen, Variable, Zone
from avrin.render.layout import Rect
from avrin.render.scene import scene
from avrin.render.zones import reach_rects, touching, zone_rect, zone_rects
from avrin.trace.frames import Column, Trace
from seeded import PALE, SHOTS, VARIABLES, Seed, at, filmed, inspected, widget
from widget_helpers import project

FOG = Plate(name="fog", picture="fog.svg")
# A thing that goes by, one frame a second, in reference pixels; for two seconds its position is missing.
THING: list[Any] = [100.0, 300.0, 500.0, 700.0, 900.0, None, None, 900.0, 700.0, 1500.0, 1700.0, 1800.0]


QUICK: list[Any] = [100.0, 300.0, 700.0, 1500.0, *[1700.0] * 8]


def over(zones: tuple[Zone, ...], *screens: Screen) -> Tracks:
    made = replace(
        project("panel", {}), plates=(replace(FOG, keep_clear=zones),), screens=screens, reference=(1920, 1080)
    )
    trace = Trace.make("t", [float(i) for i in range(len(THING))], {"thing": Column.of(THING)})
    made = replace(made, variables=(*made.variables, *_declared()))
    return Tracks(bind(made), trace)


def _declared() -> tuple[Variable, ...]:
    return (Variable(name="thing", type="float"),)


def listed(*zones: Zone, place: Place, plate: Plate = FOG, **more: Any) -> list[Finding]:
    """What is found of a panel that is always there, at a place, over a plate with zones."""
    shown = widget("panel", {}, place=place)
    made = {"plates": (replace(plate, keep_clear=zones),), "variables": (*VARIABLES, *_declared()), **more}
    seed = Seed(
        [shown],
        {"thing": THING},
        project=made,
        files={"fog.svg": PALE, **SHOTS},
    )
    with tempfile.TemporaryDirectory() as folder:
        return [one for one in inspected(seed, Path(folder))[1] if one.code == "keep-clear"]


def test_a_zone_lies_where_its_thing_is_and_nowhere_while_that_is_nowhere() -> None:
    plain, wide = Screen(name="plain", size=(960, 540)), Screen(name="wide", size=(2880, 1080))
    tracks = over((Zone(box=(-50, 200, 100, 80), x="thing"), Zone(box=(10, 20, 30, 40))), plain, wide)
    plate = tracks.bound.project.plates[0]
    moving = zone_rects(tracks, plate, 0, plain)
    assert moving[3].tolist() == [(700 - 50) * 0.5, 100, 50, 40]
    assert np.isnan(moving[5]).all()
    # The plate is stretched to a wider screen; what follows a thing of the game is where the HUD's fit puts that.
    assert zone_rects(tracks, plate, 0, wide)[3].tolist() == [650, 200, 100, 80]
    assert zone_rects(tracks, plate, 1, wide).tolist() == [[15, 20, 45, 40]]
    for frame in range(len(THING)):
        one = zone_rect(tracks, plate, 0, plain, frame)
        assert np.array_equal(np.array(one), moving[frame], equal_nan=True) or math.isnan(one[0])


def test_seconds_are_counted_while_the_thing_is_under_the_widget() -> None:
    """The panel reaches from 600 to 900: it covers the thing's zone from 550 to 950, on frames 3, 4, 7 and 8."""
    (one,) = listed(Zone(box=(-50, 100, 100, 60), x="thing", name="the boat"), place=at(600, 100))
    assert one.why == "W covers the boat on fog for 4.0 s, at most 2.0 s at a stretch, on desk"
    assert (one.start, one.end, one.moments) == (3, 5, ((3, 5), (7, 9)))
    assert (one.plate, one.screen, one.trace, one.weight) == ("fog", "desk", "dive", 4.0)


def test_a_widget_that_follows_covers_what_it_passes() -> None:
    follow = Place(follow=Follow(x="thing", y="100"), offset=(0.0, 0.0), size=(100.0, 60.0))
    (one,) = listed(Zone(box=(650, 90, 300, 60)), place=follow)
    assert one.moments == ((3, 5), (7, 9))
    held = replace(follow, follow=Follow(x="thing * 3 - 1500", y="100", hold=True))
    (kept,) = listed(Zone(box=(0, 90, 50, 60)), place=held)
    assert (kept.start, kept.end, kept.moments) == (0, 3, ()), "held inside at the left while the thing is beyond it"


def test_what_passes_by_in_no_time_and_what_is_never_there_is_not_reported() -> None:
    assert not listed(Zone(box=(-5, 900, 10, 10), x="thing"), place=at(600, 100)), "it passes below"
    assert not listed(Zone(box=(0, 100, 10, 10), x="hull / 0"), place=at(600, 100)), "its position is missing"
    seed = Seed(
        [widget("panel", {}, place=at(600, 100))], {"thing": QUICK}, step=0.2,
        project={
            "plates": (replace(FOG, keep_clear=(Zone(box=(-5, 100, 10, 10), x="thing"),)),),
            "variables": (*VARIABLES, *_declared()),
        },
        files={"fog.svg": PALE},
    )  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        assert not [one for one in inspected(seed, Path(folder))[1] if one.code == "keep-clear"], "a fifth of a second"


def test_a_films_zones_hold_while_it_runs() -> None:
    """Four pictures, one a second, from the recording's third second on."""
    zone = Zone(box=(600, 100, 100, 100))
    (one,) = listed(zone, place=at(600, 100), plate=filmed(-3.0))
    assert one.why == "W covers the keep-clear zone on filmed whenever it is visible, on desk"
    assert one.start == 3
    assert not listed(zone, place=at(600, 100), plate=filmed(-300.0))
    other = replace(filmed(-3.0), trace="other.csv")
    assert not listed(zone, place=at(600, 100), plate=other, traces=(Recording(path="other.csv"),))


def test_a_rule_that_cannot_be_is_reported_with_its_zone() -> None:
    bound = over((Zone(box=(0, 0, 9, 9), x="thnig"),)).bound
    (place,) = bound.errors
    assert (place.what, place.owner, place.within) == ("plate", "fog", "zones.0.x")
    assert "did you mean `thing`" in str(bound.errors[place])


@given(
    st.lists(st.floats(-200, 2200) | st.none(), min_size=1, max_size=12),
    st.floats(0, 900), st.floats(1, 400), st.booleans(), st.sampled_from([(1920, 1080), (1280, 800), (640, 900)]),
)  # fmt: skip
def test_all_frames_at_once_are_what_each_frame_draws(
    values: list[float | None], top: float, wide: float, hold: bool, size: tuple[int, int]
) -> None:
    place = Place(
        follow=Follow(x="thing", y=f"{top:.3f}", hold=hold), pivot="center", size=(wide, 50.0), offset=(7.0, -3.0)
    )
    screen = Screen(name="s", size=size, safe=0.05, scale=1.25)
    made = replace(project("panel", {}, size=(10, 10)), reference=(1920, 1080), variables=_declared())
    made = replace(made, widgets=(replace(made.widgets[0], place=place),), screens=(screen,))
    trace = Trace.make("t", [float(i) for i in range(len(values))], {"thing": Column.of([*values])})
    tracks = Tracks(bind(made), trace)
    (shown,) = tracks.bound.widgets.values()
    boxes = reach_rects(tracks, shown, screen, Rect(0, 0, wide, 50.0))
    for frame in range(len(values)):
        drawn = scene(tracks, frame, screen)
        if values[frame] is None:
            assert np.isnan(boxes[frame]).any()
            assert not drawn
        else:
            assert boxes[frame].tolist() == pytest.approx([*drawn[0].rect])


def test_boxes_touch_where_they_share_more_than_the_slack() -> None:
    one = np.array([[0.0, 0.0, 10.0, 10.0]])
    other = np.array(
        [
            [9.0, 9.0, 5.0, 5.0],
            [8.0, 9.0, 5.0, 5.0],
            [-4.0, 2.0, 5.0, 2.0],
            [np.nan, 2.0, 5.0, 2.0],
            [10.0, 0.0, 5.0, 5.0],
        ]
    )
    assert touching(one, other, 1.0).tolist() == [False, True, True, False, False]


@pytest.mark.parametrize(("frames", "reported"), [(2, False), (3, True)])
def test_a_quarter_of_a_second_is_the_least_that_is_reported(frames: int, reported: bool) -> None:
    passing = [*[700.0] * frames, *[1700.0] * (12 - frames)]
    assert bool(seen_for(0.1, passing)) is reported


def seen_for(step: float, thing: list[Any]) -> list[Finding]:
    zone = Zone(box=(-5, 100, 10, 10), x="thing")
    seed = Seed(
        [widget("panel", {}, place=at(600, 100))], {"thing": thing}, step=step,
        project={"plates": (replace(FOG, keep_clear=(zone,)),), "variables": (*VARIABLES, *_declared())},
        files={"fog.svg": PALE},
    )  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        return [one for one in inspected(seed, Path(folder))[1] if one.code == "keep-clear"]


def test_what_lasts_longer_than_a_minute_is_reported_in_minutes() -> None:
    assert " for 40.0 s," in seen_for(10.0, [*[700.0] * 4, *[1700.0] * 8])[0].why
    assert " for 1:20," in seen_for(10.0, [*[700.0] * 8, *[1700.0] * 4])[0].why
    assert " for 1:00," in seen_for(10.0, [*[700.0] * 6, *[1700.0] * 6])[0].why


def test_of_several_zones_the_one_covered_longest_is_reported_and_how_many_more() -> None:
    boat, rest = Zone(box=(-50, 100, 100, 60), x="thing", name="the boat"), Zone(box=(600, 100, 50, 50))
    (one,) = listed(boat, rest, place=at(600, 100))
    assert one.why == "W covers the keep-clear zone on fog whenever it is visible, on desk, and 1 more zone"
    assert one.short == "over a keep-clear zone on fog"
    (two,) = listed(boat, replace(boat, box=(-5, 100, 10, 10)), replace(boat, box=(-4, 100, 8, 8)), place=at(600, 100))
    assert two.why.endswith("on desk, and 2 more zones")
    assert two.short == "over the boat on fog"
    assert two.why.startswith("W covers the boat on fog for 4.0 s"), "of two that are covered as long the first"


def test_a_film_that_is_not_there_may_be_there_at_any_time() -> None:
    gone = Plate(name="gone", film="films/gone.mp4")
    (one,) = listed(Zone(box=(600, 100, 100, 100)), place=at(600, 100), plate=gone)
    assert (one.plate, one.start) == ("gone", 0)


def test_copies_of_a_repeated_widget_lie_a_step_apart() -> None:
    made = replace(project("panel", {}, size=(10, 10)), reference=(1920, 1080), variables=_declared())
    place = Place(offset=(100.0, 50.0), size=(40.0, 40.0), step=(60.0, 7.0))
    crew = Roster(name="crew", slots=3, fields=(Variable(name="air", type="float"),))
    made = replace(made, widgets=(replace(made.widgets[0], place=place, repeat="crew"),), rosters=(crew,))
    screen = Screen(name="s", size=(3840, 2160))
    tracks = Tracks(bind(made), Trace.make("t", [0.0], {}))
    copies = tracks.bound.widgets["w"].each()
    assert [reach_rects(tracks, copy, screen, Rect(0, 0, 40, 40))[0].tolist() for copy in copies] == [
        [200, 100, 80, 80], [320, 114, 80, 80], [440, 128, 80, 80],
    ]  # fmt: skip
