"""Undo and redo."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from avrin.model import History, Project

EDITS = st.lists(st.tuples(st.text("abc", max_size=2), st.sampled_from(["", "typing"])), max_size=12)


@given(EDITS)
def test_undoing_everything_and_redoing_it_comes_back_to_the_same(edits: list[tuple[str, str]]) -> None:
    history = History(Project(title="start"))
    for title, merge in edits:
        history.push(Project(title=title), f"to {title}", merge)
    end, steps = history.project, 0
    while history.undo():
        steps += 1
    assert history.project.title == "start"
    assert history.redo_label or steps == 0
    while history.redo():
        steps -= 1
    assert steps == 0
    assert history.project is end


def test_typing_is_one_step_until_sealed() -> None:
    history = History(Project(title=""))
    for title in ("h", "hu", "hul"):
        history.push(Project(title=title), "typing", "field")
    history.seal()
    history.push(Project(title="hull"), "typing", "field")
    history.undo()
    assert history.project.title == "hul"
    history.undo()
    assert history.project.title == ""


def test_edited_follows_the_saved_state_through_undo() -> None:
    history = History(Project(title="a"))
    history.push(Project(title="b"), "edit")
    history.mark_saved()
    assert not history.edited
    history.undo()
    assert history.edited
    history.redo()
    assert not history.edited
