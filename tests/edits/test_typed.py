"""Values as people type them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.edits.typed import DISTANCE, NUMBER, PIXELS, SIDE, WHOLE, NumberInput, typed_value, value_text
from avrin.errors import AvrinError
from avrin.project.project import VariableType
from avrin.trace.frames import Value

SECONDS = NumberInput("a number of seconds", "1.5", unit="s", low=0, high=60)


@pytest.mark.parametrize(
    ("accepts", "text", "number"),
    [
        (NumberInput(), " 1,5 ", 1.5), (NumberInput(), "−3", -3), (NumberInput(), "1 000", 1000), (NumberInput(), "1e3", 1000),
        (SECONDS, "0.5s", 0.5), (SECONDS, "2 s", 2), (SECONDS, "0", 0), (SECONDS, "60", 60),
        (NumberInput(unit="%"), "12 %", 12), (NumberInput(empty=0), "", 0), (NumberInput(unit="s", empty=4), " s", 4),
        (PIXELS, "1e9", 100_000), (PIXELS, "-inf", -100_000),
        (WHOLE, "-7", -7), (DISTANCE, "-4", 0), (DISTANCE, "", 0), (SIDE, "1920", 1920),
    ],
)  # fmt: skip
def test_numbers_are_read_as_people_write_them(accepts: NumberInput, text: str, number: float) -> None:
    assert accepts.parse(text) == number


@pytest.mark.parametrize(
    ("accepts", "text", "message"),
    [
        (SECONDS, "60.001", "'60.001' is not a number of seconds. Write for example 1.5"),
        (SECONDS, "-0.001", "'-0.001' is not a number of seconds. Write for example 1.5"),
        (SECONDS, " soon ", "'soon' is not a number of seconds. Write for example 1.5"),
        (SECONDS, "", "'' is not a number of seconds. Write for example 1.5"),
        (SIDE, "0", "'0' is not a number of pixels. Write for example 1920"),
        (SIDE, "1.5", "'1.5' is not a number of pixels. Write for example 1920"),
        (NumberInput(), "nan", "'nan' is not a number"), (PIXELS, "nan", "'nan' is not a number of pixels. Write for example 24"),
        (NUMBER, "inf", "'inf' is not a number"),
        (WHOLE, "2.6", "'2.6' is not a whole number. Write for example 3"),
        (WHOLE, "inf", "'inf' is not a whole number. Write for example 3"),
        (NumberInput(unit="s"), "2 %", "'2 %' is not a number"),
    ],
)  # fmt: skip
def test_another_text_is_refused_with_what_was_typed(accepts: NumberInput, text: str, message: str) -> None:
    with pytest.raises(AvrinError) as caught:
        accepts.parse(text)
    assert str(caught.value) == message


@pytest.mark.parametrize(
    ("text", "type_", "value"),
    [
        ("yes", "bool", True), ("OFF", "bool", False), ("", "bool", None), ("2.6", "int", 3.0), ("2.4", "int", 2.0),
        ("", "float", None), ("", "text", ""), (" a b ", "text", "a b"), ("1,25", "float", 1.25),
    ],
)  # fmt: skip
def test_a_value_is_read_by_the_type_of_its_variable(text: str, type_: VariableType, value: Value) -> None:
    assert typed_value(text, type_) == value


@pytest.mark.parametrize(("text", "type_"), [("maybe", "bool"), ("far", "int"), ("inf", "float"), ("-inf", "int")])
def test_a_value_of_another_type_is_refused(text: str, type_: VariableType) -> None:
    with pytest.raises(AvrinError, match=f"'{text}' is"):
        typed_value(text, type_)


@given(st.one_of(st.none(), st.booleans(), st.floats(allow_nan=False, allow_infinity=False)))
def test_a_value_is_read_back_from_its_text(value: Value) -> None:
    type_: VariableType = "bool" if isinstance(value, bool) else "float"
    again = typed_value(value_text(value), type_)
    assert again == value
    assert type(again) is type(value)
