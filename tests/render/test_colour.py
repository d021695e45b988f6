"""Colours as eyes take them, against figures that others have worked out."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from avrin.render.colour import VISIONS, contrast_ratio, delta_e, over, parsed, seen_by
from avrin.trace.frames import FloatArray

COLOURS = arrays(np.float64, (3,), elements=st.floats(0, 1))


def colour(text: str) -> FloatArray:
    return parsed(text)[0]


@pytest.mark.parametrize(
    ("front", "back", "ratio"),
    [
        ("#000000", "#ffffff", 21.0),
        ("#ffffff", "#ffffff", 1.0),
        ("#767676", "#ffffff", 4.54),  # the lightest grey that passes for text on white
        ("#777777", "#ffffff", 4.48),
        ("#ff0000", "#ffffff", 4.0),
    ],
)
def test_known_contrasts(front: str, back: str, ratio: float) -> None:
    assert float(contrast_ratio(colour(front), colour(back))) == pytest.approx(ratio, abs=0.005)


@given(COLOURS, COLOURS)
def test_contrast_and_distance_are_symmetric_and_bounded(item: FloatArray, other: FloatArray) -> None:
    assert contrast_ratio(item, other) == contrast_ratio(other, item)
    assert 1 <= contrast_ratio(item, other) <= 21.0001
    assert delta_e(item, other) == pytest.approx(delta_e(other, item))
    assert delta_e(item, item) == 0


@given(COLOURS, st.sampled_from(list(VISIONS)))
def test_greys_stay_greys_for_all_eyes_and_nothing_leaves_the_range(item: FloatArray, vision: str) -> None:
    grey = np.full(3, item[0])
    assert seen_by(grey, vision) == pytest.approx(grey, abs=2e-3)
    assert (seen_by(item, vision) >= 0).all()
    assert (seen_by(item, vision) <= 1).all()


def test_red_and_green_of_one_lightness_meet_where_a_cone_is_wanting() -> None:
    red, green = colour("#b05030"), colour("#6f7730")
    full = float(delta_e(red, green))
    for vision in ("no red cones", "no green cones"):
        assert float(delta_e(seen_by(red, vision), seen_by(green, vision))) < full / 2
    assert float(delta_e(seen_by(red, "full colour"), seen_by(green, "full colour"))) == pytest.approx(full, abs=1e-6)


def test_white_is_a_hundred_steps_from_black() -> None:
    assert float(delta_e(np.ones(3), np.zeros(3))) == pytest.approx(100, abs=0.01)


def test_what_is_half_there_is_half_mixed() -> None:
    front, alpha = parsed("#ff000080")
    assert alpha == pytest.approx(0.502, abs=0.001)
    assert over(front, alpha, np.ones(3)) == pytest.approx([1, 0.498, 0.498], abs=0.001)
    assert over(front, 0, np.ones(3)) == pytest.approx(np.ones(3))


# Two greys or colours and how far apart they are, by the formula's own arithmetic; below a share of 0.0089 it is a straight line.
DISTANCES = [
    ("#000000", "#010101", 0.274), ("#000000", "#0a0a0a", 2.742), ("#7f7f7f", "#808080", 0.389), ("#ff0000", "#00ff00", 170.585),
    ("#0000ff", "#ffffff", 149.96), ("#000010", "#000000", 6.891),
]  # fmt: skip


@pytest.mark.parametrize(("item", "other", "far"), DISTANCES)
def test_known_distances(item: str, other: str, far: float) -> None:
    assert float(delta_e(colour(item), colour(other))) == pytest.approx(far, abs=0.02)
