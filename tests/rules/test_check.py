"""Names and types: errors found before anything runs, each with what to write instead."""

from __future__ import annotations

import pytest

from avrin.rules.check import Scope
from avrin.rules.errors import RuleError
from avrin.rules.functions.registry import FUNCTIONS
from strategies import EVENTS

KINDS = {
    "hull": "number",
    "leak": "flag",
    "phase": "text",
    "crew[0].scrap": "number",
    "crew[0].name": "text",
    "foes[7].scrap": "number",
}
DERIVED = {"share_left": "hull / 100", "a": "b + 1", "b": "a + 1", "bad": "hul"}

FAULTS = [
    ("hul", 0, "no variable `hul`: did you mean `hull`?"),
    ("zzz", 0, "Declare it, or use one of hull, leak"),
    ("not hull", 4, "expected a condition, but this is a number. Compare it: hull > 0"),
    ("leak + 1", 0, "Write `if leak then 1 else 0`"),
    ("phase + 1", 0, "A text has no numeric value; length(x) has"),
    ("phase < 3", 0, "expected a number, but this is a text"),
    ("hull == phase", 8, "a number cannot be compared with a text"),
    ("event(\"hti\")", 6, 'no event "hti": did you mean "hit"?'),
    ("event(phase)", 6, "a name is a text in double quotes"),
    ("last(\"hit\", \"pts\")", 12, 'no argument of hit "pts": did you mean "points"?'),
    ("crew[4].scrap", 0, "`crew` has 1 slots, and they count from 0"),
    ("hull == missing", 8, "Write has(x), or not has(x)"),
    ('hull otherwise "###"', 15, 'text(x, "0") otherwise "###"'),
    ('if leak then 1 else "x"', 20, "Expected a number here too"),
    ("hull otherwise leak", 15, "Expected a number here too"),
    ("clamp(1)", 0, "`clamp` takes 3 arguments, not 1. Write clamp(x, lo, hi)"),
    ("min(1)", 0, "at least 2 arguments"),
    ("flor(1)", 0, "no function `flor`: did you mean `floor`?"),
    ("hull(1)", 0, "`hull` is a value, not a function"),
    ("floor", 0, "`floor` is a function"),
    ("prev(hull, hull)", 11, "whole number of frames"),
    ("prev(hull, 1.5)", 11, "whole number of frames"),
    ('text(hull, "q")', 11, "`q` is not a pattern"),
    ("text(hull, phase)", 11, "in double quotes"),
    ("hull / 0", 7, "divides by zero, so it is always missing"),
    ("hull / (2 - 2)", 8, "divides by zero"),
    ("slot", 0, "repeated over a roster"),
    ("a", 0, "needs itself: a -> b -> a"),
    ("bad + 1", 0, "the derived value `bad` has an error of its own"),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "start", "words"), FAULTS)
def test_fault_table(rule: str, start: int, words: str) -> None:
    with pytest.raises(RuleError) as found:
        Scope(KINDS, DERIVED, events=EVENTS).rule(rule)  # type: ignore[arg-type]
    assert words in str(found.value)
    assert found.value.span[0] == start
    assert str(found.value).startswith(f"column {start + 1}: ")


def test_a_rule_must_have_the_kind_its_place_needs() -> None:
    with pytest.raises(RuleError, match="expected a condition"):
        Scope(KINDS).rule("hull", "flag")  # type: ignore[arg-type]


def test_missing_takes_the_kind_of_its_surroundings() -> None:
    scope = Scope(KINDS)  # type: ignore[arg-type]
    assert scope.rule("if leak then phase else missing").kind == "text"
    assert scope.rule("missing otherwise leak").kind == "flag"
    assert scope.rule("missing", "text").kind == "text"


@pytest.mark.parametrize("name", FUNCTIONS)
def test_every_function_describes_itself_and_its_example_is_a_rule(name: str) -> None:
    function = FUNCTIONS[name]
    assert function.help.endswith(".")
    assert function.example.startswith(f"{name}(")
    words = ["hull", "hull_max", "air", "leak", "phase", "depth", "depth_change", "lives", "speed", "area", "tide_left"]
    kinds = {word: {"leak": "flag", "phase": "text"}.get(word, "number") for word in words}
    step = Scope(kinds, events=EVENTS).rule(function.example)  # type: ignore[arg-type]
    assert function.result in (step.kind, "any")


def test_slot_is_the_slot_a_rule_is_repeated_for() -> None:
    scope = Scope({f"crew[{i}].scrap": "number" for i in range(3)}, {"d": "slot"})
    with scope.at_slot(2):
        assert scope.rule("crew[slot].scrap + slot") is scope.rule("crew[2].scrap + 2")
        assert scope.template("{slot}") is scope.template("{2}")
        with pytest.raises(RuleError, match="error of its own"):
            scope.rule("d")  # a derived value is one for all slots
    with pytest.raises(RuleError, match="only in a widget repeated"):
        scope.rule("crew[slot].scrap")
