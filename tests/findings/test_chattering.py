"""Bands that come again at once: counted by hand, reported at the fullest minute, and fixed by the nearest `back` that helps."""

from __future__ import annotations

from typing import Any

import pytest

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.finding import Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import Band, Project, Variable
from avrin.trace.frames import Column, Trace
from seeded import bar, label

LOW = Band(name="low", below="50%")


def over(project: Project, *levels: list[float], step: float = 0.1, run: list[int] | None = None) -> list[Tracks]:
    bound = bind(project)
    bound.raise_first()
    return [
        Tracks(bound, Trace.make(f"r{i}", [step * k for k in range(len(one))], {"hull": Column.of([*one])}, run))
        for i, one in enumerate(levels)
    ]


def shown(band: Band = LOW, **more: Any) -> Project:
    return Project(variables=(Variable(name="hull", type="float"),), widgets=(bar(bands=(band,), **more),))


def listed(every: list[Tracks]) -> list[Finding]:
    return [one for one in Inspector(CHECKS).inspect(every[0].bound, every) if one.code == "chatters"]


def beating(times: int, away: int = 1, there: int = 1) -> list[float]:
    """Low for some frames, then not, so many times over."""
    return ([40.0] * there + [60.0] * away) * times


@pytest.mark.parametrize(("times", "reported"), [(4, False), (5, True)])
def test_more_than_three_times_a_minute_is_reported(times: int, reported: bool) -> None:
    """Of n times that it is low it comes again n - 1 times."""
    assert bool(listed(over(shown(), beating(times)))) is reported


@pytest.mark.parametrize(("away", "reported"), [(9, True), (10, False)])
def test_what_stays_away_for_a_second_has_not_come_again(away: int, reported: bool) -> None:
    assert bool(listed(over(shown(), beating(6, away)))) is reported


def test_the_moments_and_the_words_are_those_of_the_worst_recording() -> None:
    every = over(shown(), beating(5, 3), [60.0] * 20 + beating(7, 2))
    (one,) = listed(every)
    assert one.why == "W turns low and back 7 times in r1, 6 of them within a second, at shortest after 200 ms"
    assert (one.trace, one.moments[0], one.moments[-1]) == ("r1", (20, 21), (38, 39))
    assert (one.start, one.end, one.weight) == (20, 33, 6.0)


def test_a_minute_is_not_longer_and_runs_are_reported_apart() -> None:
    slow = beating(2, 1) + [60.0] * 290 + beating(2, 1) + [60.0] * 290 + beating(2, 1) + [60.0] * 290 + beating(2, 1)
    assert not listed(over(shown(), slow)), "four within 88 seconds"
    assert listed(over(shown(), slow, step=0.05)), "and within 44"
    assert not listed(over(shown(), beating(6), run=[1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4]))


def test_the_mend_is_the_nearest_back_that_helps() -> None:
    every = over(shown(), [49.0, 51.0] * 30 + [100.0] * 40 + [0.0] * 40 + [100.0] * 40)
    (one,) = listed(every)
    assert one.fix is not None
    assert one.fix.label == "set back to 52%"
    mended = one.fix.apply(every[0].bound.project)
    assert mended.widgets[0].bands[0].back == "52%"
    assert not listed(over(mended, [49.0, 51.0] * 30 + [90.0] * 10))


def test_above_its_limit_it_goes_back_below_it() -> None:
    every = over(shown(Band(name="high", above="0.5")), [49.0, 51.0] * 30 + [100.0] * 40 + [0.0] * 40)
    (one,) = listed(every)
    assert one.fix is not None
    assert one.fix.label == "set back to 0.48"


def test_what_blinks_by_design_is_left_alone_and_what_comes_and_goes_is_not() -> None:
    blinks = label("Low", also={"visible": "hull < 50 and blink(200ms)"})
    wavers = label("Low", ident="v", also={"visible": "hull < 50"})
    project = Project(variables=(Variable(name="hull", type="float"),), widgets=(blinks, wavers))
    (one,) = listed(over(project, beating(6)))
    assert (one.widget, one.about, one.fix) == ("v", "visible", None)
    assert one.why.startswith("V comes and goes 6 times")


def test_a_limit_that_is_a_rule_has_no_mend() -> None:
    (one,) = listed(over(shown(Band(name="low", below="hull * 0 + 50%")), beating(6)))
    assert one.fix is None
