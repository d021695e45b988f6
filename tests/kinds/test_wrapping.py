"""Where texts are broken into lines: by table, and for any text nothing is lost and no line is longer than it must be."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.kinds.wrapping import wrapped


def letters(line: str) -> float:
    return float(len(line))


@pytest.mark.parametrize(
    ("text", "width", "most", "lines"),
    [
        ("a bell at the quay", 8, 5, ["a bell", "at the", "quay"]),
        ("a bell at the quay", 100, 5, ["a bell at the quay"]),
        ("a bell at the quay", 8, 2, ["a bell", "at the quay"]),  # the rest is beyond the box
        ("a bell at the quay", 8, 1, ["a bell at the quay"]),
        (r"up\nand down again", 10, 5, ["up", "and down", "again"]),
        ("up\nand", 10, 5, ["up", "and"]),
        (r"one\ntwo\nthree", 10, 2, ["one", "two three"]),
        ("longestword of all", 4, 9, ["longestword", "of", "all"]),  # no word is broken
        ("", 4, 3, [""]),
        (r"a\n", 4, 3, ["a", ""]),
    ],
)
def test_as_worked_by_hand(text: str, width: float, most: int, lines: list[str]) -> None:
    assert wrapped(text, width, most, letters) == lines


@given(st.lists(st.text("abc", min_size=1, max_size=9), min_size=1, max_size=12), st.integers(1, 20), st.integers(1, 6))
def test_no_word_is_lost_and_only_the_last_line_or_a_word_alone_is_too_long(
    words: list[str], width: int, most: int
) -> None:
    lines = wrapped(" ".join(words), width, most, letters)
    assert " ".join(lines).split(" ") == words
    assert len(lines) <= most
    for line in lines[:-1]:
        assert len(line) <= width or " " not in line
    for line, after in pairwise(lines):
        assert len(f"{line} {after.split(' ')[0]}") > width, "no line is broken earlier than it must be"
