"""How variables behave: short recordings worked by hand, each a sort of its own."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from avrin.project.project import Variable
from avrin.trace.behaviour import behaviour, runs_by_behaviour
from avrin.trace.frames import Column, Trace, Value
from avrin.trace.start_values import with_start_values

AT = np.arange(600)
T = AT / 20.0
SAW = 100.0 - (AT % 150) / 150 * 80
SORTS: list[tuple[str, np.ndarray]] = [
    ("still", np.full(600, 7.0)),
    ("vital", np.where(AT % 150 < 100, np.floor(SAW), 100.0)),  # falls, is healed, rests at its top
    ("vital", np.maximum(0.0, 60.0 - AT * 0.08)),  # only falls
    ("vital", np.where(AT % 150 < 148, np.floor(SAW), -28.0)),  # dips below zero for a moment
    ("gauge", np.clip(50 - 90 * np.cos(AT / 60), 0, 100)),  # begins empty, rests at both ends
    ("grows", np.floor(AT / 25)),
    ("counts down", 60.0 - T),
    ("counts down", np.ceil(60.0 - T)),  # in whole seconds
    ("counts down", 60_000.0 - 1000 * T),  # in thousandths
    ("counts down", np.maximum(0.0, 20.0 - T)),  # and waits at zero
    ("counts down", 20.0 - T % 20),  # set again
    ("counts up", T),
    ("wanders", 960 + 700 * np.sin(AT / 60)),  # a place
    ("wanders", 960 + 700 * np.cos(AT / 60)),  # a place that begins at its furthest
    ("wanders", np.tile([59.0, 61.0], 300)),  # frames a second
    ("wanders", 90 * np.cos(AT / 60)),  # an angle that goes both ways
    ("flag", np.where(AT % 40 < 30, 1.0, 0.0)),  # in figures
]


@pytest.mark.parametrize(("sort", "data"), SORTS)
def test_a_number_is_of_its_sort(sort: str, data: np.ndarray) -> None:
    trace = Trace.make("t", T, {"x": Column("number", data)})
    assert behaviour(trace.columns["x"], trace).sort == sort


def test_what_is_missing_is_passed_over_and_all_missing_stands_still() -> None:
    data = SORTS[1][1].copy()
    data[::7] = np.nan
    trace = Trace.make(
        "t", T, {"x": Column("number", data), "y": Column.missing(600), "z": Column.missing(600, "text")}
    )
    assert behaviour(trace.columns["x"], trace).sort == "vital"
    assert [behaviour(trace.columns[name], trace).sort for name in "yz"] == ["still", "still"]
    assert [behaviour(trace.columns[name], trace).type for name in "yz"] == ["float", "text"]


def test_runs_are_lived_through_one_by_one() -> None:
    lives = np.tile(np.repeat([3.0, 2.0, 1.0], 50), 4)
    trace = Trace.make("t", T, {"x": Column("number", lives)}, (1 + AT // 150).tolist())
    told = behaviour(trace.columns["x"], trace)
    assert (told.sort, told.rises, told.falls, told.start, told.same_start) == ("vital", 0, 8, 3.0, True)
    assert told.ends_low == 0.0
    dead = behaviour(Column("number", np.where(AT % 150 == 149, 0.0, lives)), trace)
    assert dead.ends_low == 1.0


def test_flags_and_texts_tell_how_long_they_stay() -> None:
    flags: list[Value] = [bool(at % 100 >= 60) for at in range(600)]
    words: list[Value] = [("dive", "rise", None)[at // 200] for at in range(600)]
    trace = Trace.make("t", T, {"f": Column.of(flags), "w": Column.of(words), "c": Column.of(["a"] * 600)})
    flag = behaviour(trace.columns["f"], trace)
    assert (flag.sort, flag.changes, round(flag.stretch, 2), flag.on) == ("flag", 11, 2.0, 0.4)
    word = behaviour(trace.columns["w"], trace)
    assert (word.sort, word.words, word.stretch, round(word.missing, 2)) == ("words", ("dive", "rise"), 10.0, 0.33)
    assert behaviour(trace.columns["c"], trace).sort == "still"


def test_runs_are_reported_by_what_begins_anew() -> None:
    life = 1.0 + AT // 150
    columns = {
        "life_no": Column("number", life), "hp": Column("number", np.floor(SAW)), "x": Column("number", AT % 150 * 1.0),
        "ammo": Column("number", 30.0 - AT % 150 // 5), "level": Column("number", 1.0 + AT // 200),
    }  # fmt: skip
    found = runs_by_behaviour(Trace.make("t", T, columns))
    assert str(found) == "life_no rises by one, 3 times; 3 columns fall back to their first values there"
    del columns["ammo"]
    assert runs_by_behaviour(Trace.make("t", T, columns)) is None  # too few
    assert runs_by_behaviour(Trace.make("t", T, columns, (1 + AT // 150).tolist())) is None  # it has runs


def test_another_start_goes_on_by_what_was_recorded() -> None:
    hull: list[Value] = [100.0, 80.0, None, 80.0, 100.0, 90.0]
    phase: list[Value] = ["dive", "dive", "lost", "lost", "dive", "won"]
    trace = Trace.make(
        "t", [0.0, 1, 2, 3, 4, 5], {"hull": Column.of(hull), "phase": Column.of(phase)}, [1, 1, 1, 1, 2, 2]
    )

    def begun(variables: dict[str, Variable], **starts: Value) -> dict[str, list[Value]]:
        made = with_start_values(trace, starts, variables)
        return {name: [column[i] for i in range(6)] for name, column in made.columns.items()}

    assert begun({}, hull=50.0)["hull"] == [50.0, 50.0, None, 50.0, 50.0, 50.0]  # never below what was recorded
    open_down = {"hull": Variable(name="hull", type="float", low=0.0, high=120.0)}
    assert begun(open_down, hull=50.0)["hull"] == [50.0, 30.0, None, 30.0, 50.0, 40.0]
    assert begun(open_down, hull=110.0)["hull"] == [110.0, 90.0, None, 90.0, 110.0, 100.0]
    assert begun(open_down, hull=10.0)["hull"] == [10.0, 0.0, None, 0.0, 10.0, 0.0]
    assert begun({}, phase="calm")["phase"] == ["calm", "calm", "lost", "lost", "calm", "won"]
    assert begun({}, phase=3.0)["phase"] == phase  # of another sort
    assert begun({}, quota=7.0)["quota"] == [7.0] * 6


def test_what_is_lost_at_an_end_stays_lost() -> None:
    trace = Trace.make("t", [0.0, 1, 2, 3], {"hull": Column.of([100.0, 20.0, 60.0, 100.0])})
    variables = {"hull": Variable(name="hull", type="float", low=0.0, high=100.0)}
    made = with_start_values(trace, {"hull": 50.0}, variables).columns["hull"]
    assert made.data.tolist() == [50.0, 0.0, 40.0, 80.0]


@given(st.lists(st.sampled_from([0.0, 1.0, None]), min_size=3, max_size=40), st.integers(1, 4))
def test_a_flag_in_figures_behaves_as_the_flag_it_is(values: list[float | None], lives: int) -> None:
    runs = sorted(1 + i * lives // len(values) for i in range(len(values)))
    flags = [None if value is None else bool(value) for value in values]
    trace = Trace.make("t", np.arange(len(values)) / 4, {"x": Column.of(values), "y": Column.of(flags)}, runs)
    mine, theirs = behaviour(trace.columns["x"], trace), behaviour(trace.columns["y"], trace)
    assume(mine.sort == "flag")
    assert (mine.type, mine.low, mine.high) == ("int", 0.0, 1.0)
    for name in ("changes", "stretch", "on", "missing", "ends_on", "same_start"):
        assert getattr(mine, name) == getattr(theirs, name), name
    steps = [b - a for a, b, r, s in zip(values, values[1:], runs, runs[1:], strict=False)
             if r == s and a is not None and b is not None]  # fmt: skip
    if None not in values:
        assert (mine.rises, mine.falls) == (steps.count(1.0), steps.count(-1.0))


def test_how_long_a_flag_is_true_at_most_before_a_run_ends() -> None:
    flags = [False, True, True, True, False, True, False, False, True, True]
    trace = Trace.make("t", np.arange(10.0), {"x": Column.of(flags)}, [1] * 6 + [2] * 4)
    assert behaviour(trace.columns["x"], trace).ends_on == 1.0


FALLS = ([200.0, 190.0, 180.0, 160.0], [196.0, 180.0, 170.0, 164.0], [200.0, 180.0, 170.0, 162.0])


@pytest.mark.parametrize(
    ("lives", "bottom"),
    [
        (FALLS, 160.0),
        ((*FALLS[:1], [195.0, 180.0, 170.0, 164.0], FALLS[2]), None),  # it begins a life too low
        ((*FALLS[:1], [196.0, 180.0, 170.0, 165.0], FALLS[2]), None),  # it stays too high in one
        (FALLS[:2], None),  # two lives are not enough
        (([20.0, 18.0, 14.0, 10.0],) * 3, None),  # so deep a fall is one to nothing, as others end
        (([60.0, 30.0, 0.03, 30.0],) * 3, None),  # as good as nothing
        (([200.0, 199.0, 198.0, 191.0],) * 3, None),  # too little to be a fall
        (([248.03, 230.0, 210.0, 196.04],) * 3, 196.0),  # no more figures than it needs
        (([200.0, 160.0, 200.0, 160.0, 190.0, 160.0],) * 3, None),  # it goes up and down all the time
    ],
)  # fmt: skip
def test_where_a_vital_ends_that_never_comes_near_zero(lives: tuple[list[float], ...], bottom: float | None) -> None:
    values = [value for life in lives for value in life]
    runs = [number for number, life in enumerate(lives, 1) for _ in life]
    trace = Trace.make("t", np.arange(float(len(values))), {"x": Column.of([*values])}, runs)
    found = behaviour(trace.columns["x"], trace)
    assert found.bottom == bottom
    if bottom is not None:
        assert (found.sort, found.ends_low) == ("vital", 1.0)


def test_what_comes_once_a_second_on_average_is_no_clock() -> None:
    """Kills, one a second in the mean, beside a clock of whole seconds."""
    t = np.arange(3000) / 10
    kills = np.cumsum(np.random.default_rng(4).random(3000) < 0.1).astype(float)
    trace = Trace.make("t", t, {"kills": Column("number", kills), "seconds": Column("number", np.floor(t))})
    assert behaviour(trace.columns["kills"], trace).sort == "grows"
    assert behaviour(trace.columns["seconds"], trace).sort == "counts up"


@pytest.mark.parametrize(
    ("values", "between"),
    [([9, 9, 8, 8, 7, 7], 1.0), ([9, 8, 7, 6, 5, 4], 0.5), ([9, 9, 9, 9, 8, 8], 0.0), ([4, 5, 6, 7, 8, 9], 0.0)],
)
def test_how_fast_falls_follow_each_other(values: list[float], between: float) -> None:
    trace = Trace.make("t", np.arange(6) / 2, {"x": Column.of([float(value) for value in values])})
    assert behaviour(trace.columns["x"], trace).between_falls == between
