"""Curves show every extreme, wherever one zooms."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtGui import QColor

from avrin.app.painting.curve import Span, curve_image, ranges
from avrin.trace.pyramid import Pyramid

SIGNALS = st.lists(st.floats(-50, 50) | st.just(float("nan")), min_size=1, max_size=400).map(
    lambda v: np.array(v, float)
)


@given(SIGNALS, st.integers(1, 60), st.floats(0, 0.8), st.floats(0.05, 1))
def test_each_column_holds_at_least_what_fell_into_it_and_nothing_that_is_nowhere_near(
    values: np.ndarray, width: int, start: float, share: float
) -> None:
    axis = np.arange(len(values)) / 10
    length = max(float(axis[-1]), 0.1)
    per_pixel = length * share / width
    span = Span.of(axis, start * length, per_pixel, width)
    low, high = ranges(Pyramid(values), span)
    reach = 4 ** (len(Pyramid(values).low) - 1)
    for k in range(width):
        first, last = int(span.edges[k]), int(span.edges[k + 1])
        inside = values[first:last][~np.isnan(values[first:last])]
        if len(inside):
            assert low[k] <= inside.min()
            assert inside.max() <= high[k]
        near = values[max(0, first - 1 - reach) : last + reach]
        near = near[~np.isnan(near)]
        if not np.isnan(low[k]):
            assert near.min() <= low[k] <= high[k] <= near.max()


def test_a_value_holds_until_the_next_frame_when_frames_are_wider_than_pixels() -> None:
    axis, values = np.array([0.0, 1.0, 2.0]), np.array([1.0, 5.0, 2.0])
    low, high = ranges(Pyramid(values), Span.of(axis, 0.0, 0.25, 8))
    assert low.tolist() == [1, 1, 1, 1, 1, 5, 5, 5]  # the column in which the value steps shows both
    assert high.tolist() == [1, 1, 1, 1, 5, 5, 5, 5]


def test_the_picture_covers_the_line_and_leaves_missing_columns_clear() -> None:
    low = high = np.array([0.0, 5.0, 10.0, np.nan])
    image = curve_image(low, high, (0.0, 10.0), 21, QColor("#ff0000"))
    rows = [[image.pixelColor(x, y).alpha() for y in range(21)] for x in range(4)]
    assert [max(range(21), key=row.__getitem__) for row in rows[:3]] == [19, 10, 1]
    assert not any(rows[3])
    assert all(sum(row) >= 255 for row in rows[:3])
