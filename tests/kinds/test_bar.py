"""The bar's track and shapes, by tables worked by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.kinds.shapes import Box, Group
from avrin.trace.frames import Value
from widget_helpers import boxes, drawn, states

# hull, full -> fraction when clamped, when spilling
FRACTIONS: list[tuple[Value, Value, Value, Value]] = [
    (100.0, 100.0, 1.0, 1.0),
    (50.0, 100.0, 0.5, 0.5),
    (0.0, 100.0, 0.0, 0.0),
    (-8.0, 100.0, 0.0, -0.08),
    (152.0, 100.0, 1.0, 1.52),
    (35.0, 140.0, 0.25, 0.25),
    (None, 100.0, None, None),
    (50.0, None, None, None),
    (50.0, 0.0, None, None),
    (5.0, -10.0, 0.0, -0.5),
    (1e300, 1e-300, 1.0, float("inf")),
    (0.0, 0.0, None, None),
]


@pytest.mark.parametrize(("hull", "full", "clamped", "spilled"), FRACTIONS)
def test_fraction_table(hull: Value, full: Value, clamped: Value, spilled: Value) -> None:
    inputs = {"value": "hull", "full": "air"}
    assert states("bar", inputs, hull=[hull], air=[full])[0]["fraction"] == clamped
    assert states("bar", inputs, {"over": "spill"}, hull=[hull], air=[full])[0]["fraction"] == spilled


def test_empty_moves_the_zero() -> None:
    inputs = {"value": "hull", "full": "20", "empty": "10"}
    found = [s["fraction"] for s in states("bar", inputs, hull=[5.0, 10.0, 15.0, 20.0])]
    assert found == [0.0, 0.0, 0.5, 1.0]


def test_the_trail_waits_then_sinks_at_its_rate_and_rises_at_once() -> None:
    inputs = {"value": "hull", "full": "100"}
    options = {"trail": {"wait": 1.0, "rate": 0.25}}
    hull: list[Value] = [100.0, 50.0, 50.0, 50.0, 50.0, 50.0, None, 90.0]
    found = [s["trail"] for s in states("bar", inputs, options, hull=hull)]
    # One frame a second: falls at 1 s, waits until 2 s, then a quarter a second; missing never changes.
    assert found == [1.0, 1.0, 0.75, 0.5, 0.5, 0.5, 0.5, 0.9]


BANDS = [{"name": "critical", "below": "10%"}, {"name": "low", "below": "25%", "back": "30%"}]
# hull of 100 over time -> band: low is sticky until 30, critical is not, missing keeps what is latched.
STICKY: list[tuple[Value, str]] = [
    (100.0, ""), (26.0, ""), (25.0, ""), (24.9, "low"), (29.9, "low"), (30.0, ""), (26.0, ""), (9.9, "critical"),
    (10.0, "low"), (27.0, "low"), (None, "low"), (31.0, ""), (-5.0, "critical"), (28.0, "low"),
]  # fmt: skip


def test_sticky_band_table() -> None:
    hull = [value for value, _ in STICKY]
    found = [s["band"] for s in states("bar", {"value": "hull", "full": "100"}, bands=BANDS, hull=hull)]
    assert found == [band for _, band in STICKY]


def test_above_and_when_bands_and_the_first_match_wins() -> None:
    bands = [
        {"name": "odd", "when": "leak"},
        {"name": "high", "above": "90%", "back": "80%"},
        {"name": "most", "above": "0"},
    ]
    found = states(
        "bar", {"value": "hull", "full": "100"}, bands=bands,
        hull=[95.0, 85.0, 80.0, 0.0, 50.0], leak=[False, False, False, False, True],
    )  # fmt: skip
    assert [s["band"] for s in found] == ["high", "high", "most", "", "odd"]


# grow -> the fill's rectangle in a bar of 100 × 20 (edge 2, gap 3: inside 90 × 10) at a quarter
GROWN = [
    ("right", (5.0, 5.0, 22.5, 10.0)),
    ("left", (72.5, 5.0, 22.5, 10.0)),
    ("down", (5.0, 5.0, 90.0, 2.5)),
    ("up", (5.0, 12.5, 90.0, 2.5)),
    ("middle", (38.75, 5.0, 22.5, 10.0)),
]


@pytest.mark.parametrize(("grow", "rect"), GROWN)
def test_fill_rectangle_table(grow: str, rect: tuple[float, float, float, float]) -> None:
    shapes = drawn("bar", {"value": "hull", "full": "100"}, {"grow": grow}, size=(100, 20), hull=25.0)
    fill = next(b for b in boxes(shapes) if b.fill == "#4c9a80")
    assert (fill.x, fill.y, fill.width, fill.height) == rect


def test_below_zero_spills_out_at_the_empty_end_only_when_told_to() -> None:
    inputs = {"value": "hull", "full": "100"}
    clamped = boxes(drawn("bar", inputs, size=(100, 20), hull=-50.0))
    assert all(b.x >= 0 and b.x + b.width <= 100 for b in clamped)
    spilled = boxes(drawn("bar", inputs, {"over": "spill"}, size=(100, 20), hull=-50.0))
    assert min(b.x for b in spilled) == 5.0 - 45.0


def test_missing_is_hatched_and_not_an_empty_bar() -> None:
    inputs = {"value": "hull", "full": "100"}
    missing, empty = (drawn("bar", inputs, size=(100, 20), hull=value) for value in (None, 0.0))
    marks = [
        s for s in missing if isinstance(s, Group) and any(isinstance(b, Box) and b.fill == "#efebe2" for b in s.shapes)
    ]
    assert len(marks) == 1
    assert missing != empty


def test_per_unit_makes_it_longer_with_full() -> None:
    options = {"per_unit": 2.0}
    frame = boxes(drawn("bar", {"value": "hull", "full": "140"}, options, size=(100, 20), hull=70.0))[0]
    assert frame.width == 280.0


def test_segments_cut_the_fill() -> None:
    inner = drawn("bar", {"value": "hull", "full": "100"}, {"segments": 5}, size=(100, 20), hull=100.0)
    gaps = [b for b in boxes(inner) if b.width == 2.0]
    assert [b.x + 1 for b in gaps] == [23.0, 41.0, 59.0, 77.0]


@given(
    st.floats(1, 400), st.floats(1, 400), st.sampled_from(["right", "left", "up", "down"]), st.booleans(),
    st.sampled_from([None, {"edge_width": 4.0}, {"gap": 9.0}]),
)  # fmt: skip
def test_at_any_size_most_of_a_full_bar_is_fill(
    width: float, height: float, grow: str, caption: bool, look: dict[str, float] | None
) -> None:
    inputs = {"value": "hull", "full": "100", **({"caption": "HULL"} if caption else {})}
    shapes = drawn("bar", inputs, {"grow": grow}, (width, height), look, hull=100.0)
    outer = next(shape for shape in shapes if isinstance(shape, Box))
    (fills,) = [shape for shape in shapes if isinstance(shape, Group)]
    fill = fills.shapes[0]
    assert isinstance(fill, Box)
    thin = min(outer.width, outer.height)
    assert min(fill.width, fill.height) >= 0.399 * thin
    assert fill.width <= outer.width
    assert fill.height <= outer.height
