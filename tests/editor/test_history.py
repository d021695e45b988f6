"""Undo and redo."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.editor.history import History
from avrin.project.project import Project

EDITS = st.lists(st.tuples(st.text("abc", max_size=2), st.sampled_from(["", "typing"])), max_size=12)


@given(EDITS)
def test_undoing_everything_and_redoing_it_comes_back_to_the_same(edits: list[tuple[str, str]]) -> None:
    history = History.of(Project(title="start"))
    for title, merge in edits:
        history = history.pushed(Project(title=title), f"to {title}", merge)
    end, steps = history.project, 0
    while history.at:
        history = history.undone()
        steps += 1
    assert history.undone() is history or not history.merging
    assert history.project.title == "start"
    assert history.redo_label or steps == 0
    while history.redo_label or history.at + 1 < len(history.steps):
        history = history.redone()
        steps -= 1
    assert steps == 0
    assert history.project is end


def test_typing_is_one_step_until_sealed() -> None:
    history = History.of(Project(title=""))
    for title in ("h", "hu", "hul"):
        history = history.pushed(Project(title=title), "typing", "field")
    history = history.sealed()
    history = history.pushed(Project(title="hull"), "typing", "field")
    history = history.undone()
    assert history.project.title == "hul"
    history = history.undone()
    assert history.project.title == ""


def test_edited_follows_the_saved_state_through_undo() -> None:
    history = History.of(Project(title="a"))
    history = history.pushed(Project(title="b"), "edit")
    history = history.marked_saved()
    assert not history.edited
    history = history.undone()
    assert history.edited
    history = history.redone()
    assert not history.edited


@given(EDITS, st.data())
def test_any_step_is_gone_to_and_what_comes_after_it_stays_until_something_else_is_done(
    edits: list[tuple[str, str]], data: st.DataObject
) -> None:
    history = History.of(Project(title="start"))
    for title, merge in edits:
        history = history.pushed(Project(title=title), f"to {title}", merge)
    steps = history.steps
    assert steps[0][0].title == "start"
    assert steps[history.at][0] is history.project
    number = data.draw(st.integers(0, len(steps) - 1))
    history = history.gone_to(number)
    assert history.project is steps[number][0]
    assert history.at == number
    assert history.steps == steps
    assert history.redo_label == (steps[number + 1][1] if number + 1 < len(steps) else "")
    for wrong in (-1, len(steps)):
        with pytest.raises(IndexError):
            history.gone_to(wrong)
    history = history.pushed(Project(title="elsewhere"), "elsewhere")
    assert len(history.steps) == number + 2
