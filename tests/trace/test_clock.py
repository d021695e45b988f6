"""The unit of a time column without a unit in its name, guessed from its steps; worked out by hand."""

from __future__ import annotations

import numpy as np
import pytest

from avrin.trace.clock import Clock, NoTimeError, Unit, in_seconds, settle_clock


@pytest.mark.parametrize(
    ("step", "rows", "unit"),
    [
        (1, 32, "frames"), (1, 31, "s"), (3, 50, "s"), (4, 50, "ms"), (16, 50, "ms"), (3999, 50, "ms"), (4000, 50, "us"),
        (16667, 50, "us"), (0.5, 50, "s"), (4.5, 50, "s"), (0, 50, "s"),
    ],
)  # fmt: skip
def test_the_usual_step_tells_the_unit(step: float, rows: int, unit: Unit) -> None:
    clock = settle_clock(
        Clock(), ["time", "hull"], {"time": np.arange(rows) * step, "hull": np.full(rows, 0.5)}.__getitem__
    )
    assert (clock.time, clock.unit, clock.rate) == ("time", unit, 60.0 if unit == "frames" else 0.0)
    assert clock.guessed


@pytest.mark.parametrize(
    ("clock", "seconds"),
    [
        (Clock("time", "s"), [0.0, 30.0, 90.0]),
        (Clock("time", "ms"), [0.0, 0.03, 0.09]),
        (Clock("time", "us"), [0.0, 30e-6, 90e-6]),
        (Clock("time", "frames", 30.0), [0.0, 1.0, 3.0]),
        (Clock("time", "frames", 60.0), [0.0, 0.5, 1.5]),
    ],
)
def test_every_unit_comes_to_seconds(clock: Clock, seconds: list[float]) -> None:
    assert in_seconds(np.array([0.0, 30.0, 90.0]), clock).tolist() == pytest.approx(seconds)


def test_rows_at_the_same_time_say_nothing_of_the_unit() -> None:
    times = np.repeat(np.arange(50.0) * 16.0, 3)
    assert settle_clock(Clock(), ["time"], {"time": times}.__getitem__).unit == "ms"


def test_what_rises_now_and_then_is_not_taken_for_the_time() -> None:
    """A flag in figures rises too; only what rises at half as many frames as the best is asked about."""
    at = np.arange(400.0)
    columns = {"uhr": at / 10, "strecke": at * 3, "nass": (at // 50 % 2), "tor": at // 100}
    with pytest.raises(NoTimeError) as told:
        settle_clock(Clock(), [*columns], columns.__getitem__)
    assert [one.time for one in told.value.choices[:-1]] == ["uhr", "strecke"]
