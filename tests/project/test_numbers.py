"""Numbers as they are read and as rules say them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.project.numbers import counted, plain_number, plain_rate, rule_number


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (0.0, "0"), (-0.0, "0"), (1.0, "1"), (21300.0, "21,300"), (21500000.0, "21,500,000"), (-3.5, "−3.5"), (2.456, "2.46"),
        (0.25, "0.25"), (0.0421, "0.0421"), (0.00123456, "0.00123"), (1e-7, "0"), (999.999, "1,000"), (1e15, "1e+15"),
        (float("inf"), "∞"), (float("-inf"), "−∞"),
    ],
)  # fmt: skip
def test_a_number_reads_the_same_everywhere(value: float, text: str) -> None:
    assert plain_number(value) == text


@pytest.mark.parametrize(
    ("rate", "text"), [(14.99, "15"), (15.0, "15"), (29.97, "29.97"), (59.94, "59.94"), (60.01, "60"), (12.5, "12.5")]
)
def test_a_rate_is_whole_where_only_its_times_were_rounded(rate: float, text: str) -> None:
    assert plain_rate(rate) == text


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_a_rule_says_the_very_number(value: float) -> None:
    assert float(rule_number(value)) == value


@given(st.floats(-1e9, 1e9))
def test_what_is_read_is_near(value: float) -> None:
    said = float(plain_number(value).replace("−", "-").replace(",", ""))
    assert said == pytest.approx(value, abs=max(0.005, 0.0) + 1e-9)


@pytest.mark.parametrize(
    ("count", "noun", "plural", "text"),
    [
        (0, "recording", "", "0 recordings"), (1, "recording", "", "1 recording"), (2, "stretch", "stretches", "2 stretches"),
        (1, "stretch", "stretches", "1 stretch"), (12_000, "frame", "", "12,000 frames"),
    ],
)  # fmt: skip
def test_a_count_agrees_with_its_noun(count: int, noun: str, plural: str, text: str) -> None:
    assert counted(count, noun, plural) == text
