"""What is wished of a warning: which limits fulfil it, which is nearest, and why none can. Worked out by hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.project.project import Band, Outcome, Project, Variable, Widget
from avrin.trace.frames import Column, Trace
from avrin.tuning.curves import Terms, curves, outcomes_at
from avrin.tuning.goals import Hard, Wish, best, fulfils, hard, nearest_limit
from avrin.tuning.sentences import band_label, band_sentence, minutes_of, nearest_sentence
from avrin.tuning.signals import Question, Signal, asked, signals
from avrin.tuning.suggestions import rare_flags
from avrin.tuning.values import levels, usual_values

TERMS = Terms(lead=3.0, within=2.0)


def posed(*falls: list[float], limit: str = "50%") -> tuple[list[Signal], Question]:
    """A bar over recordings of one frame a second; each is lost where the level is 0."""
    widget = Widget(
        id="hull", kind="bar", inputs={"value": "hull", "full": "100"}, bands=(Band(name="low", below=limit),)
    )
    bound = bind(Project(variables=(Variable(name="hull", type="float"),), widgets=(widget,)))
    every = [
        Tracks(bound, Trace.make(f"r{i}", [float(s) for s in range(len(fall))], {"hull": Column.of([*fall])}))
        for i, fall in enumerate(falls)
    ]
    question = asked(bound, "hull", "low", "hull <= 0")
    return signals(every, question), question


SLOW = [100.0, 80.0, 60.0, 45.0, 40.0, 30.0, 20.0, 0.0, 100.0]  # below 50 % from 3 s on, lost at 7 s
SUDDEN = [100.0, 100.0, 90.0, 70.0, 65.0, 62.0, 62.0, 0.0, 100.0]  # in one step, from 62
QUICK = [100.0, 100.0, 100.0, 100.0, 70.0, 40.0, 20.0, 0.0, 100.0]  # 3 s ahead it was still at 70


def test_a_wish_is_met_where_enough_are_warned_and_few_alarms_false() -> None:
    found, question = posed(SLOW, SUDDEN)
    told = curves(found, question, np.array([0.1, 0.5, 0.75]), TERMS)
    assert (told.warned.tolist(), told.false.tolist()) == ([0, 1, 2], [0, 0, 0])
    for warned, good in ((50, [False, True, True]), (51, [False, False, True]), (0, [True, True, True])):
        assert fulfils(told.warned, told.false, told.outcomes, Wish(warned, 1), 1.0).tolist() == good
    loud = np.array([0, 2, 3])
    assert fulfils(told.warned, loud, told.outcomes, Wish(0, 2), 10.0).tolist() == [True, True, False]
    assert not fulfils(told.warned, told.false, 0, Wish(0, 9), 10.0).any(), "without outcomes there is nothing to wish"


def test_the_nearest_limit_is_short_of_least_and_then_on_for_least() -> None:
    found, question = posed(SLOW, SUDDEN, QUICK)
    told = curves(found, question, np.array([0.1, 0.44, 0.5, 0.63]), TERMS)
    assert told.warned.tolist() == [0, 1, 1, 1]
    assert nearest_limit(told, Wish(100, 0), 1.0) == 1
    assert best(told, 2) == [1, 2]


def test_false_alarms_too_many_count_as_much_as_outcomes_short() -> None:
    found, question = posed(SLOW)
    told = curves(found, question, np.array([0.1, 0.2, 0.3]), TERMS)
    made = replace(
        told, outcomes=np.array([4, 4, 4]), warned=np.array([1, 3, 4]), false=np.array([0, 3, 6]),
        share_on=np.array([0.1, 0.2, 0.3]),
    )  # fmt: skip
    assert nearest_limit(made, Wish(100, 1), 20.0) == 1, "one short and one of two too many, against three and four"
    assert nearest_limit(made, Wish(100, 1), 40.0) == 1
    assert nearest_limit(made, Wish(100, 3), 20.0) == 2, "six in twenty minutes are wished"


def test_an_outcome_that_is_reported_of_just_in_time_is_not_missed() -> None:
    found, question = posed([100.0, 100.0, 40.0, 30.0, 20.0, 0.0, 100.0], [100.0, 100.0, 50.0, 50.0, 50.0, 0.0])
    each = outcomes_at(found, question, 0.5)
    assert [one.lead for one in each] == [0.0, 3.0]
    assert hard(found, question, 0.5, each, TERMS) == Hard(1, 0.5, True), "at its very limit it is not below"


def test_why_a_limit_misses_is_said_where_all_that_it_misses_have_one_reason() -> None:
    found, question = posed(SLOW, SUDDEN)
    assert hard(found, question, 0.5, outcomes_at(found, question, 0.5), TERMS) == Hard(1, 0.62, True)
    found, question = posed(SLOW, QUICK)
    assert hard(found, question, 0.5, outcomes_at(found, question, 0.5), TERMS) == Hard(1, 0.7, False)
    assert hard(found, question, 0.75, outcomes_at(found, question, 0.75), TERMS) is None, "it misses none"
    short = [0.0, 0.0, 100.0, 20.0, 0.0, 100.0]  # it was below the limit in time, and above it in between
    found, question = posed(short, [100.0, 20.0, 60.0, 20.0, 20.0, 0.0, 10.0])
    assert hard(found, question, 0.5, outcomes_at(found, question, 0.5), TERMS) is None


def test_limits_go_on_beyond_the_present_one_and_back_to_those_it_had() -> None:
    found, question = posed(SLOW, limit="2%")
    values = usual_values(levels(found), question, also=(0.37,))
    assert {0.02, 0.37} <= {*values.tolist()}
    assert values[0] == 0.0, "below the present one, and no further than makes sense"
    found, question = posed(SLOW, limit="100%")
    assert usual_values(levels(found), question)[-1] >= 1.1


@given(st.lists(st.integers(0, 9), min_size=1, max_size=9), st.data())
def test_the_best_warn_of_most_with_fewest_false_alarms(warned: list[int], data: st.DataObject) -> None:
    false = data.draw(st.lists(st.integers(0, 9), min_size=len(warned), max_size=len(warned)))
    found, question = posed(SLOW)
    told = curves(found, question, np.arange(len(warned)) / 10, TERMS)
    made = replace(told, warned=np.array(warned), false=np.array(false))
    order = best(made, len(warned))
    assert [(-warned[i], false[i]) for i in order] == sorted(zip([-w for w in warned], false, strict=True))


def test_flags_that_rarely_turn_true_may_be_warned_of() -> None:
    variables = tuple(
        Variable(name=name, type=sort)  # type: ignore[arg-type]
        for name, sort in (
            ("lost", "bool"),
            ("dead", "int"),
            ("moving", "bool"),
            ("blinks", "bool"),
            ("score", "int"),
            ("dings", "bool"),
            ("taps", "bool"),
            ("night", "bool"),
            ("dusk", "bool"),
        )
    )
    frames = 1200
    at = np.arange(frames)
    columns = {
        "lost": Column.of([bool(i % 600 > 590) for i in at]), "dead": Column("number", (at % 600 > 595).astype(float)),
        "moving": Column.of([bool(i % 10 < 5) for i in at]), "blinks": Column.of([bool(i % 20 == 3) for i in at]),
        "score": Column("number", at.astype(float)),
        # Two minutes: as often as twice a minute is rare, and as much as a fifth of the time.
        "dings": Column.of([bool(i % 400 == 3) for i in at]), "taps": Column.of([bool(i % 240 == 3) for i in at]),
        "night": Column.of([bool(i >= 961) for i in at]), "dusk": Column.of([bool(i >= 950) for i in at]),
    }  # fmt: skip
    trace = Trace.make("r", (at / 10).tolist(), columns)
    assert rare_flags(Project(variables=variables), [trace]) == {
        "lost": "lost", "dead": "dead == 1", "dings": "dings", "night": "night",
    }  # fmt: skip
    known = Project(variables=variables, outcomes=(Outcome(name="over", rule="dead == 1"),))
    assert set(rare_flags(known, [trace])) == {"lost", "dings", "night"}


def test_minutes_are_those_between_first_and_last_frame_once_per_recording() -> None:
    found, _ = posed(SLOW, SUDDEN)  # 8 s each
    later = [replace(one, t=one.t + 100.0) for one in found]
    slot = replace(later[0], slot=1)
    empty = replace(later[1], recording=7, t=np.empty(0))
    assert minutes_of([*later, slot, empty]) == 16 / 60
    assert minutes_of([*later, slot, empty], 1) == 8 / 60
    assert minutes_of([*later, slot, empty], 7) == 0


@pytest.mark.parametrize(
    ("written", "tried", "label"),
    [
        ({}, {}, "40%"),
        ({"sticky": True, "back": 0.6}, {"sticky": True, "back": 0.6}, "40%"),
        ({"sticky": True, "back": 0.6}, {"sticky": True, "back": 0.55}, "40%, back at 45%"),
        ({}, {"sticky": True, "back": 0.75}, "40%, back at 65%"),
        ({"sticky": True, "back": 0.6}, {}, "40%, back at once"),
        ({}, {"held": 0.5}, "40%, held for 500ms"),
        ({"held": 2.0}, {}, "40%, at once"),
        ({"held": 2.0}, {"held": 2.0}, "40%"),
        ({"sticky": True, "back": 0.6}, {"held": 3.0}, "40%, back at once, held for 3s"),
    ],
)
def test_a_band_is_named_by_its_limit_and_what_differs(
    written: dict[str, Any], tried: dict[str, Any], label: str
) -> None:
    """The question's own limit is 50 %, with which `back` moves."""
    _, question = posed(SLOW)
    assert band_label(0.4, replace(question, **tried), replace(question, **written), share=True) == label


def test_sentences_count_what_a_limit_does() -> None:
    found, question = posed(SLOW, SUDDEN, [100.0, 40.0, 100.0, 40.0, 100.0, 100.0, 100.0, 100.0, 100.0])
    assert band_sentence("50%", found, question, 0.5, TERMS) == (
        "At 50% 1 of 2 are warned 3 s ahead, 1 late; 2 false alarms in 0 minutes; it is on for 30% of all play; "
        "1 time it repeats at once."
    )
    at = curves(found, question, np.array([0.1, 0.5]), TERMS)
    assert nearest_sentence(at, 1, found, question, TERMS, share=True) == (
        "No limit meets the goal; the nearest is 50%: 1 of 2, 2 false.  The one it misses comes in a single step from above 62%."
    )
    found, question = posed(SLOW, QUICK)
    at = curves(found, question, np.array([0.5]), TERMS)
    assert nearest_sentence(at, 0, found, question, TERMS, share=True).endswith(
        "  3 s ahead of the one it misses it was still above 70%."
    )
