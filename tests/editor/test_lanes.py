"""The lanes and their order, worked out by hand; their notes; and recordings as they are read for all."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from avrin.binding.places import RulePlace
from avrin.editor import lanes as module
from avrin.editor import layout
from avrin.editor.by_hand import pin
from avrin.editor.edits import edit
from avrin.editor.lane_notes import Note, Notes
from avrin.editor.lanes import FOLD, Lane, key_of, lanes, moved_by_hand
from avrin.editor.opening import begin, read_in, show
from avrin.editor.recordings import as_known, opened, read_alike
from avrin.editor.snapshot import Reading, Snapshot, sources
from avrin.findings.finding import Finding
from avrin.project.project import Derived, Project, Recording, Variable, Widget
from avrin.trace.frames import Column, Event, Trace

NAMES = ("hp", "air", "depth", "crew[0].scrap", "crew[1].scrap")


def trace(name: str = "a", *names: str) -> Trace:
    columns = {one: Column("number", np.array([1.0, 2.0, 3.0])) for one in names or NAMES}
    return Trace.make(name, np.arange(3.0), columns, events=[Event(1.0, "hit", {})])


PROJECT = Project(
    variables=(Variable(name="hp", type="float"), Variable(name="air", type="float"), Variable(name="leak", type="bool")),
    derived=(Derived(name="share", rule="hp / 100"),),
    widgets=(
        Widget(id="back", kind="panel"),
        Widget(id="bar", kind="bar", inputs={"value": "hp / 100", "caption": "Hull {air | 0}"}),
        Widget(id="note", kind="label", inputs={"text": "{hp | 0}"}),
    ),
)  # fmt: skip
NOW = begin(Snapshot.empty(), None, PROJECT, None, trace(), "a.csv")


def none(_name: str) -> list[Finding]:
    return []


def keys(now: Snapshot, offered: Sequence[str] = (), **more: str) -> list[str]:
    return [key_of(lane) for lane in lanes(now, offered, none, **more)]


USUAL = [
    "widget bar", "variable hp", "variable air", "widget note", "widget back", "variable share", "variable leak",
    "variable depth", "roster crew", "event hit",
]  # fmt: skip


def test_widgets_come_first_each_with_its_variables_once_and_what_nothing_feeds_last() -> None:
    assert keys(NOW) == USUAL
    by = {lane.name: lane for lane in lanes(NOW, (), none)}
    assert by["share"] == Lane("share", "variable", module.CURVE_HEIGHT, "number", True, True)
    assert by["leak"] == Lane("leak", "variable", module.FLAT_HEIGHT, "flag", True, False)
    assert by["depth"] == Lane("depth", "variable", module.CURVE_HEIGHT, "number", False, False)
    assert by["hit"] == Lane("hit", "event", module.FLAT_HEIGHT, declared=False)
    assert by["crew"] == Lane("crew", "roster", module.FOLD_HEIGHT)


def test_rosters_open_and_close() -> None:
    now = layout.fold(NOW, "crew", opened=True)
    assert keys(now)[8:11] == ["roster crew", "variable crew[0].scrap", "variable crew[1].scrap"]
    assert next(lane for lane in lanes(now, (), none) if lane.sort == "roster").open


@pytest.mark.parametrize(
    ("find", "found"),
    [
        ("air", ["widget bar", "variable air"]),  # a widget for the sake of its variable
        (" HP ", ["widget bar", "variable hp", "widget note"]),
        ("note", ["widget note", "variable hp"]),
        ("scrap", ["roster crew", "variable crew[0].scrap", "variable crew[1].scrap"]),
        ("crew", ["roster crew", "variable crew[0].scrap", "variable crew[1].scrap"]),
        ("hit", ["event hit"]),
        ("share", ["variable share"]),
        ("nothing", []),
    ],
)
def test_what_is_looked_for(find: str, found: list[str]) -> None:
    assert keys(NOW, find=find) == found


def test_the_edited_variable_has_its_lane_whatever_is_looked_for_and_room_for_its_form() -> None:
    assert keys(NOW, find="hit", editing="depth") == ["variable depth", "event hit"]
    assert keys(NOW, find="hit", editing="crew[1].scrap") == ["roster crew", "variable crew[1].scrap", "event hit"]
    assert keys(NOW, find="hit", editing="air") == ["widget bar", "variable air", "event hit"]
    (edited,) = [lane for lane in lanes(NOW, (), none, editing="depth") if lane.name == "depth"]
    assert edited.height == module.EDIT_HEIGHT


@pytest.mark.parametrize(("count", "folded"), [(8, False), (9, True)])
def test_many_that_nothing_uses_are_folded_but_for_what_is_offered(count: int, folded: bool) -> None:
    names = [f"x{number}" for number in range(count)]
    now = begin(Snapshot.empty(), None, Project(), None, trace("a", *names))
    assert (f"fold {FOLD}" in keys(now)) is folded
    if not folded:
        return
    assert [lane.count for lane in lanes(now, (), none) if lane.sort == "fold"] == [count]
    many = begin(Snapshot.empty(), None, Project(), None, trace("a", *names, "x9", "y"))
    assert keys(many, ["y"]) == ["variable y", "event hit", f"fold {FOLD}"]
    assert keys(many, ["y"], editing="x3")[:2] == ["variable x3", "variable y"]
    wide = layout.fold(many, FOLD, opened=True)
    assert len(keys(wide)) == 10 + 1 + 2
    assert keys(many, find="x3") == ["variable x3"]


def test_lanes_by_kind_and_by_trouble() -> None:
    kinds = keys(layout.order_lanes(NOW, "by kind"))
    assert [key for key in kinds if key.startswith("widget")] == ["widget bar", "widget note", "widget back"]
    assert kinds.index("variable leak") > kinds.index("variable depth"), "numbers before flags"
    severe = {"depth": "error", "bar": "hint", "hit": "warning"}

    def found(name: str) -> list[Finding]:
        return [Finding(name, "x", "x", "x", severity=severe[name])] if name in severe else []  # type: ignore[arg-type]

    now = layout.order_lanes(NOW, "by trouble")
    order = [key_of(lane) for lane in lanes(now, (), found)]
    assert order[:3] == ["variable depth", "event hit", "widget bar"]
    assert order[3:5] == ["variable hp", "variable air"], "with their widget"


def test_lanes_by_hand_keep_their_place_and_new_ones_follow_their_predecessor() -> None:
    moved = moved_by_hand(NOW, (), none, "variable depth", "widget note")
    now = layout.order_lanes_by_hand(NOW, moved)
    assert keys(now)[:5] == ["widget bar", "variable hp", "variable air", "variable depth", "widget note"]
    assert moved_by_hand(NOW, (), none, "widget bar", "")[-1] == "widget bar"
    apart = layout.order_lanes_by_hand(NOW, moved_by_hand(NOW, (), none, "variable air", "event hit"))
    assert keys(apart)[-2:] == ["variable air", "event hit"], "out of its widget's block"
    more = edit(now, PROJECT.with_widget(Widget(id="later", kind="label", inputs={"text": "x"})), "x")
    at = keys(more)
    assert at.index("widget later") == at.index("widget note") + 1


@pytest.mark.parametrize(
    ("values", "variable", "notes"),
    [
        ([1.0, 2.0, 3.0], Variable(name="hp", type="float", low=0, high=5), []),
        (
            [-1.0, 2.0, 9.0],
            Variable(name="hp", type="float", low=0, high=5),
            ["below 0 for 1.0 s", "above 5 for 1.0 s"],
        ),
        ([0.0, 2.0, 5.0], Variable(name="hp", type="float", low=0, high=5), []),
        ([-1.0, 2.0, 9.0], Variable(name="hp", type="float"), []),
        ([np.nan] * 3, None, ["always missing"]),
        ([1.0, np.nan, 3.0], None, ["missing 33%"]),
        ([7.0, 7.0, 7.0], None, ["never changes"]),
    ],
)
def test_notes_say_what_is_odd_and_who_uses_it(
    values: list[float], variable: Variable | None, notes: list[str]
) -> None:
    recorded = Trace.make("a", np.arange(3.0), {"hp": Column("number", np.array(values))})
    now = begin(Snapshot.empty(), None, Project(variables=(variable,) if variable else ()), None, recorded)
    known = Notes()
    assert known.of(now, "hp") == [*(Note(text, odd=True) for text in notes), Note("unused")]
    used = edit(now, now.declared("hp").with_widget(Widget(id="w", kind="counter", inputs={"value": "hp"})), "x")
    assert known.of(used, "hp")[-1] == Note("1 widget")
    assert known.of(now, "nowhere") == [Note("unused")]


def test_what_the_snapshot_knows_of_names() -> None:
    assert NOW.undeclared("hp") is None
    assert NOW.undeclared("nowhere") is None
    guessed = NOW.undeclared("depth")
    assert guessed is not None
    assert guessed.type == "int"
    assert NOW.value("share") == 0.01
    broken = edit(NOW, replace(PROJECT, derived=(Derived(name="share", rule="hp /"),)), "x")
    assert RulePlace("derived", "share") in broken.bound.errors
    assert broken.value("share") is None
    assert NOW.users("hp") == ["bar", "note"]
    assert NOW.users("nowhere") == []
    assert sources(NOW.bound.widgets["bar"])[0] == "hp", "the main input's first"
    assert pin(NOW, "hp", 9.0).recorded_column("hp") is NOW.recorded_column("hp")
    assert NOW.seconds == 0.0


def test_a_recording_that_is_not_read_may_have_a_name() -> None:
    now = edit(NOW, replace(PROJECT, traces=(Recording(path="a.csv"), Recording(path="b.csv"))), "x")
    first, other = now.project.traces
    assert (now.may_have(first, "hp"), now.may_have(first, "mana")) == (True, False)
    assert now.may_have(other, "mana")
    read = read_in(now, {now.identity(other): Reading(trace("b", "mana"), {})})
    assert (read.may_have(other, "mana"), read.may_have(other, "hp")) == (True, False)


@pytest.fixture
def listed(tmp_path: Path) -> Snapshot:
    for name, frames in (("a", 3), ("b", 4), ("c", 5)):
        rows = "".join(f"{at},{at * 2}\n" for at in range(frames))
        (tmp_path / f"{name}.csv").write_text(f"t,hp\n{rows}")
    (tmp_path / "torn.csv").write_text("t,hp\n1,1\n0,1\n")
    traces = tuple(Recording(path=f"{name}.csv") for name in ("a", "b", "c", "torn"))
    project = Project(variables=(Variable(name="hp", type="float"),), traces=traces)
    shown = Trace.make("b", np.arange(4.0), {"hp": Column("number", np.arange(4.0) * 2)})
    return begin(Snapshot.empty(), tmp_path / "p.avrin", project, None, shown, "b.csv")


def test_every_listed_recording_is_read_once_and_the_visible_one_is_among_those_checked(listed: Snapshot) -> None:
    pauses: list[int] = []
    known, chosen, left = opened(listed, 1000, lambda: pauses.append(1))
    names = [listed.identity(one) for one in listed.project.traces]
    assert [path.name for path in chosen] == ["b.csv", "a.csv", "c.csv"], "what is seen comes first"
    assert (left, len(pauses)) == (0, 3)
    assert chosen[names[1]] is listed.recorded
    assert known[names[3]].trace is None, "unreadable, and known to be"
    again, same, _ = opened(read_in(listed, known), 1000, lambda: pauses.append(1))
    assert len(pauses) == 3, "nothing is read twice"
    assert all(same[path] is chosen[path] for path in chosen)
    assert again[names[3]] is known[names[3]]


@pytest.mark.parametrize(("most", "checked", "left"), [(3, 1, 2), (7, 2, 1), (11, 2, 1), (12, 3, 0)])
def test_more_frames_than_are_checked_are_left_out(listed: Snapshot, most: int, checked: int, left: int) -> None:
    _, chosen, out = opened(listed, most, lambda: None)
    assert (len(chosen), out) == (checked, left)


def test_another_entry_or_another_declaration_is_read_again(listed: Snapshot) -> None:
    known, _, _ = opened(listed, 1000, lambda: None)
    now, pauses = read_in(listed, known), list[int]()
    named = edit(
        now, replace(now.project, traces=(replace(now.project.traces[0], note="calm"), *now.project.traces[1:])), "x"
    )
    opened(named, 1000, lambda: pauses.append(1))
    assert pauses == [], "a note is for people"
    other = edit(now, replace(now.project, variables=(Variable(name="hp", type="text"),)), "x")
    opened(other, 1000, lambda: pauses.append(1))
    assert pauses
    first = now.project.traces[0]
    assert read_alike(first, replace(first, name="x", note="y"))
    assert not read_alike(first, replace(first, rate=30))


def test_what_was_read_already_is_the_same_object(listed: Snapshot) -> None:
    known, chosen, _ = opened(listed, 1000, lambda: None)
    now, first = read_in(listed, known), listed.project.traces[0]
    one = chosen[listed.identity(first)]
    copy = Trace(one.name, one.t, one.run, dict(one.columns), one.events, one.clock)
    assert as_known(now, first, copy) is one
    differs = Trace.make("a", np.arange(3.0), {"hp": Column("number", np.zeros(3))})
    assert as_known(now, first, differs) is differs
    assert as_known(listed, first, differs) is differs


def test_a_growing_recording_is_not_taken_for_the_listed_one(listed: Snapshot) -> None:
    driven = show(listed, trace("by hand", "hp"), "")
    known, chosen, _ = opened(driven, 1000, lambda: None)
    assert chosen[listed.identity(listed.project.traces[1])] is not driven.recorded
    assert len(known) == 4
