"""Recordings with the same file name are disambiguated by as few folders as needed."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.project.project import Project, Recording
from avrin.project.unique_names import unique_names


@pytest.mark.parametrize(
    ("paths", "names"),
    [
        (["a/dive.csv", "b/calm.csv"], ["dive", "calm"]),
        (["dive.csv", "dive.parquet", "calm.csv"], ["dive.csv", "dive.parquet", "calm"]),
        (["monday/dive.csv", "friday/dive.csv"], ["monday/dive.csv", "friday/dive.csv"]),
        (["x/1/dive.csv", "y/1/dive.csv", "x/2/dive.csv"], ["x/1/dive.csv", "y/1/dive.csv", "2/dive.csv"]),
        ([], []),
    ],
)
def test_names_are_as_long_as_it_takes(paths: list[str], names: list[str]) -> None:
    assert unique_names(paths) == names


@given(st.lists(st.lists(st.sampled_from("abc"), min_size=1, max_size=4).map("/".join), unique=True, max_size=8))
def test_different_files_have_different_names(paths: list[str]) -> None:
    assert len(set(unique_names(paths))) == len(paths)


def test_a_project_calls_each_of_its_recordings_otherwise() -> None:
    project = Project(traces=(Recording(path="a/dive.csv"), Recording(path="b/dive.csv"), Recording(path="calm.csv")))
    assert [project.recording_name(one.path) for one in project.traces] == ["a/dive.csv", "b/dive.csv", "calm"]
    assert project.recording_name("other/dive.csv") == "dive"
