"""Scenes in sequence equal each scene alone, and list what changed."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.project.project import Screen, Widget
from avrin.render.scene import scene
from avrin.render.stage import Stage
from avrin.storage.files import load
from avrin.trace.store import open_trace

SCREENS = (Screen(name="a", size=(960, 540)), Screen(name="b", size=(400, 300)))


@pytest.fixture(scope="module")
def dive(demo: Path) -> Tracks:
    trace = open_trace(demo.parent / "traces" / "leaky-dive.csv")
    return Tracks(bind(load(demo)[0], events=trace.event_kinds, folder=demo.parent), trace)


FRAMES = st.integers(6000, 9400)  # low, critical, lost, and the run after it
STEPS = st.lists(st.tuples(FRAMES | st.just(-1), st.sampled_from(["", "hover", "held"])), min_size=2, max_size=12)


@given(STEPS, st.sampled_from(SCREENS))
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_a_stage_shows_each_frame_as_it_would_be_alone(
    dive: Tracks, steps: list[tuple[int, str]], screen: Screen
) -> None:
    """Frame −1 is the one after the last: playing, where texts are prepared ahead."""
    stage, frame = Stage(), 6000
    for asked, touch in steps:
        frame = frame + 1 if asked < 0 else asked
        hot = {"patch": touch} if touch else {}
        before = {placed.ident: placed for placed in stage.placed}
        changed = stage.show(dive, frame, screen, hot)
        alone = scene(Tracks(dive.bound, dive.trace, dive), frame, screen, hot)
        assert stage.placed == alone
        if changed is not None:
            told = {placed.ident for placed in changed}
            now = {placed.ident: placed for placed in alone}
            assert told == {ident for ident in before | now if before.get(ident) != now.get(ident)}


def test_another_screen_cannot_be_compared(dive: Tracks) -> None:
    stage = Stage()
    assert stage.show(dive, 7000, SCREENS[0]) is None
    assert stage.show(dive, 7000, SCREENS[0]) == []
    assert stage.show(dive, 7000, SCREENS[1]) is None
    assert stage.placed == scene(dive, 7000, SCREENS[1])


def test_widgets_that_were_moved_are_reported_and_the_rest_is_taken_over(dive: Tracks) -> None:
    stage, screen = Stage(), dive.bound.project.screens[0]
    frame = 7080
    stage.show(dive, frame, screen)
    before = {one.ident: one for one in stage.placed}
    project = dive.bound.project
    hull = project.widget("hull_bar")
    moved = project.with_widget(replace(hull, place=replace(hull.place, offset=(300.0, 200.0))))
    bound = bind(moved, dive.bound, dive.bound.events, dive.bound.folder)
    changed = stage.show(Tracks(bound, dive.trace, dive), frame, screen)
    assert changed is not None
    assert {one.ident for one in changed} == {"hull_bar"}
    assert changed[0] is before["hull_bar"]
    assert [one for one in stage.placed if one.ident != "hull_bar"] == [
        one for ident, one in before.items() if ident != "hull_bar"
    ]
    assert stage.placed == scene(Tracks(bound, dive.trace), frame, screen)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(st.integers(0, 17_999), st.floats(-600, 600), st.floats(-600, 600), st.sampled_from(["place", "size", "look"]))
def test_all_of_them_moved_look_as_if_drawn_anew(dive: Tracks, frame: int, dx: float, dy: float, what: str) -> None:
    stage, screen, project = Stage(), dive.bound.project.screens[0], dive.bound.project
    stage.show(dive, frame, screen)

    def other(widget: Widget) -> Widget:
        x, y = widget.place.offset
        place = replace(widget.place, offset=(x + dx, y + dy))
        if what == "size":
            place = replace(place, size=(widget.place.size[0] + 30, widget.place.size[1] + 10))
        return replace(widget, place=place, look={**widget.look, "text_size": 31.0} if what == "look" else widget.look)

    changed = replace(project, widgets=tuple(map(other, project.widgets)))
    tracks = Tracks(bind(changed, dive.bound, dive.bound.events, dive.bound.folder), dive.trace, dive)
    stage.show(tracks, frame, screen)
    fresh = scene(tracks, frame, screen)
    assert stage.placed == fresh
    for mine, theirs in zip(stage.placed, fresh, strict=True):
        assert tuple(mine.reach) == pytest.approx(tuple(theirs.reach), abs=1e-6)


@pytest.mark.parametrize("what", ["reference", "removed", "order"])
def test_a_project_that_is_another_in_more_cannot_be_compared(dive: Tracks, what: str) -> None:
    stage, screen = Stage(), dive.bound.project.screens[0]
    stage.show(dive, 7080, screen)
    project = dive.bound.project
    other = {
        "reference": replace(project, reference=(1280, 720)),
        "removed": replace(project, widgets=project.widgets[1:]),
        "order": replace(project, widgets=project.widgets[::-1]),
    }[what]
    bound = bind(other, dive.bound, dive.bound.events, dive.bound.folder)
    tracks = Tracks(bound, dive.trace, dive)
    assert stage.show(tracks, 7080, screen) is None
    assert stage.placed == scene(tracks, 7080, screen)
