"""Derived events: when they happen, with which arguments, and what is wrong with their rules; by tables worked by hand."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.event_kinds import Happening, event_of, event_renamed, with_event
from avrin.binding.places import RulePlace, rule_at, rule_places, with_rule
from avrin.binding.tracks import Tracks
from avrin.project.project import EventKind, Project, Roster, Variable, Widget
from avrin.trace.frames import Column, Event, Trace, Value

KILL = EventKind(
    name="kill",
    args={"who": "text", "whom": "text"},
    when="changed(kill_id)",
    values={"who": "killer", "whom": "victim"},
)
GAME = Project(
    variables=(
        Variable(name="kill_id", type="int"),
        Variable(name="killer", type="text"),
        Variable(name="victim", type="text"),
        Variable(name="hull", type="float"),
    ),
    rosters=(
        Roster(name="crew", slots=2, fields=(Variable(name="name", type="text"), Variable(name="scrap", type="int"))),
    ),
    events=(KILL,),
    widgets=(Widget(id="feed", kind="feed", options={"lines": {"kill": "{who} beat {whom}"}, "keep": 2.5}),),
)
COLUMNS: dict[str, list[Value]] = {
    "kill_id": [0.0, 0.0, 1.0, 1.0, 2.0, 2.0, 2.0, 3.0],
    "killer": [None, None, "Ona", "Ona", "Ona", "Ona", "Ona", "Rask"],
    "victim": [None, None, "Teo", "Teo", "Teo", "Teo", "Teo", None],
    "hull": [9.0, 8.0, 8.0, None, 5.0, 5.0, 7.0, 6.0],
    "crew[0].name": ["Ona"] * 8,
    "crew[1].name": ["Teo"] * 8,
    "crew[0].scrap": [0.0, 0.0, 3.0, 3.0, 3.0, 4.0, 4.0, 4.0],
    "crew[1].scrap": [0.0, 0.0, 2.0, 2.0, 2.0, 2.0, 2.0, 9.0],
}
RUNS = [1, 1, 1, 1, 1, 1, 2, 2]


def over(project: Project, events: list[Event] | None = None) -> Tracks:
    trace = Trace.make("t", [0, 1, 2, 3, 4, 5, 0, 1], {n: Column.of(v) for n, v in COLUMNS.items()}, RUNS, events or [])
    return Tracks(bind(project, events=trace.event_kinds), trace)


def happened(tracks: Tracks, name: str) -> list[tuple[int, Mapping[str, Value]]]:
    found = tracks.occurrences(name)
    return [(int(frame), event.args) for frame, event in zip(found.frames, found, strict=True)]


def ruled(project: Project, rule: str) -> list[Value]:
    tracks = over(project)
    column = tracks.column(tracks.bound.scope.rule(rule))
    return [column[frame] for frame in range(len(tracks.trace))]


def only(event: EventKind) -> Project:
    return replace(GAME, events=(event,), widgets=())


def test_an_event_happens_where_its_rule_is_true_and_not_where_a_run_begins() -> None:
    assert happened(over(GAME), "kill") == [
        (2, {"who": "Ona", "whom": "Teo"}), (4, {"who": "Ona", "whom": "Teo"}), (7, {"who": "Rask", "whom": None}),
    ]  # fmt: skip
    assert ruled(GAME, 'event("kill")') == [False, False, True, False, True, False, False, True]
    assert ruled(GAME, 'events("kill")') == [0, 0, 1, 1, 2, 2, 0, 1]
    assert ruled(GAME, 'last("kill", "who")') == [None, None, "Ona", "Ona", "Ona", "Ona", None, "Rask"]


def test_a_feed_has_a_line_for_each_occurrence_even_if_it_reads_the_same() -> None:
    tracks = over(GAME)
    found = [str(tracks.state(tracks.bound.widgets["feed"], i)["lines"]).split("\n") for i in range(8)]
    beat = "Ona beat Teo"
    assert found == [[""], [""], [beat], [beat], [beat, beat], [beat], [""], ["Rask beat —"]]


def test_a_recording_with_the_event_is_used_as_recorded() -> None:
    tracks = over(GAME, [Event(1.0, "kill", {"who": "Io"}), Event(1.0, "kill", {"who": "Ona", "whom": "Io"})])
    assert happened(tracks, "kill") == [(1, {"who": "Io"}), (1, {"who": "Ona", "whom": "Io"})]
    step = tracks.bound.scope.rule('events("kill")')
    assert tracks.column(step).data.tolist() == [0, 2, 2, 2, 2, 2, 0, 0]
    assert tracks.state(tracks.bound.widgets["feed"], 2)["lines"] == "Io beat —\nOna beat Io"


def test_one_over_a_roster_happens_for_each_slot_in_order() -> None:
    scored = EventKind(
        name="scored", args={"who": "text", "by": "int"}, when="change(crew[slot].scrap) > 0", over="crew",
        values={"who": "crew[slot].name", "by": "change(crew[slot].scrap)"},
    )  # fmt: skip
    project = replace(
        only(scored),
        widgets=(Widget(id="w", kind="feed", options={"lines": {"scored": "{who} +{by | 0}"}, "keep": 9}),),
    )
    tracks = over(project)
    assert happened(tracks, "scored") == [
        (2, {"who": "Ona", "by": 3}), (2, {"who": "Teo", "by": 2}), (5, {"who": "Ona", "by": 1}), (7, {"who": "Teo", "by": 7}),
    ]  # fmt: skip
    assert ruled(project, 'events("scored")') == [0, 0, 2, 2, 2, 3, 0, 1]
    assert ruled(project, 'last("scored", "who")')[2:6] == ["Teo", "Teo", "Teo", "Ona"]
    assert tracks.state(tracks.bound.widgets["w"], 2)["lines"] == "Ona +3\nTeo +2"


@pytest.mark.parametrize(
    ("times", "counts"),
    [("", [0, 1, 0, 0, 0, 0, 0, 1]), ("2.9", [0, 2, 0, 0, 0, 0, 0, 2]), ("-1", [0] * 8), ("0", [0] * 8),
     ("missing", [0] * 8), ("hull", [0, 8, 0, 0, 0, 0, 0, 6])],
)  # fmt: skip
def test_how_often_it_happens_is_a_whole_number_and_never_missing(times: str, counts: list[int]) -> None:
    tracks = over(only(EventKind(name="blow", when="change(hull) < 0", times=times)))
    (source,) = tracks.bound.scope.event("blow").derived
    assert tracks.column(source.count).data.tolist() == counts
    assert len(tracks.occurrences("blow")) == sum(counts)


def test_derived_values_and_events_may_use_one_another() -> None:
    project = with_rule(GAME, RulePlace("derived", "beaten"), 'events("kill") * 10')
    again = EventKind(name="tenth", args={"n": "float"}, when="changed(beaten)", values={"n": "beaten"})
    assert happened(over(with_event(project, again)), "tenth") == [(2, {"n": 10}), (4, {"n": 20}), (7, {"n": 10})]


def test_a_cycle_names_its_members() -> None:
    first = EventKind(name="a", when="x > 0")
    second = EventKind(name="b", when='event("a")')
    project = with_rule(replace(GAME, events=(first, second), widgets=()), RulePlace("derived", "x"), 'events("b")')
    found = bind(project).errors
    assert [(place.what, place.owner) for place in found] == [("derived", "x"), ("event", "a"), ("event", "b")]
    assert {error.problem for error in found.values()} == {'the derived value needs itself: x -> "b" -> "a" -> x'}


@pytest.mark.parametrize(
    ("changes", "part", "problem"),
    [
        ({"when": "hull"}, "when", "expected a condition, but this is a number"),
        ({"when": "hul > 1"}, "when", "no variable `hul`: did you mean `hull`?"),
        ({"times": '"two"'}, "times", "expected a number, but this is a text"),
        ({"values": {"who": "hull"}}, "values.who", "expected a text, but this is a number"),
        ({"values": {"whose": "hull"}}, "values.whose", "the event has no argument 'whose'"),
        ({"over": "crewe"}, "over", "there is no roster 'crewe': did you mean 'crew'?"),
        ({"when": ""}, "when", "it has rules for arguments, but none for when it happens"),
        ({"when": "crew[slot].scrap > 0"}, "when", "`slot` works only in a widget repeated over a roster, or on a split screen"),
    ],
)  # fmt: skip
def test_each_wrong_rule_is_reported_at_its_place_and_only_there(
    changes: dict[str, object], part: str, problem: str
) -> None:
    bound = bind(replace(GAME, events=(replace(KILL, **changes),)))
    assert {place.within: error.problem for place, error in bound.errors.items() if place.what == "event"} == {
        part: problem
    }
    assert not any(place.what == "widget" for place in bound.errors)


def test_what_uses_a_broken_event_says_so() -> None:
    broken = replace(GAME, events=(replace(KILL, when="hul > 1"),))
    label = Widget(id="n", kind="counter", inputs={"value": 'events("kill")'})
    found = bind(broken.with_widget(label)).errors[RulePlace("widget", "n", "inputs", "value")]
    assert found.problem == 'the event "kill" has an error of its own'


def test_its_rules_are_places_like_any_other() -> None:
    places = [place for place in rule_places(GAME) if place.what == "event"]
    assert [(place.within, rule_at(GAME, place)) for place in places] == [
        ("when", "changed(kill_id)"), ("values.who", "killer"), ("values.whom", "victim"),
    ]  # fmt: skip
    assert with_rule(GAME, places[1], " ").events[0].values == {"whom": "victim"}
    assert event_renamed(GAME, "kill", "defeat").events[0].when == "changed(kill_id)"


@pytest.mark.parametrize(
    ("name", "happening", "frames", "first"),
    [
        ("hull", "changes", [1, 3, 4, 7], {"by": -1.0, "to": 8.0}),
        ("hull", "falls", [1, 7], {"by": 1.0, "to": 8.0}),
        ("kill_id", "rises", [2, 4, 7], {"by": 1.0, "to": 1.0}),
        ("killer", "changes", [2, 7], {"to": "Ona"}),
        ("crew[1].scrap", "rises", [2, 2, 5, 7], {"who": "Ona", "by": 3.0, "to": 3.0}),
    ],
)  # fmt: skip
def test_an_event_is_made_of_what_a_variable_does(
    name: str, happening: Happening, frames: list[int], first: dict[str, Value]
) -> None:
    event = event_of(GAME, name, happening)
    found = happened(over(only(event)), event.name)
    assert [frame for frame, _ in found] == frames
    assert found[0][1] == first
    assert event_of(with_event(GAME, event), name, happening, ["nothing"]).name == f"{event.name}_2"


def test_one_that_always_happens_is_bounded() -> None:
    count = 20_000
    trace = Trace.make("long", np.arange(count) / 60, {"hull": Column.of([1.0] * count)})
    project = replace(
        GAME, events=(EventKind(name="tick", when="true", times="1e12"),),
        widgets=(Widget(id="w", kind="feed", options={"lines": {"tick": "tick"}, "most": 3}),),
    )  # fmt: skip
    tracks = Tracks(bind(project), trace)
    assert len(tracks.occurrences("tick")) == 100 * count
    assert tracks.state(tracks.bound.widgets["w"], count - 1)["lines"] == "tick\ntick\ntick"
