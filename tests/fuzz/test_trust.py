"""A few rounds of what `trust.py` runs many of."""

from __future__ import annotations

import pytest
from trust import run


@pytest.mark.parametrize("seed", range(3))
def test_nothing_is_lost_false_or_untold(seed: int) -> None:
    run(seed)
