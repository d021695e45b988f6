"""What a warning would have done: exactly what the words of it say, at every value, over every frame."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from by_hand import Recorded, outcome_of
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.project.project import Band, Project, Roster, Variable, Widget
from avrin.trace.frames import Column, Trace
from avrin.tuning.alarms import alarms
from avrin.tuning.apply_limit import duration_text, with_limit
from avrin.tuning.curves import Curves, Terms, curves, outcomes_at
from avrin.tuning.pairs import SECOND_VALUES, pair_map, usual_gaps, usual_waits, with_gap, with_wait
from avrin.tuning.signals import RESTART, Question, asked, signals
from avrin.tuning.values import all_levels, levels, stepped, usual_values

NUMBERS = ("outcomes", "warned", "late", "missed", "alarms", "false", "again", "lead_median", "lead_p10", "share_on")


def bar(band: Band, ident: str = "hull") -> Widget:
    return Widget(id=ident, kind="bar", inputs={"value": "hull", "full": "100"}, bands=(band,))


def project(band: Band) -> Project:
    variables = (Variable(name="hull", type="float"), Variable(name="lost", type="bool"))
    return Project(variables=variables, widgets=(bar(band),))


def over(band: Band, recordings: list[Recorded]) -> list[Tracks]:
    bound = bind(project(band))
    bound.raise_first()
    return [
        Tracks(
            bound,
            Trace.make(
                f"r{i}",
                list(item.t),
                {"hull": Column.of([*item.level]), "lost": Column.of([*item.lost])},
                list(item.run),
            ),
        )
        for i, item in enumerate(recordings)
    ]


def rows(matches: Curves) -> list[dict[str, float | None]]:
    made = []
    for at in range(len(matches.value)):
        row = {name: float(getattr(matches, name)[at]) for name in NUMBERS}
        made.append({name: None if math.isnan(value) else value for name, value in row.items()})
    return made


def recording(t: list[float], level: list[float | None], lost: str = "", run: list[int] | None = None) -> Recorded:
    return Recorded(t, run or [1] * len(t), level, [mark == "#" for mark in lost.ljust(len(t), ".")])


# Six seconds to a loss, with a dip before that is over soon: by hand.
DIVE = recording(
    [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0, 30.0],
    [100, 40, 60, 45, 35, 30, 20, 10, 0, 0, 100],
    "........##.",
)


def test_one_recording_by_hand() -> None:
    """Below 50: on at 1, off at 2, on from 3 to 9. Below 33: on from 5 on. The loss is at 8."""
    every = over(Band(name="low", below="50%"), [DIVE])
    question = asked(every[0].bound, "hull", "low", "lost")
    matches = curves(signals(every, question), question, np.array([0.05, 0.33, 0.5]), Terms(lead=4))
    assert matches.outcomes.tolist() == [1, 1, 1]
    assert (matches.warned.tolist(), matches.late.tolist(), matches.missed.tolist()) == (
        [0, 0, 1],
        [1, 1, 0],
        [0, 0, 0],
    )
    assert matches.lead_median.tolist() == [0.0, 3.0, 5.0]
    assert matches.alarms.tolist() == [1, 1, 2]
    assert matches.again.tolist() == [0, 0, 1], "it ended at 2 and began at 3"
    assert matches.false.tolist() == [0, 0, 0], "the first one is followed by the loss within ten seconds of its end"
    assert matches.share_on.tolist() == [2 / 11, 5 / 11, 8 / 11]
    short = curves(signals(every, question), question, np.array([0.5]), Terms(within=5.0))
    assert short.false.tolist() == [1]


def test_a_sticky_band_goes_on_until_the_level_is_back() -> None:
    every = over(Band(name="low", below="50%", back="62%"), [DIVE])
    question = asked(every[0].bound, "hull", "low", "lost")
    matches = curves(signals(every, question), question, np.array([0.5, 0.48]))
    assert question.gap == pytest.approx(0.12)
    assert matches.alarms.tolist() == [1, 2], "its `back` moves along: at 48 % it is left at 60 %"
    assert matches.lead_median.tolist() == [7.0, 5.0]


def test_a_band_that_must_hold_is_on_when_it_has_lasted() -> None:
    """Below 50: from 1 to 2, too short; from 3 on, so it is on from 5 on, three seconds ahead."""
    every = over(Band(name="low", below="50%", held="1.5s"), [DIVE])
    question = asked(every[0].bound, "hull", "low", "lost")
    assert question.held == 1.5
    matches = curves(signals(every, question), question, np.array([0.5]))
    assert (matches.alarms.tolist(), matches.lead_median.tolist(), matches.share_on.tolist()) == ([1], [3.0], [5 / 11])
    sticky = over(Band(name="low", below="35%", back="62%", held="1s"), [DIVE])
    question = asked(sticky[0].bound, "hull", "low", "lost")
    matches = curves(signals(sticky, question), question, np.array([0.35]))
    assert (matches.alarms.tolist(), matches.lead_median.tolist()) == ([1], [2.0])


def test_a_wait_that_is_a_rule_is_reported() -> None:
    every = over(Band(name="low", below="50%", held="hull / 10"), [DIVE])
    with pytest.raises(AvrinError, match="how long the band 'low' of hull must hold is a rule"):
        asked(every[0].bound, "hull", "low", "lost")


def test_a_back_that_moves_while_the_level_stands_leaves_then() -> None:
    item = recording([float(i) for i in range(8)], [90, 40, 55, 55, 55, 55, 55, 55], ".....#..")
    (tracks,) = over(Band(name="low", below="50%", back="if lost then 52% else 70%"), [item])
    question = asked(tracks.bound, "hull", "low", "lost")
    (signal,) = signals([tracks], question)
    matches = alarms(signal, np.array([0.5]), below=True, sticky=True, gap=question.gap)
    assert list(zip(matches.first.tolist(), matches.last.tolist(), strict=True)) == [(1, 4)]


def test_the_worst_outcomes_come_first() -> None:
    every = over(Band(name="low", below="50%"), [DIVE, recording([0.0, 1.0, 2.0], [100, 90, 80], "..#"), DIVE])
    question = asked(every[0].bound, "hull", "low", "lost")
    worst = outcomes_at(signals(every, question), question, 0.5)
    assert [(item.recording, item.frame, item.lead, item.begins) for item in worst] == [
        (1, 2, None, None), (0, 8, 5.0, 3), (2, 8, 5.0, 3),
    ]  # fmt: skip


def test_a_loss_that_is_only_seen_as_a_new_beginning() -> None:
    item = recording([0.0, 1.0, 2.0, 0.0, 1.0], [100, 40, 20, 100, 10], run=[1, 1, 1, 2, 2])
    every = over(Band(name="low", below="50%"), [item])
    question = asked(every[0].bound, "hull", "low", RESTART)
    matches = curves(signals(every, question), question, np.array([0.5]), Terms(lead=1))
    assert (matches.outcomes.tolist(), matches.warned.tolist(), matches.lead_median.tolist()) == ([1], [1], [1.0])


LEVELS = st.none() | st.sampled_from([0.0, 10.0, 20.0, 30.0, 35.0, 40.0, 50.0, 60.0]) | st.floats(-20, 120)


@st.composite
def recorded(draw: st.DrawFn) -> Recorded:
    frames = draw(st.integers(1, 24))
    steps = draw(st.lists(st.sampled_from([0.25, 0.5, 1.0, 2.0, 3.0, 10.0]), min_size=frames, max_size=frames))
    run = np.cumsum(draw(st.lists(st.sampled_from([0, 0, 0, 0, 1]), min_size=frames, max_size=frames))) + 1
    t = np.cumsum(steps).tolist()
    level = draw(st.lists(LEVELS, min_size=frames, max_size=frames))
    lost = draw(st.lists(st.booleans(), min_size=frames, max_size=frames))
    return Recorded(t, run.tolist(), level, lost)


@given(
    st.lists(recorded(), min_size=1, max_size=3), st.lists(st.floats(-0.3, 1.3), min_size=1, max_size=6),
    st.booleans(), st.none() | st.sampled_from([0.0, 0.05, 0.2, -0.1]), st.booleans(),
    st.sampled_from([0.0, 1.0, 3.0]), st.sampled_from([0.0, 2.0, 10.0]), st.sampled_from([0.0, 1.0, 2.5]),
    st.sampled_from([0.0, 0.25, 0.4, 1.0, 3.0]),
)  # fmt: skip
def test_all_values_at_once_are_what_each_frame_says(
    recordings: list[Recorded], values: list[float], below: bool, gap: float | None, restart: bool, lead: float,
    within: float, again: float, held: float,
) -> None:  # fmt: skip
    limit: dict[str, Any] = {"below" if below else "above": "40%"}
    back: dict[str, Any] = {} if gap is None else {"back": f"{40 + 100 * (gap if below else -gap):g}%"}
    every = over(Band(name="low", **limit, **back, held=f"{held:g}s" if held else ""), recordings)
    question = asked(every[0].bound, "hull", "low", RESTART if restart else "lost")
    matches = curves(signals(every, question), question, np.array(values), Terms(lead, within, again))
    plain = [replace_level(item) for item in recordings]
    for value, row in zip(values, rows(matches), strict=True):
        wanted = outcome_of(
            plain, value, below=below, gap=question.gap if gap is not None else None, restart=restart, lead=lead,
            within=within, again=again, held=held,
        )  # fmt: skip
        assert {name: row[name] for name in NUMBERS} == pytest.approx(wanted, nan_ok=True)


@given(
    st.lists(recorded(), min_size=1, max_size=2), st.floats(0.1, 0.9), st.booleans(),
    st.none() | st.sampled_from([0.0, 0.1, 0.3]), st.sampled_from([0.2, 0.25, 0.5, 1.0, 2.0]),
)  # fmt: skip
def test_a_band_that_waits_is_on_exactly_where_its_track_says(
    recordings: list[Recorded], value: float, below: bool, gap: float | None, held: float
) -> None:
    """Check the limits against the band column of a project with that limit."""
    limit: dict[str, Any] = {"below" if below else "above": repr(value)}
    back: dict[str, Any] = {} if gap is None else {"back": repr(value + (gap if below else -gap))}
    for tracks in over(Band(name="low", **limit, **back, held=repr(held)), recordings):
        question = asked(tracks.bound, "hull", "low", "lost")
        (signal,) = signals([tracks], question)
        matches = alarms(
            signal, np.array([value]), below=below, sticky=question.sticky, gap=question.gap, held=question.held
        )
        on = np.zeros(len(signal.t), bool)
        for first, last in zip(matches.first.tolist(), matches.last.tolist(), strict=True):
            assert not on[first : last + 1].any(), "alarms do not overlap"
            on[first : last + 1] = True
        shown = tracks.column(tracks.bound.widgets["hull"].columns["band"])
        assert on.tolist() == [shown.words[code] == "low" for code in shown.data.tolist()]


def replace_level(item: Recorded) -> Recorded:
    """The level as a bar compares it: a share of its full."""
    return item._replace(level=[None if value is None else value / 100 for value in item.level])


@given(st.lists(recorded(), min_size=1, max_size=2), st.lists(st.floats(0, 1), min_size=1, max_size=4))
def test_a_limit_that_is_a_rule_is_replaced_and_its_back_stays(recordings: list[Recorded], values: list[float]) -> None:
    """With `back` at 70 % whatever the limit: as a gap of its own at every value."""
    every = over(Band(name="low", below="hull / 1000", back="70%"), recordings)
    question = asked(every[0].bound, "hull", "low", "lost")
    assert question.gap is None
    matches = curves(signals(every, question), question, np.array(values))
    for value, row in zip(values, rows(matches), strict=True):
        wanted = outcome_of(
            [replace_level(item) for item in recordings], value, below=True, gap=0.7 - value, restart=False, lead=3.0,
            within=10.0, again=2.0,
        )  # fmt: skip
        close = any(v is not None and abs(v - 0.7) < 1e-9 for item in recordings for v in replace_level(item).level)
        if not close:
            assert {name: row[name] for name in NUMBERS} == pytest.approx(wanted, nan_ok=True)


def test_slots_are_reported_together_or_alone() -> None:
    crew = Roster(name="crew", slots=2, fields=(Variable(name="air", type="float"), Variable(name="out", type="bool")))
    band = Band(name="low", below="50%")
    widget = Widget(
        id="air", kind="bar", repeat="crew", inputs={"value": "crew[slot].air", "full": "10"}, bands=(band,)
    )
    bound = bind(Project(rosters=(crew,), widgets=(widget,)))
    columns = {"crew[0].air": [9.0, 4.0, 3.0, 0.0], "crew[1].air": [9.0, 9.0, 4.0, 0.0]}
    known = {name: Column.of([*values]) for name, values in columns.items()}
    known |= {f"crew[{slot}].out": Column.of([False, False, False, True]) for slot in (0, 1)}
    tracks = [Tracks(bound, Trace.make("t", [0.0, 1.0, 2.0, 3.0], known))]
    for ident, outcomes, leads in (("air", 2, 1.5), ("air[0]", 1, 2.0), ("air[1]", 1, 1.0)):
        question = asked(tracks[0].bound, ident, "low", "crew[slot].out")
        matches = curves(signals(tracks, question), question, np.array([0.5]))
        assert (matches.outcomes.tolist(), matches.lead_median.tolist()) == ([outcomes], [leads])


# -- values, and what cannot be asked ----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("0:1:0.25", [0, 0.25, 0.5, 0.75, 1]), ("10%:30%:10%", [0.1, 0.2, 0.3]), ("0.1:0.3:0.1", [0.1, 0.2, 0.3]),
        ("1:2:0.4", [1, 1.4, 1.8, 2]), ("-5:-5:1", [-5]), ("5:6:9", [5, 6]),
    ],
)  # fmt: skip
def test_values_are_stepped_in_decimals_with_the_last_one(text: str, values: list[float]) -> None:
    assert stepped(text).tolist() == values


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("5", "is not a range"), ("5:1:1", "its end is before its start"), ("1:5:0", "its step is not above 0"),
        ("1:5:-1", "its step is not above 0"), ("0:1:1e-9", "1,000,000,001 values"), ("a:1:1", "'a' is not a number"),
        ("nan:1:1", "'nan' is not a limit"), ("0:inf:1", "'inf' is not a limit"),
    ],
)  # fmt: skip
def test_ranges_that_are_none_are_reported(text: str, why: str) -> None:
    with pytest.raises(AvrinError, match=why):
        stepped(text)


def test_unsaid_the_values_lie_over_what_was_recorded_and_have_the_present_limit() -> None:
    every = over(
        Band(name="low", below="37%"), [recording([float(i) for i in range(101)], [float(i) for i in range(101)])]
    )
    question = asked(every[0].bound, "hull", "low", "lost")
    values = usual_values(levels(signals(every, question)), question)
    assert (values[0], values[-1]) == (0.01, 0.99)
    assert 0.37 in values.tolist()
    assert len(values) in (50, 51)


@pytest.mark.parametrize(
    ("ident", "band", "before", "why"),
    [
        ("hulk", "low", "lost", "did you mean 'hull'"), ("hull", "lo", "lost", "did you mean 'low'"),
        ("hull[0]", "low", "lost", "there is no slot 'hull\\[0\\]'"), ("hull", "low", "lots", "no variable `lots`"),
        ("hull", "low", "hull", "expected a condition"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_is_reported(ident: str, band: str, before: str, why: str) -> None:
    every = over(Band(name="low", below="50%"), [DIVE])
    with pytest.raises(AvrinError, match=why):
        asked(every[0].bound, ident, band, before)


def test_a_condition_has_no_limit_and_a_level_that_never_was_no_values() -> None:
    every = over(Band(name="low", when="hull < 5"), [DIVE])
    with pytest.raises(AvrinError, match="has a condition instead of a limit"):
        asked(every[0].bound, "hull", "low", "lost")
    nothing = over(Band(name="low", below="50%"), [recording([0.0, 1.0], [None, None])])
    question = asked(nothing[0].bound, "hull", "low", "lost")
    with pytest.raises(AvrinError, match="is missing in all recordings"):
        usual_values(levels(signals(nothing, question)), question)
    matches = curves(signals(nothing, question), question, np.array([0.5]))
    assert (matches.alarms.tolist(), matches.outcomes.tolist(), matches.share_on.tolist()) == ([0], [0], [0.0])
    assert math.isnan(matches.lead_median[0])


@given(
    st.lists(recorded(), min_size=1, max_size=2), st.lists(st.sampled_from([0.125, 0.25, 0.375, 0.75]), min_size=1, max_size=3),
    st.lists(st.sampled_from([0.0, 0.0625, 0.25, 0.5]), min_size=1, max_size=3), st.booleans(),
)  # fmt: skip
def test_each_pair_of_a_limit_and_a_back_is_what_a_band_written_so_tells(
    recordings: list[Recorded], values: list[float], gaps: list[float], below: bool
) -> None:
    limit: dict[str, Any] = {"below" if below else "above": "40%"}
    every = over(Band(name="low", **limit), recordings)
    question = asked(every[0].bound, "hull", "low", "lost")
    matches = pair_map(signals(every, question), question, np.array(values), "back", np.array(gaps))
    for row, gap in enumerate(gaps):
        for column, value in enumerate(values):
            back: dict[str, Any] = {"back": f"{100 * (value + (gap if below else -gap)):.10g}%"} if gap else {}
            written: dict[str, Any] = {"below" if below else "above": f"{100 * value:.10g}%"}
            alone = over(Band(name="low", **written, **back), recordings)
            other = asked(alone[0].bound, "hull", "low", "lost")
            assert other.limit is not None
            (told_alone,) = rows(curves(signals(alone, other), other, np.array([other.limit])))
            for name in ("warned", "false", "again"):
                assert getattr(matches, name)[row, column] == told_alone[name]
            assert matches.outcomes == told_alone["outcomes"]


@given(
    st.lists(recorded(), min_size=1, max_size=2), st.lists(st.sampled_from([0.1, 0.4, 0.8]), min_size=1, max_size=2),
    st.lists(st.sampled_from([0.0, 0.25, 1.0, 2.0]), min_size=1, max_size=3),
    st.none() | st.sampled_from([0.1, 0.3]),
)  # fmt: skip
def test_each_pair_of_a_limit_and_a_wait_is_what_a_band_written_so_tells(
    recordings: list[Recorded], values: list[float], waits: list[float], gap: float | None
) -> None:
    def band(value: float, held: float) -> Band:
        back = "" if gap is None else repr(value + gap)
        return Band(name="low", below=repr(value), back=back, held=repr(held) if held else "")

    every = over(band(0.5, 0.5), recordings)
    question = asked(every[0].bound, "hull", "low", "lost")
    matches = pair_map(signals(every, question), question, np.array(values), "held", np.array(waits))
    for row, wait in enumerate(waits):
        for column, value in enumerate(values):
            alone = over(band(value, wait), recordings)
            other = asked(alone[0].bound, "hull", "low", "lost")
            (told_alone,) = rows(curves(signals(alone, other), other, np.array([value])))
            for name in ("warned", "false", "again"):
                assert getattr(matches, name)[row, column] == told_alone[name]


@pytest.mark.parametrize(
    ("before", "wait", "written"),
    [("", 0.3, "300ms"), ("300ms", 0.0, ""), ("0.3", 0.3, "0.3"), ("1s", 1.5, "1.5s"), ("", 0.0, "")],
)
def test_a_wait_is_written_as_people_write_it_and_stays_as_it_was_written(
    before: str, wait: float, written: str
) -> None:
    band = Band(name="low", below="40%", back="45%", held=before)
    every = over(band, [DIVE])
    question = with_wait(asked(every[0].bound, "hull", "low", "lost"), wait)
    (made,) = with_limit(project(band), question, 0.3).widget("hull").bands
    assert (made.below, made.back, made.held) == ("30%", "35%", written)
    assert (duration_text(0.05), duration_text(2.0)) == ("50ms", "2s")


@given(
    st.lists(
        st.lists(st.sampled_from([0.0, 0.1, 0.25, 0.3, 7.0]) | st.floats(-50, 50), max_size=12), min_size=1, max_size=3
    )
)
def test_unsaid_values_span_the_percentiles_of_all_levels(parts: list[list[float]]) -> None:
    """However the recordings were taken together."""
    every = [value for part in parts for value in part]
    if not every:
        return
    outcome_of = [recording([float(i) for i in range(len(part))], [100 * v for v in part]) for part in parts if part]
    tracks = over(Band(name="low", below="hull / 1000"), outcome_of)
    question = asked(tracks[0].bound, "hull", "low", "lost")
    apart = all_levels([levels(signals([item], question)) for item in tracks])
    values = usual_values(apart, question)
    low, high = np.percentile([100 * v / 100 for v in every], (1, 99))
    assert values.tolist() == sorted({float(f"{value:.2g}") for value in np.linspace(low, high, 50)})
    assert values.tolist() == usual_values(levels(signals(tracks, question)), question).tolist()


def test_a_map_begins_at_what_a_band_has() -> None:
    def asked_of(**more: str) -> Question:
        return asked(over(Band(name="low", **more), [DIVE])[0].bound, "hull", "low", "lost")  # type: ignore[arg-type]

    for second, plain, other, now in (
        ("back", {"below": "40%"}, {"above": "40%", "back": "33%"}, 0.07),
        ("held", {"below": "40%"}, {"below": "40%", "held": "0.4s"}, 0.4),
    ):
        assert SECOND_VALUES[second].now(asked_of(**plain)) == 0
        assert SECOND_VALUES[second].now(asked_of(**other)) == pytest.approx(now)


def test_waits_that_are_tried_have_the_present_one() -> None:
    every = over(Band(name="low", below="40%", held="0.44"), [DIVE])
    question = asked(every[0].bound, "hull", "low", "lost")
    matches = usual_waits(signals(every, question), question)
    assert (matches[0], 0.44 in matches) == (0, True)
    assert (np.diff(matches) > 0).all()


def test_distances_that_are_tried_begin_with_none_and_have_the_present_one() -> None:
    every = over(Band(name="low", below="40%", back="47%"), [DIVE])
    question = asked(every[0].bound, "hull", "low", "lost")
    matches = usual_gaps(signals(every, question), question)
    assert matches[0] == 0
    assert 0.07 in matches
    assert (np.diff(matches) > 0).all()
    assert matches[-1] <= 0.3


@pytest.mark.parametrize(
    ("band", "gap", "value", "written"),
    [
        (Band(name="low", below="40%"), 0.1, 0.3, ("30%", "40%")),
        (Band(name="low", below="40%", back="45%"), 0.0, 0.3, ("30%", "")),
        (Band(name="low", below="40%", back="45%"), 0.05, 0.3, ("30%", "35%")),
        (Band(name="low", below="0.4", back="0.5"), 0.2, 0.123456, ("0.123", "0.323")),
    ],
)
def test_a_pair_is_written_as_people_write_it(band: Band, gap: float, value: float, written: tuple[str, str]) -> None:
    every = over(band, [DIVE])
    question = with_gap(asked(every[0].bound, "hull", "low", "lost"), gap)
    (made,) = with_limit(project(band), question, value).widget("hull").bands
    assert (made.below, made.back) == written
