"""The unit of a time column without a unit in its name, guessed from its steps; worked out by hand."""

from __future__ import annotations

from collections.abc import Sequence

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


def settled(**columns: Sequence[float]) -> Clock:
    known = {name: np.array(values, float) for name, values in columns.items()}
    return settle_clock(Clock(), [*known], known.__getitem__)


SONG = [0, 50, 100, 150, 200, 0, 50, 100, 150, 0, 50, 100, 150, 200]
# columns beside a time in milliseconds that starts over twice -> what tells its runs apart
RESTARTS: list[tuple[dict[str, Sequence[float]], str]] = [
    ({}, "restarts"),
    ({"song_no": [1] * 5 + [2] * 4 + [3] * 5}, "song_no"),
    ({"wave": [1] * 2 + [2] * 3 + [3] * 4 + [4] * 5}, "restarts"),  # it counts on elsewhere, too
    ({"life": [1] * 2 + [2] * 3 + [3] * 4 + [4] * 5}, "life"),  # but its name says so
    ({"life": [1] * 7 + [2] * 7}, "restarts"),  # its name says so, and the time does not
    ({"run": [4] * 5 + [9] * 4 + [1] * 5}, "run"),
    ({"score": [0, 1, 2, 3, 4, 4, 5, 6, 7, 7, 8, 9, 9, 9]}, "restarts"),
]


@pytest.mark.parametrize(("beside", "run"), RESTARTS)
def test_runs_begin_where_the_time_starts_over(beside: dict[str, Sequence[float]], run: str) -> None:
    clock = settled(song_pos_ms=SONG, **beside)
    assert (clock.time, clock.unit, clock.run) == ("song_pos_ms", "ms", run)


@pytest.mark.parametrize(
    ("times", "run"),
    [
        ([0, 1, 2, 3], ""), ([0, 1, 2, 1, 2, 3], ""),  # a row out of order
        ([0, 1, 2, 3, 4, 5, 2, 3, 4], "restarts"), ([0, 1, 2, 3, 4, 5, 6, 3, 4], ""),  # two steps from the beginning, and three
        ([0, 1, 2, 3, 0, 1, 2, 0, 1, 2], "restarts"), ([0, 1, 0, 1, 0, 1, 0], ""),  # half of its steps fall
        ([*range(200), 3, 4, 5], "restarts"), ([*range(200), 4, 5, 6], ""),  # within a fiftieth of its range
    ],
)  # fmt: skip
def test_a_restart_falls_to_the_beginning_and_most_of_the_way(times: list[float], run: str) -> None:
    assert settled(t=times).run == run


def test_what_a_clock_does_not_do_is_no_choice_for_the_time() -> None:
    """Gold is spent, kills come as they come; the clock goes on by the same step."""
    rng = np.random.default_rng(1)
    gold = 150 + np.cumsum(rng.integers(0, 4, 400)) - 300.0 * (np.arange(400) >= 200)
    kills = np.cumsum(rng.random(400) < 0.9)
    columns = {"gold": gold, "kills": kills, "uhr": np.arange(400) / 10}
    with pytest.raises(NoTimeError) as told:
        settle_clock(Clock(), [*columns], columns.__getitem__)
    assert [one.time for one in told.value.choices[:-1]] == ["uhr", "kills"]


@pytest.mark.parametrize("name", ["Zeit", "temps_sec", "Tiempo", "tempo", "Spiel Zeit", "время", "时间"])
def test_the_time_is_known_in_other_languages(name: str) -> None:
    assert settled(**{"bpm": [174.0] * 9, name: [i / 10 for i in range(9)]}).time == name
    with pytest.raises(NoTimeError):
        settled(**{name: [174.0] * 9, "x": [0.0] * 9})
