"""Rosters made, renamed, widened and taken apart: rules and recordings' names follow, and the way back leads back."""

from __future__ import annotations

import pytest

from avrin.binding.binding import bind
from avrin.binding.declarations import rename
from avrin.errors import AvrinError
from avrin.onboarding.recordings import begun, taken_in
from avrin.onboarding.rosters import rename_roster, widened, with_roster, without_roster
from avrin.project.project import Project, Recording, Widget
from avrin.storage.files import dumps, loads
from avrin.trace.frames import Column, Trace
from avrin.trace.naming import proposed


def recorded(*names: str) -> Trace:
    return Trace.make("t", [0.0, 1.0], {name: Column.of([1.0, 2.0]) for name in names})


@pytest.fixture
def project() -> Project:
    project, _ = begun([(Recording(path="traces/a.csv"), recorded("p1_hp", "p2_hp", "p3_hp", "Air Left"))])
    label = Widget(id="w", kind="label", inputs={"text": "{p[1].hp} {air_left}"})
    return project.with_widget(label).with_widget(
        Widget(id="r", kind="label", repeat="p", inputs={"text": "{p[slot].hp}"})
    )


def test_all_is_declared_under_plain_names_and_the_recording_keeps_its_own(project: Project) -> None:
    assert [v.name for v in project.variables] == ["air_left"]
    assert [(r.name, r.slots) for r in project.rosters] == [("p", 3)]
    assert project.traces[0].names == {
        "p1_hp": "p[0].hp", "p2_hp": "p[1].hp", "p3_hp": "p[2].hp", "Air Left": "air_left"
    }  # fmt: skip
    assert loads(dumps(project).encode())[0] == project


def test_taken_apart_its_slots_are_variables_and_rules_follow(project: Project) -> None:
    apart = without_roster(project, "p")
    assert [v.name for v in apart.variables] == ["air_left", "p1_hp", "p2_hp", "p3_hp"]
    assert apart.widget("w").inputs["text"] == "{p2_hp} {air_left}"
    assert apart.traces[0].names == {"Air Left": "air_left"}
    again = with_roster(apart, proposed(recorded("p1_hp", "p2_hp", "p3_hp").columns).rosters[0])
    assert again.widget("w").inputs["text"] == "{p[1].hp} {air_left}"
    assert (again.rosters, again.variables) == (project.rosters, project.variables)
    assert again.traces[0].names == project.traces[0].names


def test_renamed_every_place_follows(project: Project) -> None:
    other = rename_roster(project, "p", "diver")
    assert other.widget("r").repeat == "diver"
    assert other.widget("r").inputs["text"] == "{diver[slot].hp}"
    assert other.traces[0].names["p2_hp"] == "diver[1].hp"
    bind(other).raise_first()
    for name, told in (("air_left", "taken"), ("if", "word"), ("2x", "not a valid")):
        with pytest.raises(AvrinError, match=told):
            rename_roster(project, "p", name)


def test_widened_it_has_other_slots(project: Project) -> None:
    assert widened(project, "p", 8).rosters[0].slots == 8
    for slots in (0, 257):
        with pytest.raises(AvrinError, match="1 to 256"):
            widened(project, "p", slots)


def test_a_variable_called_otherwise_keeps_its_link_to_the_column(project: Project) -> None:
    other = rename(rename(project, "air_left", "oxygen"), "p[0].hp", "health")
    assert other.traces[0].names == {
        "Air Left": "oxygen", "p1_hp": "p[0].health", "p2_hp": "p[1].health", "p3_hp": "p[2].health"
    }  # fmt: skip
    bare = rename(begun([(Recording(path="a.csv"), recorded("hull"))])[0], "hull", "armour")
    assert bare.traces[0].names == {"hull": "armour"}
    assert rename(bare, "armour", "hull").traces[0].names == {}


def test_another_recording_is_called_as_the_first_was(project: Project) -> None:
    more = Recording(path="traces/b.csv")
    both, named = taken_in(project, more, recorded("p1_hp", "p2_hp", "Air Left", "depth"))
    assert list(named.columns) == ["p[0].hp", "p[1].hp", "air_left", "depth"]
    assert [v.name for v in both.variables] == ["air_left", "depth"]
    assert both.rosters == project.rosters
