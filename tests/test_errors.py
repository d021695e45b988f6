"""Messages about what failed outside Avrin."""

from __future__ import annotations

import pytest

from avrin.errors import reason_of


@pytest.mark.parametrize(
    ("error", "reason"),
    [
        (FileNotFoundError(2, "No such file or directory"), "no such file or directory"),
        (OSError("The pipe Closed"), "The pipe Closed"),
        (ValueError("Expected 3 columns\nin row 7"), "Expected 3 columns"),
        (ValueError("\nlate"), "ValueError"),
        (MemoryError(), "MemoryError"),
        (ValueError("x" * 120), "x" * 120),
        (ValueError("x" * 121), "x" * 120 + "…"),
    ],
)
def test_a_reason_is_one_line(error: Exception, reason: str) -> None:
    assert reason_of(error) == reason
