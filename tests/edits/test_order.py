"""The drawing order."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.edits.order import STEPS, Step, ordered
from avrin.project.project import Project, Widget


def project(names: str) -> Project:
    return Project(widgets=tuple(Widget(id=name, kind="panel") for name in names))


def order(built: Project) -> str:
    return "".join(widget.id for widget in built.widgets)


@pytest.mark.parametrize(
    ("step", "chosen", "after"),
    [
        ("to the front", "ac", "bdeac"),
        ("to the back", "ec", "ceabd"),
        ("forward", "b", "acbde"),
        ("forward", "bc", "adbce"),
        ("forward", "de", "abcde"),
        ("forward", "be", "acbde"),
        ("backward", "d", "abdce"),
        ("backward", "cd", "acdbe"),
        ("backward", "ac", "acbde"),
        ("backward", "", "abcde"),
    ],
)
def test_steps_forward_and_back(step: Step, chosen: str, after: str) -> None:
    assert order(ordered(project("abcde"), chosen, step)) == after


@given(st.sets(st.sampled_from("abcdefg")), st.sampled_from(STEPS))
def test_order_among_themselves_is_kept_and_nothing_is_lost(chosen: set[str], step: Step) -> None:
    after = order(ordered(project("abcdefg"), chosen, step))
    assert [name for name in after if name in chosen] == sorted(chosen)
    assert [name for name in after if name not in chosen] == sorted(set("abcdefg") - chosen)
