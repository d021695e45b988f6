"""Driving by hand: what actions set, what goes on underneath, what a restart keeps."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.live import Live
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks
from avrin.project.project import Action, Assignment, Project, Variable, Widget
from avrin.trace.frames import Column, Event, Trace, Value

PROJECT = Project(
    variables=(
        Variable(name="hull", type="float", start=100, low=0, high=140),
        Variable(name="air", type="float", start=60),
        Variable(name="best", type="int", start=1, keeps=True),
        Variable(name="hits", type="int", start=0),
    ),
    widgets=(
        Widget(id="bar", kind="bar", inputs={"value": "hull", "full": "100", "visible": "not held(hull < 50, 1s)"}),
    ),
    actions=(
        Action(
            label="Hit",
            key="H",
            does=(Assignment(set="hull", to="max(hull - 30, 0)"), Assignment(set="hits", to="hits + 1")),
        ),
        Action(label="Win", does=(Assignment(set="best", to="best + hits"),)),
        Action(label="Wrong", does=(Assignment(set="hul", to="1"), Assignment(set="hull", to="nothing"))),
    ),
)
BASE = Trace.make(
    "dive",
    [0.0, 0.5, 1.0, 1.5, 2.0],
    {"hull": Column.of([100.0, 90.0, 80.0, 70.0, 60.0]), "air": Column.of([9.0, 8.0, 7.0, 6.0, 5.0])},
    events=[Event(1.2, "bump")],
)


def column(trace: Trace, name: str) -> list[Value]:
    return [trace.columns[name][i] for i in range(len(trace))]


def test_what_an_action_set_is_the_players_and_the_rest_goes_on() -> None:
    live = Live(bind(PROJECT), BASE, 1, "by hand")
    live.press("Hit")
    live.go_on(2)
    live.press("Hit")
    live.go_on(1)
    assert live.follows
    live.go_on(2)
    assert not live.follows
    assert live.trace.t.tolist() == [0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0]
    assert column(live.trace, "hull") == [100, 90, 60, 60, 30, 30, 30]
    assert column(live.trace, "air") == [9, 8, 7, 6, 5, 5, 5]
    assert column(live.trace, "hits") == [0, 0, 1, 1, 2, 2, 2]
    assert [(e.t, e.name) for e in live.trace.events] == [(1.0, "hit"), (1.2, "bump"), (2.0, "hit")]


def test_a_restart_begins_a_run_as_declared_but_for_what_is_kept() -> None:
    live = Live(bind(PROJECT), BASE, 1, "by hand")
    live.press("Hit")
    live.go_on(1)
    live.press("Win")
    live.go_on(1)
    live.restart()
    live.go_on(2)
    assert live.trace.run.tolist() == [1, 1, 1, 1, 2, 2]
    assert column(live.trace, "hull")[-2:] == [100, 100]
    assert column(live.trace, "hits")[-2:] == [0, 0]
    assert column(live.trace, "best")[-2:] == [2, 2]


def test_a_button_does_what_it_says_only_while_it_can_be_pressed() -> None:
    does = [{"set": "hits", "to": "hits - 1"}, {"set": "hull", "to": "hull + 5"}]
    button = Widget(id="patch", kind="button", inputs={"enabled": "hits > 0"}, options={"does": does})
    bound = bind(replace(PROJECT, widgets=(*PROJECT.widgets, button)))
    live = Live(bound, BASE, 0, "by hand")
    live.press("patch")
    live.go_on(1)
    assert column(live.trace, "hull") == [100, 90]
    live.press("Hit")
    live.press("patch")
    live.press("patch")
    live.go_on(3)
    assert column(live.trace, "hull") == [100, 90, 60, 65, 65]
    assert column(live.trace, "hits") == [0, 0, 1, 0, 0]


def test_an_action_with_a_mistake_does_nothing_and_the_mistake_is_reported() -> None:
    bound = bind(PROJECT)
    assert list(bound.errors) == [
        RulePlace("action", "Wrong", "does", "0", "set"),
        RulePlace("action", "Wrong", "does", "1"),
    ]
    live = Live(bound, BASE, 0, "by hand")
    live.press("Wrong")
    live.go_on(1)
    assert column(live.trace, "hull") == [100, 90]


def test_tracks_follow_a_drive_frame_by_frame() -> None:
    bound = bind(PROJECT)
    live = Live(bound, BASE, 1, "by hand")
    tracks = Tracks(bound, live.trace)
    for turn in range(6):
        if turn == 1:
            live.press("Hit")
            live.press("Hit")
        live.go_on(1)
        tracks = tracks.grown(live.trace)
    whole = Tracks(bound, live.trace)
    bar = bound.widgets["bar"]
    states = [whole.state(bar, frame) for frame in range(len(live.trace))]
    assert [tracks.state(bar, frame) for frame in range(len(live.trace))] == states
    assert [state["visible"] for state in states] == [True] * 6 + [False] * 2
