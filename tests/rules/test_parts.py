"""The part of a rule under a character, and the word before a caret."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.rules.parts import part_at, word_before
from strategies import rules, templates

PARTS = [
    ("hull / hull_max", 1, "hull"),
    ("hull / hull_max", 5, "hull / hull_max"),
    ("clamp(a + b * 2, 0, 1)", 8, "a + b * 2"),
    ("clamp(a + b * 2, 0, 1)", 12, "b * 2"),
    ("clamp(a + b * 2, 0, 1)", 0, "clamp(a + b * 2, 0, 1)"),
    ("if leak then 1 else crew[0].scrap", 22, "crew[0].scrap"),
    ('phase == "dive"', 11, '"dive"'),
    ("(a or b) and (not (c))", 9, "(a or b) and (not (c))"),
    ("(a or b) and (not (c))", 2, "a or b"),
    ("if a then b else (c == d)", 0, "if a then b else (c == d)"),
    ("hull + ", 2, None),
    ("hull", 9, None),
    ("((a) + b) * ((c) + d)", 10, "((a) + b) * ((c) + d)"),
    ("1 + (((a) + (b)))", 8, "(a) + (b)"),
    ("1 + (((a) + b))", 10, "(a) + b"),
    ("a+b", 0, "a"),
    ("a+b", 1, "a+b"),
    ("a+b", 2, "b"),
    ("max(a,b)", 5, "max(a,b)"),
]


@pytest.mark.parametrize(("rule", "at", "expected"), PARTS)
def test_the_innermost_part_around_a_character(rule: str, at: int, expected: str | None) -> None:
    found = part_at(rule, at)
    assert (found.rule if found else None) == expected
    if found is not None:
        assert rule[found.start : found.end] == found.rule


def test_in_a_text_parts_stand_in_braces() -> None:
    text = "Air {max(air, 0) | 0} of {full}"
    assert part_at(text, 2, template=True) is None
    assert part_at(text, 18, template=True) is None
    for at, expected in ((10, "air"), (6, "max(air, 0)"), (27, "full")):
        found = part_at(text, at, template=True)
        assert found is not None
        assert text[found.start : found.end] == found.rule == expected


@given(rules("number") | rules("flag") | rules("text"), st.integers(0, 200))
def test_every_part_is_a_rule_that_lies_around_the_character(rule: str, at: int) -> None:
    found = part_at(rule, at)
    if at < len(rule) and found is not None:
        assert found.start <= at < found.end
        again = part_at(found.rule, 0)
        assert again is not None


WORDS = [
    ("hul", 3, False, "hul"),
    ("hull + a", 8, False, "a"),
    ("hull + ", 7, False, ""),
    ("", 0, False, ""),
    ("max(", 4, False, ""),
    ("tank.le", 7, False, "tank.le"),
    ("crew[0].sc", 10, False, "crew[0].sc"),
    ("hull ", 5, False, None),
    ("a or ", 5, False, ""),
    ('phase == "di', 12, False, None),
    ("Depth de", 8, True, None),
    ("Depth {de", 9, True, "de"),
    ("{{de", 4, True, None),
    ("{depth | 0", 10, True, None),
    ("{depth} m", 9, True, None),
]


@pytest.mark.parametrize(("text", "at", "template", "expected"), WORDS)
def test_the_word_that_a_caret_has_begun(text: str, at: int, template: bool, expected: str | None) -> None:
    assert word_before(text, at, template=template) == expected


@given(templates() | rules("number"), st.integers(0, 80), st.booleans())
def test_whatever_is_written_has_a_word_or_none(text: str, at: int, template: bool) -> None:
    found = word_before(text, min(at, len(text)), template=template)
    assert found is None or text[: min(at, len(text))].endswith(found)
