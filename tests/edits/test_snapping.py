"""What a moved box holds on to: lines, and gaps that become equal, worked out by hand."""

from __future__ import annotations

import pytest

from avrin.edits.snapping import Line, Point, held
from avrin.render.layout import Rect

FAR = Rect(0, 0, 100_000, 100_000)  # a safe area whose lines are out of reach of what is tried here
ROW = [Rect(5_000, 500, 40, 20), Rect(5_060, 500, 40, 20)]  # 20 apart


def moved(box: Rect, others: list[Rect]) -> tuple[Point, list[Line]]:
    """With no edge in reach: only gaps count."""
    return held(((), ()), others, FAR, FAR, box)


@pytest.mark.parametrize(
    ("left", "shift", "gaps"),
    [
        (5_123, -3, [(5_040, 5_060), (5_100, 5_120)]),  # beyond the second
        (4_924, 6, [(4_980, 5_000), (5_040, 5_060)]),  # before the first
    ],
)
def test_the_gap_beyond_two_becomes_as_theirs(left: float, shift: float, gaps: list[tuple[float, float]]) -> None:
    move, lines = moved(Rect(left, 505, 50, 10), ROW)
    assert move == (shift, 0)
    assert [(a[0], b[0]) for a, b in lines] == gaps
    assert {a[1] for a, _ in lines} == {510}


def test_between_two_it_comes_to_the_middle() -> None:
    box = Rect(5_093, 500, 10, 20)
    move, lines = moved(box, [ROW[0], Rect(5_150, 490, 40, 60)])
    assert move[0] == pytest.approx(5_040 + (5_150 - 5_040 - 10) / 2 - 5_093)
    assert [(a[0], b[0]) for a, b in lines] == [(5_040, 5_090), (5_100, 5_150)]


def test_down_as_across() -> None:
    column = [Rect(500, 5_000, 20, 40), Rect(500, 5_060, 20, 40)]
    move, lines = moved(Rect(505, 5_123, 10, 50), column)
    assert move == (0, -3)
    assert [(a[1], b[1]) for a, b in lines] == [(5_040, 5_060), (5_100, 5_120)]


@pytest.mark.parametrize(
    "box",
    [
        Rect(5_129, 505, 50, 10),  # nine pixels from an equal gap
        Rect(5_123, 600, 50, 10),  # not in their row
    ],
)
def test_what_is_far_or_in_another_row_moves_nothing(box: Rect) -> None:
    assert moved(box, ROW) == ((0, 0), [])


def test_a_nearer_line_wins_over_gaps() -> None:
    box = Rect(5_123, 505, 50, 10)
    other = Rect(5_124, 9_000, 70, 10)
    move, lines = held(((box.x,), ()), [*ROW, other], FAR, FAR, box)
    assert move[0] == 1
    assert [(a[0], b[0]) for a, b in lines] == [(5_124, 5_124)]
