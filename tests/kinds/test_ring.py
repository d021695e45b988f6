"""The ring: a bar's track bent round, its arcs by angles worked by hand."""

from __future__ import annotations

import math
from typing import Any

import pytest

from avrin.kinds.ring import arc
from avrin.kinds.shapes import Path as Lines
from avrin.trace.frames import Value
from widget_helpers import drawn, states

FRACTIONS: list[tuple[Value, Value]] = [
    (100.0, 1.0), (50.0, 0.5), (0.0, 0.0), (-8.0, 0.0), (152.0, 1.0), (None, None), (25.0, 0.25), (75.0, 0.75),
]  # fmt: skip


@pytest.mark.parametrize(("hull", "fraction"), FRACTIONS)
def test_its_track_is_the_bars(hull: Value, fraction: Value) -> None:
    assert states("ring", {"value": "hull", "full": "100"}, hull=[hull])[0]["fraction"] == fraction


# share of full, start, sweep -> where the fill ends, in a ring of radius 40 around (50, 50)
ENDS: list[tuple[float, dict[str, Any], tuple[float, float]]] = [
    (0.25, {}, (90, 50)),
    (0.5, {}, (50, 90)),
    (0.75, {}, (10, 50)),
    (1.0, {}, (50, 10)),
    (0.125, {}, (50 + 40 * math.sqrt(0.5), 50 - 40 * math.sqrt(0.5))),
    (0.5, {"start": 180, "sweep": 180}, (10, 50)),
    (1.0, {"start": 180, "sweep": 180}, (50, 10)),
    (0.5, {"start": -90, "sweep": 180}, (50, 10)),
    (1.0, {"start": -90, "sweep": 180}, (90, 50)),
    (0.0, {}, (50, 10)),
    (1.0, {"sweep": 90}, (90, 50)),
    (0.5, {"start": 90, "sweep": 180}, (50, 90)),
]


@pytest.mark.parametrize(("share", "options", "end"), ENDS)
def test_the_fill_ends_where_its_angle_says(share: float, options: dict[str, Any], end: tuple[float, float]) -> None:
    look = {"thick": 20, "fill": "#123456"}
    found = drawn("ring", {"value": "hull", "full": "100"}, options, (100, 100), look, hull=share * 100)
    fills = [s for s in found if isinstance(s, Lines) and s.edge == "#123456"]
    assert len(fills) == (1 if share else 0)
    if share:
        *_, x, y = fills[0].commands[-1]
        assert [float(x), float(y)] == pytest.approx(end, abs=1e-9)
        assert fills[0].edge_width == 20


def test_curves_stay_on_the_circle() -> None:
    for start, sweep in ((0, 360), (30, 100), (200, -250)):
        for command in arc(0, 0, 1, start, sweep)[1:]:
            *_, x, y = command
            assert math.hypot(float(x), float(y)) == pytest.approx(1)
