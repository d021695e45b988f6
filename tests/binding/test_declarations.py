"""Declared variables edited: what follows along, and what makes no sense."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.declarations import declared, rename, undeclare, with_variable
from avrin.errors import AvrinError
from avrin.project.project import Action, Assignment, Derived, Project, Roster, Variable, Widget
from avrin.rules.parse import parse
from avrin.rules.rename import renamed, renamed_in_template
from avrin.trace.frames import Column, Trace
from strategies import rules

RENAMES = [
    ("hull / hull_max", "hull", "body", "body / hull_max"),
    ('phase == "hull" and hull < 3', "hull", "body", 'phase == "hull" and body < 3'),
    ("count(count > 2)", "count", "n", "count(n > 2)"),
    ("hull.left + hull", "hull", "body", "hull.left + body"),
    (
        "crew[0].scrap + crew[slot].scrap + scrap",
        "crew[].scrap",
        "crew[].haul",
        "crew[0].haul + crew[slot].haul + scrap",
    ),
    ("crew[0].scrap + crew[0].name + crew", "crew[]", "team[]", "team[0].scrap + team[0].name + crew"),
    ("scrap + crew[1].scrap", "scrap", "haul", "haul + crew[1].scrap"),
    ("hull + (", "hull", "body", "body + ("),
]


@pytest.mark.parametrize(("rule", "old", "new", "expected"), RENAMES)
def test_renaming_touches_the_name_and_nothing_else(rule: str, old: str, new: str, expected: str) -> None:
    assert renamed(rule, old, new) == expected


def test_in_a_text_only_values_are_renamed() -> None:
    text = 'hull {{hull}} {hull | 0.0} {if hull > 1 then "{hull" else phase} {hull'
    expected = 'hull {{hull}} {body | 0.0} {if body > 1 then "{hull" else phase} {body'
    assert renamed_in_template(text, "hull", "body") == expected


@given(rules("number") | rules("flag"), st.sampled_from(["hull", "air", "leak", "tank.left"]))
def test_renaming_there_and_back_is_the_same_rule(rule: str, name: str) -> None:
    there = renamed(rule, name, "some_new_name")
    assert name not in there.replace("some_new_name", "") or parse(there)
    assert renamed(there, "some_new_name", name) == rule


PROJECT = Project(
    variables=(
        Variable(name="hull", type="float", start=100, low=0, high=140, unit="pt"),
        Variable(name="hull_max", type="float", start=100, low=0, high=140),
    ),
    rosters=(Roster(name="crew", slots=2, fields=(Variable(name="scrap", type="int", start=0),)),),
    derived=(Derived(name="left", rule="hull / hull_max"),),
    widgets=(
        Widget(id="bar", kind="bar", inputs={"value": "left * 100", "full": "100", "caption": "hull {hull | 0}"}),
        Widget(id="score", kind="counter", inputs={"value": "crew[0].scrap + crew[1].scrap"}),
    ),
    actions=(Action(label="hit", key="H", does=(Assignment(set="hull", to="max(hull - 20, 0)"),)),),
)


def test_a_renamed_variable_takes_every_rule_along() -> None:
    project = rename(PROJECT, "hull", "body")
    bind(project).raise_first()
    assert project.derived[0].rule == "body / hull_max"
    assert project.widget("bar").inputs["caption"] == "hull {body | 0}"
    assert project.actions[0].does == (Assignment(set="body", to="max(body - 20, 0)"),)
    project = rename(project, "crew[1].scrap", "haul")
    bind(project).raise_first()
    assert project.widget("score").inputs["value"] == "crew[0].haul + crew[1].haul"
    assert rename(rename(PROJECT, "left", "share_left"), "share_left", "left") == PROJECT


@pytest.mark.parametrize(
    ("new", "words"),
    [
        ("hull_max", "taken"),
        ("if", "word of the rule language"),
        ("2x", "not a valid"),
        ("", "not a valid"),
        ("left", "taken"),
    ],
)
def test_a_name_that_cannot_be_is_refused(new: str, words: str) -> None:
    with pytest.raises(AvrinError, match=words):
        rename(PROJECT, "hull", new)


def test_another_type_takes_only_what_fits_it() -> None:
    whole = with_variable(PROJECT, "hull", type="int", start=99.6).all_variables()["hull"]
    assert (whole.type, whole.start, whole.low, whole.unit) == ("int", 100.0, 0, "pt")
    text = with_variable(PROJECT, "hull", type="text").all_variables()["hull"]
    assert (text.start, text.low, text.high, text.unit) == (None, None, None, "")
    field = with_variable(PROJECT, "crew[1].scrap", high=50.0).all_variables()
    assert field["crew[0].scrap"].high == 50.0
    with pytest.raises(AvrinError, match="range 200 to 140 is empty"):
        with_variable(PROJECT, "hull", low=200.0)


def test_recorded_columns_are_declared_as_they_look() -> None:
    columns = {
        "depth": Column.of([0.2, 38.4, 57.3]),
        "boats[0].fuel": Column.of([10.0, 9.0, None]),
        "boats[1].fuel": Column.of([None, 4.5, 3.0]),
        "boats[1].name": Column.of(["Tern", "Tern", "Tern"]),
    }
    trace = Trace.make("t", [0.0, 1.0, 2.0], columns)
    project = declared(declared(Project(), trace, "depth"), trace, "boats[1].fuel")
    depth = project.variables[0]
    assert (depth.type, depth.low, depth.high, depth.unit, depth.start) == ("float", 0.0, 100.0, "", 0.2)
    assert project.rosters[0].slots == 2
    assert [(f.name, f.type) for f in project.rosters[0].fields] == [("fuel", "float"), ("name", "text")]
    assert undeclare(undeclare(project, "depth"), "boats[0].fuel") == Project()
