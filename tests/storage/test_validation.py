"""The first fault in raw JSON: found wherever the validation library finds one, and reported in our own words."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec import Meta, Struct, inspect

from avrin.project.project import Project
from avrin.project.validation import first_fault


class Part(Struct, forbid_unknown_fields=True, kw_only=True):
    """A type with one of everything that a project or a look says of its fields."""

    name: Annotated[str, Meta(pattern=r"^[a-z]+$", max_length=5)]
    colour: Annotated[str, Meta(pattern=r"^(#[0-9a-f]{6})?$", description="#rrggbb or none")] = ""
    side: Literal["left", "right"] = "left"
    many: Annotated[int, Meta(ge=1, le=9)] = 1
    share: Annotated[float, Meta(gt=0, lt=1)] = 0.5
    shown: bool = True
    at: tuple[float, float] = (0.0, 0.0)
    words: dict[str, str] = {}
    value: Annotated[float, Meta(ge=0)] | str | None = None
    parts: tuple[Part, ...] = ()


TABLE: list[tuple[dict[str, Any], tuple[str | int, ...], str]] = [
    ({}, (), 'needs "name"'),
    ({"name": 3}, ("name",), "expected text, got a whole number"),
    ({"name": "a b"}, ("name",), "'a b' is not a valid name: it needs letters, digits and _, not a digit first"),
    ({"name": "abcdef"}, ("name",), "expected a text of at most 5 characters, got 6"),
    ({"name": "a", "colour": "red"}, ("colour",), "'red' is not #rrggbb or none"),
    ({"name": "a", "colour": 7}, ("colour",), "7 is not #rrggbb or none"),
    ({"name": "a", "side": "lft"}, ("side",), "'lft' is not one of left, right: did you mean 'left'?"),
    ({"name": "a", "side": "middle"}, ("side",), "'middle' is not one of left, right"),
    ({"name": "a", "side": []}, ("side",), "expected one of left, right, got a list"),
    ({"name": "a", "many": 0}, ("many",), "expected a whole number of at least 1, got 0"),
    ({"name": "a", "many": 10}, ("many",), "expected a whole number of at most 9, got 10"),
    ({"name": "a", "many": 1.5}, ("many",), "expected a whole number, got a number"),
    ({"name": "a", "share": 0}, ("share",), "expected a number of more than 0, got 0"),
    ({"name": "a", "share": 1}, ("share",), "expected a number of less than 1, got 1"),
    ({"name": "a", "share": True}, ("share",), "expected a number, got true or false"),
    ({"name": "a", "shown": 1}, ("shown",), "expected true or false, got a whole number"),
    ({"name": "a", "at": [1]}, ("at",), "expected a list of length 2, got 1"),
    ({"name": "a", "at": [1, "2"]}, ("at", 1), "expected a number, got text"),
    ({"name": "a", "words": {"b": None}}, ("words", "b"), "expected text, got null"),
    ({"name": "a", "words": []}, ("words",), "expected an object {…}, got a list"),
    ({"name": "a", "value": []}, ("value",), "expected a number or text or null, got a list"),
    ({"name": "a", "value": -1}, ("value",), "expected a number of at least 0, got -1"),
    ({"name": "a", "parts": [{"name": "b"}, {"name": "c", "many": {}}]}, ("parts", 1, "many"),
     "expected a whole number, got an object {…}"),
    ({"name": "a", "mani": 1}, (), "unknown key 'mani': did you mean 'many'?"),
    ({"name": "a", "zzz": 1}, (), "unknown key 'zzz'. There are at, colour, many, name, parts, shar"),
]  # fmt: skip


@pytest.mark.parametrize(("raw", "path", "problem"), TABLE)
def test_fault_table(raw: dict[str, Any], path: tuple[str | int, ...], problem: str) -> None:
    with pytest.raises(msgspec.ValidationError):
        msgspec.convert(raw, Part)
    fault = first_fault(raw, inspect.type_info(Part))
    assert fault is not None
    assert fault.path == path
    assert fault.problem.startswith(problem)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-9, 9) | st.floats(-9, 9) | st.text("abc#0", max_size=7),
    lambda inner: st.lists(inner, max_size=2) | st.dictionaries(st.sampled_from("abc"), inner, max_size=2),
    max_leaves=3,
)


@given(st.fixed_dictionaries({"name": JSON}, optional=dict.fromkeys(Part.__struct_fields__[1:], JSON)))
def test_it_finds_a_fault_exactly_where_the_library_does(raw: dict[str, Any]) -> None:
    try:
        msgspec.convert(raw, Part)
        refused = False
    except msgspec.ValidationError:
        refused = True
    assert (first_fault(raw, inspect.type_info(Part)) is not None) == refused


@given(st.sampled_from(Project.__struct_fields__[2:]), JSON)
def test_it_finds_a_fault_in_a_project_exactly_where_the_library_does(key: str, part: Any) -> None:
    raw = json.loads(json.dumps({"format": "avrin/1", key: part}))
    try:
        msgspec.convert(raw, Project)
        refused = False
    except msgspec.ValidationError:
        refused = True
    assert (first_fault(raw, inspect.type_info(Project)) is not None) == refused
