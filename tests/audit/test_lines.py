"""Where checks draw their lines: a fault at each, and none just beside it."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.audit import Finding
from avrin.model import Variable
from seeded import Seed, inspected, prompt, widget


def found(seed: Seed, code: str, folder: Path) -> list[Finding]:
    return [finding for finding in inspected(seed, folder)[1] if finding.code == code]


@pytest.mark.parametrize(
    ("rule", "times"), [("blink(0.2s)", "5.0"), ("blink(0.3s)", "3.3"), ("blink(0.34s)", ""), ("blink(1s)", "")]
)
def test_what_blinks_more_than_three_times_a_second(rule: str, times: str, tmp_path: Path) -> None:
    told = found(Seed([widget("label", {"text": "x", "visible": rule})]), "flashes-fast", tmp_path)
    assert [one.short for one in told] == ([f"blinks {times} times a second"] if times else [])


@pytest.mark.parametrize(("step", "stays"), [(1.8, ""), (1.9, "21"), (3.0, "33")])
def test_a_message_that_stays_for_twenty_seconds_to_the_end(step: float, stays: str, tmp_path: Path) -> None:
    told = found(Seed([prompt("hull < 200")], step=step), "never-ends", tmp_path)
    assert [one.why for one in told] == ([f"W comes and stays for {stays} s, to the end of the run"] if stays else [])


@pytest.mark.parametrize(("high", "never"), [(20, False), (19.5, True), (None, False)])
def test_what_can_never_be_reached_is_told_by_the_range(high: float | None, never: bool, tmp_path: Path) -> None:
    gauge = Variable(name="gauge", type="float", low=0, high=high)
    shown = widget("label", {"text": "x", "visible": "gauge >= 20"})
    seed = Seed([shown], {"gauge": [float(i) for i in range(12)]}, project={"variables": (gauge,)})
    (told,) = found(seed, "never-true", tmp_path)
    assert "the most any of them reaches is 11 of 20" in told.why
    assert ("so it never can be" in told.why) == never
