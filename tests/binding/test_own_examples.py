"""Examples name what the project has."""

from __future__ import annotations

import pytest

from avrin.binding.own_examples import own_example
from avrin.project.project import Project, Variable, VariableType
from avrin.rules.functions.registry import FUNCTIONS


def expected(**types: VariableType) -> Project:
    return Project(variables=tuple(Variable(name=name, type=one) for name, one in types.items()))


@pytest.mark.parametrize(
    ("example", "own"),
    [
        ("hull <= 0", "mana <= 0"), ("latch(air < 20, air > 40)", "latch(gold < 20, gold > 40)"),
        ("clamp(hull / hull_max, 0, 1)", "clamp(mana / mana, 0, 1)"), ("rose(leak)", "rose(in_water)"),
        ("length(phase)", "length(phase)"),
    ],
)  # fmt: skip
def test_the_projects_variables_take_the_place_of_the_manuals(example: str, own: str) -> None:
    assert own_example(example, expected(mana="int", in_water="bool", gold="float")) == own


def test_a_project_with_the_manuals_names_keeps_them() -> None:
    for function in FUNCTIONS.values():
        assert (
            own_example(function.example, expected(gold="int", hull="float", leak="bool", phase="text"))
            == function.example
        )
