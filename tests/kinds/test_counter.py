"""The counter's track and shapes."""

from __future__ import annotations

import pytest

from avrin.trace.frames import Value
from widget_helpers import boxes, drawn, states, texts

# scrap, pattern -> text
TEXTS: list[tuple[Value, str, str]] = [
    (263.0, "", "263"), (0.0, "", "0"), (-3.0, "", "-3"), (50.0, "", "50"), (0.5, "", "0.5"), (1 / 3, "", "0.33"),
    (263.0, "0.0", "263.0"), (12345.0, "#,##0", "12,345"), (None, "", "—"), (None, "0.0", "—"), (59.2, "m:ss, up", "1:00"),
    (-0.2, "0", "0"), (1e15, "#,##0", "1,000,000,000,000,000"),
]  # fmt: skip


@pytest.mark.parametrize(("value", "pattern", "text"), TEXTS)
def test_text_table(value: Value, pattern: str, text: str) -> None:
    state = states("counter", {"value": "hull"}, {"pattern": pattern}, hull=[value])[0]
    assert state["shown"] == value
    assert state["text"] == text


def test_rolling_takes_its_time_to_each_new_number_from_where_it_stood() -> None:
    values: list[Value] = [0.0, 100.0, 100.0, 0.0, 0.0, 0.0, 0.0, None, 8.0]
    found = [s["shown"] for s in states("counter", {"value": "hull"}, {"roll": 4.0}, hull=values)]
    # A second a frame, four seconds a roll: up by a quarter of the way, then back from 25 by quarters of 25.
    assert found == [0.0, 0.0, 25.0, 25.0, 18.75, 12.5, 6.25, None, 8.0]


def test_bands_compare_the_number_itself() -> None:
    bands = [{"name": "low", "below": "10"}, {"name": "rich", "above": "100"}]
    found = states("counter", {"value": "hull"}, bands=bands, hull=[9.0, 10.0, 100.0, 101.0, None])
    assert [s["band"] for s in found] == ["low", "", "", "rich", ""]


def test_missing_is_a_placeholder_on_hatching() -> None:
    shapes = drawn("counter", {"value": "hull"}, size=(200, 80), hull=None)
    assert [t.text for t in texts(shapes)] == ["—"]
    assert boxes(shapes)[0].fill == "#efebe2"
    assert not boxes(drawn("counter", {"value": "hull"}, size=(200, 80), hull=0.0))


@pytest.mark.parametrize(("align", "x"), [("left", 0.0), ("center", 100.0), ("right", 200.0)])
def test_alignment_and_caption(align: str, x: float) -> None:
    number, caption = texts(
        drawn("counter", {"value": "hull", "caption": "of {hull}"}, size=(200, 80), look={"align": align}, hull=7.0)
    )
    assert (number.text, caption.text) == ("7", "of 7")
    assert number.x == caption.x == x
    assert number.y < caption.y <= 80


def test_a_bad_pattern_is_an_error_of_the_options() -> None:
    with pytest.raises(Exception, match="widget 'w': `q` is not a pattern"):
        states("counter", {"value": "hull"}, {"pattern": "q"}, hull=[1.0])
