"""The order of a line's letters, isolates and joiners among them: worked by hand from UAX #9, and properties."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.render.bidi import ORDERING, in_order, right_to_left
from avrin.render.fonts import SANS, face, shape

LRI, RLI, FSI, PDI = "\u2066\u2067\u2068\u2069"
ABC = "אבג"


@pytest.mark.parametrize(
    ("text", "runs"),
    [
        ("abc", [("abc", False)]),
        (f"{LRI}hull{PDI}", [("hull", False)]),  # nothing to be turned: the marks go all the same
        (f"{ABC} {LRI}hull 12{PDI} ד", [(" ד", True), ("hull 12", False), (f"{ABC} ", True)]),
        (f"abc {RLI}{ABC} 1{PDI} def", [("abc ", False), ("1", False), (f"{ABC} ", True), (" def", False)]),
        (f"{ABC} {FSI}x1{PDI}{FSI}{ABC}{PDI}", [(ABC, True), ("x1", False), (f"{ABC} ", True)]),
        (f"א {RLI}ב{LRI}x{PDI}{PDI}", [("x", False), ("ב", True), ("א ", True)]),  # one within another
        (f"{PDI}{ABC}", [(ABC, True)]),  # ends nothing
        (f"{ABC} {LRI}x", [("x", False), (f"{ABC} ", True)]),  # goes on to the end of the line
        ("\ufffcא", [("\u05d0", True), ("\ufffc", False)]),
    ],
)
def test_isolated_stretches_are_ordered_for_themselves(text: str, runs: list[tuple[str, bool]]) -> None:
    assert in_order(text) == runs


def test_what_is_isolated_says_nothing_of_how_the_line_runs() -> None:
    assert right_to_left(f"{LRI}hull{PDI} {ABC}")
    assert not right_to_left(f"{RLI}{ABC}{PDI} hull")


@pytest.mark.parametrize("word", ["می\u200cخواهم", "ک\u200dا", "\u200cא"])
def test_joiners_stay_where_they_are_for_they_shape_what_is_beside_them(word: str) -> None:
    assert in_order(word) == [(word, True)]
    assert all(face(SANS).has(letter) for letter in "\u200c\u200d\u2060\ufe0f\u2066")


SIGNS = (
    "a",
    "1",
    " ",
    "א",
    "ب",
    "-",
    "\u200d",
    LRI,
    RLI,
    FSI,
    PDI,
    "\u202e",
    "\ufffe",
    "\ufdd0",
    "\U0001ffff",
    "\ufffc",
)
LETTERS = st.text(st.sampled_from(SIGNS))


@given(LETTERS)
def test_any_line_is_ordered_and_shaped_and_loses_no_letter(text: str) -> None:
    runs = in_order(text)
    assert sorted("".join(letters for letters, _ in runs)) == sorted(one for one in text if one not in ORDERING)
    shape(text, 20.0, SANS)
