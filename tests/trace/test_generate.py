"""Traces made from declarations: what each part visits, and that equal plans give equal traces."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.project.project import Variable
from avrin.trace.frames import Trace
from avrin.trace.generate import PARTS, Plan, generate_trace

VARIABLES = {
    "hull": Variable(name="hull", type="float", start=100, low=0, high=140),
    "scrap": Variable(name="scrap", type="int", start=0, low=0, high=20),
    "best": Variable(name="best", type="int", start=3, low=0, high=9, keeps=True),
    "leak": Variable(name="leak", type="bool", start=False),
    "phase": Variable(name="phase", type="text", start="dive"),
    "crew[1].name": Variable(name="name", type="text"),
}
PLAN = Plan(thresholds={"hull": [25.0], "scrap": [7]}, words={"phase": ["dive", "lost"]}, seconds=1, rate=30)


def observed(trace: Trace, name: str) -> set[float]:
    return set(trace.columns[name].data.round(6).tolist())


def only(*parts: str) -> Trace:
    return generate_trace("made", VARIABLES, replace(PLAN, parts=parts))


def test_ramps_run_from_end_to_end_and_through_all_words() -> None:
    trace = only("ramps")
    assert (trace.columns["hull"].data.min(), trace.columns["hull"].data.max()) == (0, 140)
    assert observed(trace, "scrap") == set(range(21))
    assert trace.columns["phase"].words == ("dive", "lost")
    assert {trace.columns["leak"][i] for i in range(len(trace))} == {False, True}
    moving = [np.flatnonzero(np.diff(trace.columns[name].data)) for name in ("hull", "scrap", "best")]
    assert moving[0].max() < moving[1].min() < moving[1].max() < moving[2].min()  # one after another


def test_steps_stand_below_at_and_above_every_threshold_and_end() -> None:
    trace = only("steps")
    assert {6, 7, 8, -1, 0, 1, 19, 20, 21} <= observed(trace, "scrap")
    assert {25 - 0.28, 25, 25 + 0.28, -0.28, 140.28} <= observed(trace, "hull")


def test_jumps_leap_over_several_steps() -> None:
    scrap = only("jumps").columns["scrap"].data
    assert np.abs(np.diff(scrap)[np.diff(scrap) != 0]).min() > 1
    assert scrap.min() < 0 <= 20 <= scrap.max()


def test_a_restart_resets_what_is_not_kept() -> None:
    trace = only("restart")
    start = int(trace.run_starts[1])
    assert [trace.columns[n][start] for n in ("hull", "scrap", "best", "leak", "phase", "crew[1].name")] == [
        100, 0, 3, False, "dive", None,
    ]  # fmt: skip
    away = [trace.columns[n][start - 1] for n in ("hull", "scrap", "best")]
    assert away == [pytest.approx(51.8), 7.0, 3.0]
    both = only("ramps", "restart")
    assert both.columns["best"][int(both.run_starts[1])] == 3.0


@given(st.integers(0, 1000))
def test_walks_stay_near_their_range_and_are_the_same_for_the_same_seed(seed: int) -> None:
    plan = replace(PLAN, parts=("walks",), seed=seed)
    trace, again = generate_trace("a", VARIABLES, plan), generate_trace("b", VARIABLES, plan)
    hull, scrap = trace.columns["hull"].data, trace.columns["scrap"].data
    assert -0.03 * 140 <= hull.min() <= hull.max() <= 1.03 * 140
    assert (scrap == np.rint(scrap)).all()
    assert len(np.unique(hull)) > 20
    assert hull.tobytes() == again.columns["hull"].data.tobytes()


def test_every_part_makes_runs_of_all_variables() -> None:
    trace = generate_trace("made", VARIABLES, PLAN)
    assert list(trace.columns) == list(VARIABLES)
    assert len(trace.run_starts) == len(PARTS) + 1  # the restart is two
    assert np.allclose(np.diff(trace.t), 1 / 30)


@pytest.mark.parametrize(
    ("variables", "plan", "words"),
    [
        ({}, PLAN, "there are no variables"),
        (VARIABLES, replace(PLAN, parts=("leaps",)), "no part 'leaps'. There are ramps, steps, jumps, restart, walks"),
        (VARIABLES, replace(PLAN, rate=0), "the rate is above 0"),
        (VARIABLES, replace(PLAN, seconds=3600, rate=100_000), "more than this program holds"),
    ],
)
def test_what_cannot_be_made_is_reported(variables: dict[str, Variable], plan: Plan, words: str) -> None:
    with pytest.raises(AvrinError, match=words):
        generate_trace("made", variables, plan)
