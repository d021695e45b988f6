"""Commands are functions from one snapshot to the next: what each changes, and what holds whatever is done in a row."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.places import RulePlace
from avrin.editor import arranging, by_hand, edits, layout, opening, playback, selecting, viewing
from avrin.editor.changes import PARTS, Change, StatePart
from avrin.editor.evaluation import evaluated, pending_tracks
from avrin.editor.snapshot import Reading, Selection, Snapshot
from avrin.errors import AvrinError
from avrin.i18n.own_language import OWN
from avrin.project.project import (
    Action,
    Assignment,
    Place,
    Plate,
    Project,
    Recording,
    Region,
    Screen,
    Variable,
    Widget,
)
from avrin.storage.view_state import ViewState
from avrin.trace.frames import Column, Event, Trace

VALUE = RulePlace("widget", "bar", "inputs", "value")
WIDGETS = (
    Widget(id="bar", kind="bar", inputs={"value": "hp / 100"}, place=Place(offset=(10.0, 10.0), size=(100.0, 20.0))),
    Widget(id="count", kind="counter", inputs={"value": "ore"}, place=Place(offset=(10.0, 40.0), size=(60.0, 20.0)),
           group="left"),
    Widget(id="note", kind="label", inputs={"text": "deep"}, place=Place(offset=(10.0, 90.0), size=(80.0, 20.0)), group="left"),
)  # fmt: skip
PROJECT = Project(
    title="Dive",
    variables=(Variable(name="hp", type="float", low=0, high=100), Variable(name="ore", type="int", start=0)),
    widgets=WIDGETS,
    screens=(Screen(name="desk", size=(1920, 1080)), Screen(name="tall", size=(1080, 1920))),
    plates=(Plate(name="sea", picture="sea.png"), Plate(name="cave", picture="cave.png")),
    actions=(Action(label="mine", does=(Assignment(set="ore", to="ore + 1"),)),),
    traces=(Recording(path="a.csv"),),
)


def recorded(name: str = "a") -> Trace:
    frames = 30
    return Trace.make(
        name, np.arange(frames) / 10,
        {"hp": Column("number", np.linspace(100.0, 42.0, frames)), "ore": Column("number", np.repeat([0.0, 1.0, 4.0], 10)),
         "depth": Column("number", np.arange(frames) * 2.0)},
    )  # fmt: skip


def begun(project: Project = PROJECT) -> Snapshot:
    return opening.begin(Snapshot.empty(), Path("/dive/p.avrin"), project, None, recorded(), "a.csv")


NOW = begun()
OTHER = recorded("b")
KEPT: set[StatePart] = {"access", "grown", "message", "waiting"}  # with another project
# What each command changes, of a project that was just opened, with nothing but the first widget selected.
ACTS: dict[str, tuple[Callable[[Snapshot], Snapshot], set[StatePart]]] = {
    "an edit": (lambda now: edits.edit(now, replace(PROJECT, title="x"), "x"), {"history", "project", "tracks"}),
    "the same project": (lambda now: edits.edit(now, replace(PROJECT), "x"), set()),
    "a rule": (lambda now: edits.set_rule(now, VALUE, "hp / 50"), {"history", "project", "tracks"}),
    "the same name": (lambda now: edits.rename(now, "hp", "hp"), set()),
    "no such variable": (lambda now: edits.set_variable(now, "nowhere", low=0), set()),
    "nothing to undo": (edits.undo, set()),
    "nothing to redo": (edits.redo, set()),
    "nothing to revert": (edits.revert, set()),
    "saved": (lambda now: opening.saved_as(now, Path("/dive/other.avrin")), {"history", "file"}),
    "sealed": (edits.seal, set()),
    "another widget": (lambda now: selecting.select_widget(now, "note"), {"selection"}),
    "the same widget": (lambda now: selecting.select_widget(now, "bar"), set()),
    "another frame": (lambda now: playback.go_to(now, 7), {"playhead"}),
    "the same frame": (lambda now: playback.go_to(now, 0), set()),
    "before the start": (lambda now: playback.go_to(now, -3), set()),
    "playing": (lambda now: playback.set_playing(now, playing=True), {"playing"}),
    "not playing": (lambda now: playback.set_playing(now, playing=False), set()),
    "faster": (lambda now: playback.change_speed(now, 1), {"playing"}),
    "another screen": (lambda now: viewing.show_on(now, PROJECT.screens[1]), {"view"}),
    "another plate": (lambda now: viewing.show_over(now, PROJECT.plates[1]), {"view"}),
    "another language": (lambda now: viewing.show_in(now, "de"), {"view"}),
    "texts anew": (viewing.show_texts_again, {"view"}),
    "another ground": (lambda now: viewing.put_over(now, "#102030"), {"ground"}),
    "the same ground": (lambda now: viewing.put_over(now, ""), set()),
    "a pin": (lambda now: by_hand.pin(now, "hp", 5.0), {"pins", "trace", "tracks"}),
    "no pin": (by_hand.unpin, set()),
    "a drive": (by_hand.start_drive, {"recording", "trace", "tracks", "driving", "playing", "view"}),
    "no drive to stop": (by_hand.stop_drive, set()),
    "no drive to go on": (lambda now: by_hand.advance_drive(now, 1.0), set()),
    "another recording": (lambda now: opening.show(now, OTHER, "b.csv"), {"recording", "trace", "tracks", "view"}),
    "a recording read": (lambda now: opening.read_in(now, {Path("/b"): Reading(OTHER, {})}), {"recordings"}),
    "nothing read": (lambda now: opening.read_in(now, {}), set()),
    "hidden": (lambda now: layout.hide(now, ["note"]), {"layout"}),
    "a clicked copy": (lambda now: layout.show_slot(now, "note", 2), set()),
    "a message": (lambda now: now.said("hello"), {"message"}),
    "another window": (lambda now: opening.set_access(now, read_only=True), {"access"}),
    "another project": (lambda now: opening.begin(now, None, PROJECT, None), {*PARTS} - KEPT),
}  # fmt: skip


@pytest.mark.parametrize("act", ACTS)
def test_each_command_changes_these_parts_and_leaves_the_snapshot_it_began_with(act: str) -> None:
    do, parts = ACTS[act]
    before = {name: getattr(NOW, name) for name in NOW.__struct_fields__}
    assert do(NOW).changes_since(NOW) == parts
    assert {name: getattr(NOW, name) for name in before} == before


def consistent(now: Snapshot) -> None:
    assert now.tracks.bound is now.bound
    assert now.tracks.trace is now.trace
    assert now.waiting is None
    assert now.bound.project is now.project
    assert 0 <= now.frame < max(1, len(now.trace))
    assert now.view.plate is None or now.view.plate in now.project.plates
    assert {*now.chosen} <= {widget.id for widget in now.project.widgets}
    for name, value in now.pins.items():
        assert now.trace.columns[name][now.frame] == value


def ruled(now: Snapshot, text: str) -> Snapshot:
    known = any(widget.id == "bar" and widget.kind == "bar" for widget in now.project.widgets)
    return edits.set_rule(now, VALUE, text) if known else now


STEPS: tuple[Callable[[Snapshot], Snapshot], ...] = (
    lambda now: edits.edit(now, replace(now.project, plates=()), "no plates"),
    lambda now: edits.edit(now, replace(now.project, plates=PROJECT.plates, screens=()), "no screens"),
    lambda now: ruled(now, "hp / 10"), lambda now: ruled(now, "hp /"),
    lambda now: edits.rename(now, "hp", "health"),
    edits.undo, edits.redo, edits.revert, edits.seal, edits.mark_saved,
    selecting.select_all, selecting.select_like, selecting.select_siblings, lambda now: selecting.toggle(now, "note"),
    arranging.duplicate, arranging.remove, arranging.group, arranging.ungroup, arranging.square,
    lambda now: arranging.nudge(now, 1, 0), lambda now: arranging.change_kind(now, "label"),
    lambda now: playback.go_to(now, 12), playback.next_moment, playback.previous_moment,
    lambda now: by_hand.pin(now, "hp", 3.0), by_hand.unpin,
    by_hand.start_drive, lambda now: by_hand.advance_drive(now, 0.35), by_hand.stop_drive, by_hand.restart_drive,
    lambda now: by_hand.press_action(now, "mine"),
    lambda now: opening.show(now, OTHER, ""), lambda now: opening.show(now, None, ""),
    lambda now: opening.read_in(now, {Path("/b"): Reading(OTHER, {})}),
    lambda now: viewing.show_on(now, [*now.project.screens, now.view.screen][-1]),
    lambda now: viewing.show_over(now, [None, *now.project.plates][-1]),
)  # fmt: skip


@given(st.lists(st.sampled_from(range(len(STEPS))), max_size=14))
def test_whatever_is_done_in_a_row_everything_fits_together_and_the_history_leads_back(steps: list[int]) -> None:
    now = NOW
    for step in steps:
        try:
            now = STEPS[step](now)
        except AvrinError:
            continue  # a name that is gone
        pinned = {name: value for name, value in now.pins.items() if name in now.trace.columns}
        consistent(replace(now, pins=pinned))
    while now.history.at:
        now = edits.undo(now)
    assert now.project == PROJECT


def test_undo_and_redo_keep_what_is_selected_through_another_name() -> None:
    now = arranging.rename_widget(selecting.select_widgets(NOW, "note", "bar"), "note", "words")
    assert now.selection.widgets == ("words", "bar")
    assert edits.undo(now).selection.widgets == ("note", "bar")
    assert edits.redo(edits.undo(now)).selection.widgets == ("words", "bar")
    now = edits.rename(selecting.select_variable(NOW, "hp"), "hp", "health")
    assert now.selection.variable == "health"
    assert now.project.widget("bar").inputs["value"] == "health / 100"
    assert edits.undo(now).selection.variable == "hp"
    assert edits.undo(now).message.text == "Undid: rename hp"
    assert edits.redo(edits.undo(now)).message.text == "Did again: rename hp"
    assert edits.go_to_step(now, 0).message.text == "Went back to: opened"


def test_typing_is_one_step_and_selecting_something_else_ends_it() -> None:
    now = edits.set_rule(edits.set_rule(NOW, VALUE, "hp / 1"), VALUE, "hp / 10")
    assert len(now.history.steps) == 2
    now = edits.set_rule(selecting.select_widget(now, "note"), VALUE, "hp / 100 + 1")
    assert len(now.history.steps) == 3
    assert edits.undo(now).rule_text(VALUE) == "hp / 10"


def test_a_rule_declares_the_recorded_names_it_uses() -> None:
    now = edits.set_rule(NOW, VALUE, "depth / 60")
    assert now.variable("depth") is not None
    assert edits.set_rule(NOW, VALUE, "dept / 60").variable("depth") is None
    declared = edits.set_variable(NOW, "depth", unit="m")
    assert declared.project.all_variables()["depth"].unit == "m"
    assert declared.history.undo_label == "unit of depth"


def test_what_takes_long_waits_and_is_shown_when_it_is_evaluated(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("avrin.editor.evaluation.AT_ONCE", 0)
    now = edits.set_rule(NOW, VALUE, "hp / 50")
    assert now.changes_since(NOW) == {"history", "project", "waiting"}
    assert (now.bound, now.tracks) == (NOW.bound, NOW.tracks), "the earlier result is shown meanwhile"
    tracks = pending_tracks(now)
    assert tracks is not None
    done = evaluated(now, tracks.bound, tracks)
    assert done.tracks.state(done.bound.widgets["bar"], 29)["fraction"] == pytest.approx(0.84)
    assert pending_tracks(done) is None


def test_pins_hold_over_the_whole_recording_until_they_are_taken_away() -> None:
    now = by_hand.pin(by_hand.pin(NOW, "hp", 50.0), "ore", None)
    assert {now.trace.columns["hp"][frame] for frame in range(30)} == {50.0}
    assert now.value("ore") is None
    assert now.tracks.state(now.bound.widgets["bar"], 29)["fraction"] == 0.5
    assert by_hand.pin(now, "hp", 50.0) is now
    assert by_hand.unpin(now, "ore").pins == {"hp": 50.0}
    free = by_hand.unpin(now)
    assert free.pins == {}
    assert free.value("hp") == 100.0
    project, _ = edits.set_rule(NOW, RulePlace("derived", "half"), "hp / 2"), None
    assert by_hand.pin(project, "half", 1.0).message.error
    assert by_hand.pin(project, "half", 1.0).pins == {}


def test_a_drive_grows_by_whole_frames_is_stopped_and_goes_on() -> None:
    now = by_hand.start_drive(by_hand.pin(playback.go_to(NOW, 10), "hp", 5.0))
    assert (now.playing, now.growing, now.pins, len(now.trace)) == (True, True, {}, 11)
    now = by_hand.advance_drive(by_hand.press_action(now, "mine"), 0.25)
    assert (len(now.trace), now.frame, now.value("ore")) == (13, 12, 2.0)
    now = by_hand.advance_drive(now, 0.04)
    assert len(now.trace) == 13
    now = by_hand.advance_drive(now, 0.04)
    assert len(now.trace) == 14, "what was left over counts"
    stopped = by_hand.stop_drive(now)
    assert (stopped.playing, stopped.growing, stopped.unkept, stopped.live) == (False, False, True, None)
    again = by_hand.start_drive(stopped)
    assert again.live is not None
    assert again.drive is not None
    assert again.drive.pending == 0.0
    assert stopped.drive is not None
    assert again.live is stopped.drive.live, "at its end it goes on"
    anew = by_hand.start_drive(playback.go_to(stopped, 3))
    assert anew.live is not stopped.drive.live
    saved = by_hand.drive_saved(stopped, "traces/by-hand-1.csv")
    assert (saved.unkept, saved.trace_name) == (False, "traces/by-hand-1.csv")
    assert [one.path for one in saved.project.traces] == ["a.csv", "traces/by-hand-1.csv"]
    assert opening.show(stopped, OTHER, "b.csv").drive is None
    assert len(by_hand.advance_drive(anew, 1000.0).trace) == 4 + 60, "after a long pause, no more than that"


def test_recordings_saved_at_other_paths_are_followed_and_the_one_before_a_drive_is_known() -> None:
    driven = by_hand.stop_drive(by_hand.start_drive(NOW))
    assert (driven.trace_name, driven.latest) == ("", "a.csv")
    saved = opening.follow_paths(driven, {"a.csv": "traces/a.csv"})
    assert (saved.trace_name, saved.latest) == ("", "traces/a.csv")
    shown = opening.follow_paths(NOW, {"a.csv": "traces/a.csv"})
    assert (shown.trace_name, shown.latest) == ("traces/a.csv", "traces/a.csv")
    assert opening.follow_paths(NOW, {}).trace_name == "a.csv"


def test_of_many_selected_the_locked_stay_and_it_is_reported() -> None:
    now = selecting.select_widgets(layout.lock(NOW, ["bar"]), "bar", "note")
    moved = arranging.nudge(now, 3, 4)
    assert moved.project.widget("bar").place.offset == (10.0, 10.0)
    assert moved.project.widget("note").place.offset == (13.0, 94.0)
    assert moved.message.text.startswith("1 of them: locked")
    assert len(arranging.nudge(moved, 1, 0).history.steps) == len(moved.history.steps), "steps in a row are one"
    only = arranging.nudge(selecting.select_widget(now, "bar"), 1, 1)
    assert only.project == PROJECT
    assert only.message.text.startswith(f"{WIDGETS[0].title}: locked")


def test_what_is_selected_by_kind_group_and_sight() -> None:
    two = arranging.duplicate(selecting.select_widget(NOW, "bar"))
    copy = two.selection.widget
    assert selecting.select_like(two).selection.widgets == (copy, "bar")
    assert selecting.select_siblings(selecting.select_widget(NOW, "count")).selection.widgets == ("count", "note")
    assert selecting.select_siblings(selecting.select_widget(NOW, "bar")).selection.widgets == ("bar",)
    away = layout.lock(layout.hide(NOW, ["bar"]), ["note"])
    assert selecting.select_all(away).selection.widgets == ("count",)
    assert selecting.toggle(selecting.toggle(NOW, "note"), "bar").selection == Selection(widget="note")


def test_hiding_all_of_the_hidden_shows_them() -> None:
    some = layout.hide(NOW, ["bar", "note", "note"])
    assert some.hidden == ("bar", "note")
    assert layout.hide(some, ["bar", "count"]).hidden == ("bar", "note", "count")
    assert layout.hide(some, ["note", "bar"]).hidden == ()
    one = arranging.hide_selected(NOW)
    assert one.message.text == f"{WIDGETS[0].title}: {layout.HIDDEN}"
    assert arranging.hide_selected(one).message.text == f"{WIDGETS[0].title}: visible again"
    assert arranging.lock_selected(arranging.lock_selected(NOW)).message.text == f"{WIDGETS[0].title}: unlocked"
    assert layout.free_all(layout.lock(some, ["bar"])).layout == ViewState()
    assert arranging.remove(some).hidden == ("note",), "one that is gone is not hidden"


def test_lanes_fold_and_are_ordered() -> None:
    now = layout.fold(layout.fold(NOW, "crew", opened=True), "boats", opened=True)
    assert now.layout.unfolded == ("crew", "boats")
    assert layout.fold(now, "crew", opened=False).layout.unfolded == ("boats",)
    assert layout.fold(now, "crew", opened=True).layout.unfolded == ("boats", "crew")
    assert layout.fold_all(now).layout.unfolded == ()
    assert layout.order_lanes(now, "by kind").layout.order == "by kind"
    by = layout.order_lanes_by_hand(layout.hide(NOW, ["note"]), ["widget note", "widget bar"])
    assert (by.layout.order, by.layout.by_hand) == ("by hand", ("widget note", "widget bar"))
    named = layout.layout_renamed(layout.lock(by, ["note"]), "note", "words").layout
    assert (named.hidden, named.locked, named.by_hand) == (("words",), ("words",), ("widget words", "widget bar"))


def test_a_copy_is_pasted_beside_what_lies_there_already() -> None:
    from avrin.edits.clipboard import copied

    text = copied(PROJECT, ["bar"])
    once = arranging.paste(NOW, text)
    made = once.project.widget(once.selection.widget)
    assert made.place.offset == (34.0, 34.0)
    twice = arranging.paste(once, text)
    assert twice.project.widget(twice.selection.widget).place.offset == (58.0, 58.0)
    assert twice.message.text.startswith("Pasted ")
    with pytest.raises(AvrinError):
        arranging.paste(NOW, "no widgets")


@pytest.mark.parametrize(
    ("across", "down", "good"), [(1, 1, False), (2, 1, True), (20, 20, True), (401, 1, False), (0, 5, False)]
)
def test_a_grid_of_copies_has_its_limits(across: int, down: int, good: bool) -> None:
    if not good:
        with pytest.raises(AvrinError, match="not a valid grid"):
            arranging.repeat(NOW, across, down)
        return
    made = arranging.repeat(NOW, across, down)
    assert len(made.project.widgets) == len(WIDGETS) + across * down - 1
    assert len(made.chosen) == across * down


def test_three_or_more_are_distributed_and_fewer_are_told_so() -> None:
    two = arranging.distribute(selecting.select_widgets(NOW, "bar", "note"), across=False)
    assert two.project == PROJECT
    assert two.message.text == "Select at least three widgets to distribute"
    three = arranging.distribute(selecting.select_all(NOW), across=False)
    tops = [three.project.widget(ident).place.offset[1] for ident in ("bar", "count", "note")]
    assert tops == [10.0, 50.0, 90.0]


def test_another_kind_says_what_it_cannot_keep() -> None:
    made = arranging.change_kind(NOW, "panel")
    assert made.project.widget("bar").kind == "panel"
    assert "A panel has no" in made.message.text
    assert arranging.change_kind(NOW, "bar").message is NOW.message


def test_the_recording_chooses_the_plate_and_passing_on_to_another_one_is_a_change_of_the_view() -> None:
    plates = (
        Plate(name="sea", picture="sea.png", when="depth < 20"),
        Plate(name="cave", picture="cave.png", when="depth >= 20"),
    )
    now = begun(replace(PROJECT, plates=plates, variables=(*PROJECT.variables, Variable(name="depth", type="float"))))
    assert now.view.follows
    assert (now.plate, playback.go_to(now, 10).plate) == plates
    assert playback.go_to(now, 9).changes_since(now) == {"playhead"}
    assert playback.go_to(now, 10).changes_since(now) == {"playhead", "view"}
    fixed = viewing.show_over(now, plates[1])
    assert (fixed.view.follows, fixed.plate) == (False, plates[1])
    assert viewing.show_over_recorded(fixed).plate == plates[0]


def test_a_screen_and_a_plate_that_are_gone_are_followed_by_those_of_the_same_name() -> None:
    now = viewing.show_over(viewing.show_on(NOW, PROJECT.screens[1]), PROJECT.plates[1])
    wider = replace(PROJECT.screens[1], size=(1200, 1920))
    newer = replace(PROJECT.plates[1], picture="deep.png")
    made = edits.edit(
        now, replace(PROJECT, screens=(PROJECT.screens[0], wider), plates=(PROJECT.plates[0], newer)), "x"
    )
    assert (made.view.screen, made.view.plate) == (wider, newer)
    gone = edits.edit(now, replace(PROJECT, screens=PROJECT.screens[:1], plates=PROJECT.plates[:1]), "x")
    assert (gone.view.screen, gone.view.plate) == (PROJECT.screens[0], PROJECT.plates[0])
    assert edits.edit(now, replace(PROJECT, plates=()), "x").view.plate is None
    assert now.view.language == OWN


def test_playback_begins_anew_at_the_end_and_walks_the_moments() -> None:
    end = playback.go_to(NOW, 99)
    assert end.frame == 29
    assert playback.set_playing(end, playing=True).frame == 0
    assert playback.set_playing(playback.go_to(NOW, 28), playing=True).frame == 28
    count = selecting.select_widget(NOW, "count")
    at = playback.moments(count).tolist()
    assert at == sorted(at)
    assert playback.next_moment(playback.go_to(count, at[-1])).frame == at[-1]
    assert playback.previous_moment(playback.go_to(count, at[0])).frame == at[0]
    speeds = [playback.change_speed(NOW, step).speed for step in (-9, -1, 0, 1, 9)]
    assert speeds == [0.25, 0.5, 1.0, 2.0, 4.0]


def test_events_of_a_recording_that_is_read_are_known_to_rules() -> None:
    other = Trace.make("b", np.arange(3.0), {"hp": Column("number", np.ones(3))}, events=[Event(1.0, "hit", {})])
    now = edits.edit(NOW, replace(PROJECT, traces=(*PROJECT.traces, Recording(path="b.csv"))), "add b")
    assert "hit" not in now.bound.events
    read = opening.read_in(now, {now.identity(now.project.traces[1]): Reading(other, {})})
    assert "hit" in read.bound.events
    assert read.changes_since(now) == {"recordings", "tracks"}
    assert not read.history.edited or now.history.edited


def test_a_part_of_a_split_screen_is_seen_as_its_player_sees_it() -> None:
    left, right = (
        Region(name=name, box=(x, 0.0, 0.5, 1.0), slot=slot) for name, x, slot in (("left", 0, 1), ("right", 0.5, 2))
    )
    now = begun(replace(PROJECT, screens=(Screen(name="couch", size=(1920, 1080), views=(left, right)),)))
    assert now.bound.slot == 1, "it begins with the first part"
    other = viewing.show_on(now, now.project.whole_screens[1])
    assert other.bound.slot == 2
    assert other.tracks.bound is other.bound
    assert viewing.show_on(other, other.view.screen).bound is other.bound, "nothing is bound anew for the same player"


def test_a_change_is_of_any_of_the_parts_asked_for() -> None:
    change = Change(frozenset({"tracks", "history"}))
    assert change.of("view", "tracks")
    assert not change.of("view")
