"""A table of the finished runs: a row for each, as it ended, sorted; by tables worked by hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks
from avrin.kinds.registry import KINDS
from avrin.project.project import Project, Variable, Widget
from avrin.rules.scan import evaluate
from avrin.trace.frames import Column, Trace, Value
from strategies import cuts, identical

SCORE: list[Value] = [0.0, 5.0, 9.0, 0.0, 30.0, 0.0, None, 7.0, 7.0, 2.0]
NAME: list[Value] = ["Ona", "Ona", "Teo", "Rask", "Ada", "Io", "Io", "Mika", "Mika", "Lu"]
RUNS = [1, 1, 1, 2, 2, 3, 3, 4, 4, 5]
TRACE = Trace.make(
    "t", [0, 1, 2, 0, 1, 0, 1, 0, 1, 0], {"score": Column.of(SCORE), "who": Column.of(NAME)}, RUNS
)  # fmt: skip
COLUMNS = [
    {"title": "Run", "text": "{run | 0}"},
    {"title": "Who", "text": "{who}"},
    {"title": "Score", "text": "{score | 0}"},
]


def project(**options: Any) -> Project:
    widget = Widget(id="w", kind="table", options={"rows": "runs", "columns": COLUMNS, **options})
    return Project(variables=(Variable(name="score", type="int"), Variable(name="who", type="text")), widgets=(widget,))


def rows(frame: int, **options: Any) -> list[str]:
    bound = bind(project(**options))
    bound.raise_first()
    tracks = Tracks(bound, TRACE)
    return str(tracks.state(bound.widgets["w"], frame)["rows"]).replace("\t", " ").split("\n")


@pytest.mark.parametrize(
    ("frame", "expected"),
    [
        (2, [""]),  # the first run is not finished
        (3, ["1 Teo 9"]),
        (5, ["2 Ada 30", "1 Teo 9"]),
        (7, ["2 Ada 30", "1 Teo 9", "3 Io —"]),  # a missing score comes last
        (9, ["2 Ada 30", "1 Teo 9", "4 Mika 7", "3 Io —"]),
    ],
)
def test_each_finished_run_is_a_row_as_it_ended(frame: int, expected: list[str]) -> None:
    assert rows(frame, sort_by="score") == expected


def test_rows_are_in_the_order_of_runs_or_sorted_either_way_and_no_more_than_most() -> None:
    assert rows(9) == ["1 Teo 9", "2 Ada 30", "3 Io —", "4 Mika 7"]
    assert rows(9, sort_by="score", falling=False) == ["4 Mika 7", "1 Teo 9", "2 Ada 30", "3 Io —"]
    assert rows(9, sort_by="who") == ["2 Ada 30", "3 Io —", "4 Mika 7", "1 Teo 9"]
    assert rows(9, sort_by="score", most=2) == ["2 Ada 30", "1 Teo 9"]


def test_values_of_time_and_marks_are_those_of_the_runs_last_frame() -> None:
    columns = [{"text": "{best(score) | 0} in {now | 0}"}]
    assert rows(9, columns=columns, mark="score > 8")[:2] == ["9 in 2", "30 in 1"]
    bound = bind(project(columns=columns, mark="score > 8"))
    raw = str(Tracks(bound, TRACE).state(bound.widgets["w"], 9)["raw"])
    assert [row[0] for row in raw.split("\x1e")] == ["!", "!", " ", " "]


@given(cuts(TRACE), st.sampled_from(["score", "who", ""]))
def test_any_chunking_gives_the_same_rows(split: list[int], key: str) -> None:
    bound = bind(project(sort_by=key))
    step = bound.widgets["w"].drawn["raw"]
    (whole,) = evaluate([step], TRACE, bound.graph)
    for chunk in (1, split):
        assert identical(whole, evaluate([step], TRACE, bound.graph, chunk=chunk)[0])


def test_a_slot_means_nothing_in_a_run_and_an_empty_recording_has_no_rows() -> None:
    wrong = bind(project(columns=[{"text": "{slot | 0}"}]))
    assert wrong.errors[RulePlace("widget", "w", "options", "columns.0.text")].problem.startswith("`slot` works only")
    bound = bind(project())
    empty = Trace.make("none", np.empty(0), {})
    assert len(Tracks(bound, empty).column(bound.widgets["w"].columns["rows"]).data) == 0


def test_it_is_offered_column_by_column() -> None:
    table = KINDS["table"]
    assert "rows of finished runs" in [one.title for one in table.additions({}, project(), {})]
    titles = [one.title for one in table.additions({"rows": "runs"}, project(), {})]
    assert titles == ["+ Run", "+ Score", "+ sorting"]
