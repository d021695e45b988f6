"""The timer: seconds as a clock that never shows its end too early."""

from __future__ import annotations

from typing import Any

import pytest

from avrin.binding.places import RulePlace
from avrin.trace.frames import Value
from widget_helpers import drawn, states, texts

DOWN: dict[str, Any] = {}
UP = {"way": "up"}
# value, options -> seconds, text
CLOCKS: list[tuple[Value, dict[str, Any], Value, str]] = [
    (60.0, DOWN, 60, "1:00"),
    (59.2, DOWN, 59.2, "1:00"),
    (60.1, DOWN, 60.1, "1:01"),
    (0.1, DOWN, 0.1, "0:01"),
    (0.0, DOWN, 0, "0:00"),
    (-1.0, DOWN, 0, "0:00"),
    (None, DOWN, None, "—"),
    (599.0, DOWN, 599, "9:59"),
    (3600.0, DOWN, 3600, "60:00"),
    (59.9, UP, 59.9, "0:59"),
    (0.5, UP, 0.5, "0:00"),
    (3661.0, {"pattern": "h:mm:ss"}, 3661, "1:01:01"),
    (9.81, {"pattern": "s.S"}, 9.81, "9.9"),
    (9.81, {"pattern": "s.S, down"}, 9.81, "9.8"),
    (75.0, {"pattern": ""}, 75, "75"),
]


@pytest.mark.parametrize(("value", "options", "seconds", "text"), CLOCKS)
def test_clock_table(value: Value, options: dict[str, Any], seconds: Value, text: str) -> None:
    state = states("timer", {"value": "air"}, options, air=[value])[0]
    assert (state["seconds"], state["text"]) == (seconds, text)


def test_bands_compare_the_seconds_and_a_caption_stands_below() -> None:
    bands = [{"name": "end", "below": "10s"}, {"name": "last", "below": "1min"}]
    found = states("timer", {"value": "air"}, bands=bands, air=[9.9, 10.0, 60.0, -3.0])
    assert [state["band"] for state in found] == ["end", "last", "", "end"]
    runs = texts(drawn("timer", {"value": "air", "caption": "TIDE"}, {}, (200, 80), {"align": "right"}, air=61.0))
    assert [run.text for run in runs] == ["1:01", "TIDE"]
    assert all(run.x == 200 for run in runs)
    assert runs[0].y < runs[1].y


def test_a_pattern_that_is_none_is_reported() -> None:
    from avrin.binding.binding import bind
    from widget_helpers import project

    bound = bind(project("timer", {"value": "air"}, {"pattern": "q:qq"}))
    assert "is not a pattern" in str(bound.errors[RulePlace("widget", "w", "options")])
