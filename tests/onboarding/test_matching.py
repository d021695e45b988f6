"""Another build's names: what a recording lacks, has besides and calls otherwise, and what it may be."""

from __future__ import annotations

import numpy as np

from avrin.onboarding.matching import differences
from avrin.onboarding.recordings import begun, taken_in
from avrin.project.project import Recording
from avrin.trace.frames import Column, Trace


def play(*names: str) -> Trace:
    """A health that falls and is healed, a score that grows, an angle that swings."""
    at = np.arange(400)
    health = np.where(at % 100 < 60, 100.0 - at % 100, 100.0)
    score = np.floor(at / 9) * 10.0
    angle = 90 * np.sin(at / 20)
    columns = {name: Column("number", data) for name, data in zip(names, (health, score, angle), strict=True)}
    return Trace.make("t", at / 20.0, columns)


def test_the_nearest_match_is_offered_by_name_type_and_behaviour() -> None:
    first = play("hull", "score", "yaw")
    project, _ = begun([(Recording(path="a.csv"), first)])
    other = play("hp", "points_total", "yaw")
    found = differences(project, Recording(path="b.csv"), other, [first])
    assert [(one.sort, one.name, one.own) for one in found] == [
        ("lacking", "hull", ""), ("lacking", "score", ""), ("besides", "", "hp"), ("besides", "", "points_total")
    ]  # fmt: skip
    assert [one.nearest[0] for one in found[:2]] == ["hp", "points_total"]


def test_a_name_alone_is_enough_where_nothing_else_is_known() -> None:
    project, _ = begun([(Recording(path="a.csv"), play("hull_left", "score", "yaw"))])
    (lacking, *_) = differences(project, None, play("left_hull", "score", "yaw"))
    assert (lacking.name, lacking.nearest) == ("hull_left", ("left_hull",))


def test_what_is_called_otherwise_is_reported_and_a_text_is_no_match_for_a_number() -> None:
    project, _ = begun([(Recording(path="a.csv"), play("hull", "score", "yaw"))])
    listed = Recording(path="b.csv", names={"hp": "hull"})
    words = Trace.make("t", [0.0], {"hull": Column.of([1.0]), "yaw": Column.of([0.0]), "scores": Column.of(["a"])})
    found = differences(project, listed, words)
    assert [(one.sort, one.name, one.own, one.nearest) for one in found] == [
        ("lacking", "score", "", ()), ("otherwise", "hull", "hp", ()), ("besides", "", "scores", ())
    ]  # fmt: skip


def test_nothing_differs_in_what_was_just_taken_in() -> None:
    project, (first,) = begun([(Recording(path="a.csv"), play("hull", "score", "yaw"))])
    assert differences(project, project.traces[0], first) == []
    both, named = taken_in(project, Recording(path="b.csv"), play("hull", "score", "yaw"))
    assert both.variables == project.variables
    assert differences(both, both.traces[1], named) == []
