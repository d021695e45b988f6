"""Parts of rules that say the same, by table; and a derived value made of one, and taken apart again, changes no value."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.derived import extracted, free_name, without_derived
from avrin.binding.places import RulePlace
from avrin.binding.tracks import track
from avrin.errors import AvrinError
from avrin.project.project import Derived, Project, Variable, Widget
from avrin.rules.common_subexpressions import marked_part, named_parts, named_parts_in_template, says_slot
from avrin.trace.frames import Column, Trace

VARIABLES = tuple(Variable(name=name, type="float") for name in ("a", "b", "c"))


@pytest.mark.parametrize(
    ("rule", "part", "matches"),
    [
        ("a / b < 0.25", "a / b", "part < 0.25"),
        ("a/b + min(a  /  b, 1)", "a / b", "part + min(part, 1)"),
        ("a / b / c", "a / b", "a / b / c"),  # the chain is one part
        ("(a / b) * (a / b)", "a / b", "(part) * (part)"),
        ("25% + 0.25", "0.25", "part + part"),
        ('if a > 1 then "a > 1" else "b"', "a > 1", 'if part then "a > 1" else "b"'),
        ("b / a", "a / b", "b / a"),
        ("a +", "a", "a +"),  # no rule stays as it is
        ("not (a > b) and a > b", "a > b", "not (part) and part"),
    ],
)  # fmt: skip
def test_what_says_the_same_is_found_wherever_it_stands(rule: str, part: str, matches: str) -> None:
    node = marked_part(part, 0, len(part))
    assert node is not None
    assert named_parts(rule, node, "part") == matches


def test_in_texts_only_their_values_are_rules() -> None:
    node = marked_part("a / b", 0, 5)
    assert node is not None
    text = "a / b is {a / b | 0%}, {{a / b}} {c}"
    assert named_parts_in_template(text, node, "x") == "a / b is {x | 0%}, {{a / b}} {c}"
    assert named_parts_in_template("{a / b", node, "x") == "{a / b"


@pytest.mark.parametrize(
    ("start", "end", "complete"), [(0, 5, True), (0, 6, True), (0, 9, True), (4, 9, False), (0, 3, False)]
)
def test_only_a_whole_part_is_one(start: int, end: int, complete: bool) -> None:
    assert (marked_part("a * b + c", start, end) is not None) is complete


def test_what_depends_on_the_copy_says_so() -> None:
    for rule, says in (("crew[slot].air + 1", True), ("slot == 2", True), ("crew[1].air", False)):
        node = marked_part(rule, 0, len(rule))
        assert node is not None
        assert says_slot(node) is says


PROJECT = Project(
    variables=VARIABLES,
    widgets=(
        Widget(
            id="bar", kind="bar",
            inputs={"value": "a", "full": "b", "caption": "{max(a, b) | 0}", "visible": "max(a, b) > c"},
        ),
        Widget(id="sum", kind="counter", inputs={"value": "max(a, b) + c"}),
    ),
)  # fmt: skip
TRACE = Trace.make(
    "t", np.arange(4) / 10,
    {name: Column("number", np.array([1.0, 5.0, np.nan, at])) for at, name in enumerate(("a", "b", "c"))},
)  # fmt: skip


@given(st.sampled_from(["max(a, b)", "max(a, b) > c", "a", "c"]))
def test_made_and_taken_apart_again_every_value_stays(part: str) -> None:
    rule = PROJECT.widget("bar").inputs["visible"]
    start = rule.index(part) if part != "a" else rule.index("a, b")
    made = extracted(PROJECT, RulePlace("widget", "bar", "inputs", "visible"), start, start + len(part), "part")
    assert made.derived == (Derived(name="part", rule=part),)
    assert "part" in made.widget("bar").inputs["visible"]
    back = without_derived(made, "part")
    assert back.derived == ()
    before = track(bind(PROJECT), TRACE).columns
    for project in (made, back):
        after = track(bind(project), TRACE).columns
        assert list(after) == list(before)
        for name, column in after.items():
            assert [column[frame] for frame in range(4)] == [before[name][frame] for frame in range(4)]


def test_everywhere_it_stands_it_is_that_name() -> None:
    made = extracted(PROJECT, RulePlace("widget", "sum", "inputs", "value"), 0, 9, "most")
    assert made.widget("bar").inputs["caption"] == "{most | 0}"
    assert made.widget("bar").inputs["visible"] == "most > c"
    assert made.widget("sum").inputs["value"] == "most + c"


@pytest.mark.parametrize(("marked", "why"), [("b) + c", "not a complete part"), ("max(a", "not a complete part")])
def test_what_cannot_be_one_is_reported(marked: str, why: str) -> None:
    start = "max(a, b) + c".index(marked)
    with pytest.raises(AvrinError, match=why):
        extracted(PROJECT, RulePlace("widget", "sum", "inputs", "value"), start, start + len(marked), "x")


def test_a_free_name_is_nobody_elses() -> None:
    assert free_name(Project()) == "value"
    taken = Project(variables=(Variable(name="value", type="int"),), derived=(Derived(name="value_2", rule="1"),))
    assert free_name(taken) == "value_3"
