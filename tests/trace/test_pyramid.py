"""The pyramid never hides or invents an extreme."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avrin.trace.pyramid import Pyramid

SIGNALS = st.lists(st.floats(-100, 100) | st.just(float("nan")), max_size=300).map(np.array)


@given(SIGNALS, st.data())
def test_every_level_has_the_extremes_of_the_samples_it_covers(values: np.ndarray, data: st.DataObject) -> None:
    pyramid = Pyramid(values.astype(float))
    level = data.draw(st.integers(0, len(pyramid.low) - 1))
    step = 4**level
    for i, (low, high) in enumerate(zip(pyramid.low[level], pyramid.high[level], strict=True)):
        part = values[i * step : (i + 1) * step]
        known = part[~np.isnan(part)] if len(part) else part
        if len(known):
            assert (low, high) == (known.min(), known.max())
        else:
            assert np.isnan(low)
            assert np.isnan(high)


@given(st.floats(0.01, 1e6))
def test_a_level_leaves_at_least_two_entries_a_pixel(samples: float) -> None:
    pyramid = Pyramid(np.zeros(100_000))
    level = pyramid.level(samples)
    assert level == 0 or samples / 4**level >= 2
