"""Pips: units by the design's formula, and where each is drawn."""

from __future__ import annotations

from typing import Any

import pytest

from avrin.kinds.shapes import Group, Shape, TextRun
from avrin.kinds.shapes import Path as Lines
from avrin.trace.frames import Value
from widget_helpers import drawn, states, texts

HALVES, QUARTERS = {"parts": 2}, {"parts": 4, "round": "near"}
# value, full, options -> whole, part, lost
UNITS: list[tuple[Value, Value, dict[str, Any], tuple[Value, Value, Value]]] = [
    (2.5, 5.0, HALVES, (2, 1, 2)),
    (0.0, 5.0, HALVES, (0, 0, 5)),
    (0.1, 5.0, HALVES, (0, 1, 4)),
    (0.5, 5.0, HALVES, (0, 1, 4)),
    (0.6, 5.0, HALVES, (1, 0, 4)),
    (5.0, 5.0, HALVES, (5, 0, 0)),
    (6.0, 5.0, HALVES, (5, 0, 0)),
    (-8.0, 5.0, HALVES, (0, 0, 5)),
    (None, 5.0, HALVES, (None, None, None)),
    (3.0, None, HALVES, (None, None, None)),
    (3.0, 0.0, HALVES, (0, 0, 0)),
    (3.0, -2.0, HALVES, (0, 0, 0)),
    (1.3, 3.0, QUARTERS, (1, 1, 1)),
    (1.1, 3.0, QUARTERS, (1, 0, 2)),
    (2.9, 4.0, {"round": "down"}, (2, 0, 2)),
    (50.0, 100.0, {"per_pip": 20, "parts": 2}, (2, 1, 2)),
    (4.2, 4.5, HALVES, (4, 1, 0)),
]


@pytest.mark.parametrize(("value", "full", "options", "expected"), UNITS)
def test_units_table(value: Value, full: Value, options: dict[str, Any], expected: tuple[Value, ...]) -> None:
    state = states("pips", {"value": "hull", "full": "air"}, options, hull=[value], air=[full])[0]
    assert (state["whole"], state["part"], state["lost"]) == expected


def test_bands_compare_the_share_of_full() -> None:
    bands = [{"name": "low", "below": "50%"}]
    found = states("pips", {"value": "hull", "full": "4"}, bands=bands, hull=[1.9, 2.0, None, 4.0])
    assert [state["band"] for state in found] == ["low", "", "", ""]


def squares(value: Value, options: dict[str, Any], size: tuple[float, float] = (200, 20)) -> list[Shape]:
    look = {"asset": "square", "gap": 5, "fill": "#ffffff", "back": "#000000"}
    return list(drawn("pips", {"value": "hull", "full": "5"}, options, size, look, hull=value))


def corner(shape: Shape) -> tuple[float, float, str]:
    path = shape.shapes[0] if isinstance(shape, Group) else shape
    assert isinstance(path, Lines)
    return (round(float(path.commands[0][1]), 3), round(float(path.commands[0][2]), 3), path.fill)


def test_each_stands_beside_the_one_before_and_halves_are_clipped() -> None:
    found = squares(2.5, HALVES)
    # A square's corner is inset by 8% of its side; five of 20 px with gaps of 5 are at 0, 25, 50 …
    assert [corner(s) for s in found] == [
        (1.6, 1.6, "#ffffff"), (26.6, 1.6, "#ffffff"), (51.6, 1.6, "#000000"), (51.6, 1.6, "#ffffff"),
        (51.6, 1.6, ""), (76.6, 1.6, "#000000"), (76.6, 1.6, ""), (101.6, 1.6, "#000000"), (101.6, 1.6, ""),
    ]  # fmt: skip
    assert all(shape.edge == "#dfe9e4" for shape in found if isinstance(shape, Lines) and not shape.fill), (
        "seen on any plate"
    )
    half = found[3]
    assert isinstance(half, Group)
    assert half.clip is not None
    assert (half.clip.x, half.clip.width) == (50, 10)


def test_lost_ones_may_be_hidden_rows_broken_and_the_rest_counted() -> None:
    assert len(squares(2.0, {"lost": "hidden"})) == 2
    rows = [corner(s)[:2] for s in squares(5.0, {"per_row": 2})]
    assert rows == [(1.6, 1.6), (26.6, 1.6), (1.6, 26.6), (26.6, 26.6), (1.6, 51.6)]
    cut = squares(5.0, {"most": 3})
    assert len(cut) == 4
    rest = cut[-1]
    assert isinstance(rest, TextRun)
    assert (rest.text, rest.x) == ("+2", 75)


def test_missing_is_hatched_and_a_thousand_do_not_fill_the_screen() -> None:
    assert not texts(tuple(squares(None, {})))
    many = drawn("pips", {"value": "hull", "full": "100000"}, {}, (200, 20), {}, hull=5000.0)
    assert len(many) <= 401
    assert texts(many)[-1].text == "+99600"
