"""How a widget comes, goes and pops over time: against a slow reference written from the words, and cut anywhere."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks, track
from avrin.errors import AvrinError
from avrin.project.project import Passage, Pop, Project, Roster
from avrin.render.scene import is_drawn
from avrin.trace.frames import Column, Trace, Value
from widget_helpers import VARIABLES, project

Flags = list[tuple[float, Value, bool]]  # seconds since the frame before, the flag, whether a run begins here


def moving(**text: object) -> Project:
    return project("label", {"text": "x", "visible": "leak"}, **text)


def flags() -> st.SearchStrategy[Flags]:
    gaps = st.sampled_from([0.0, 0.05, 0.1, 0.25, 1.0, 7.0])
    one = st.tuples(gaps, st.sampled_from([True, True, False, None]), st.sampled_from([False] * 6 + [True]))
    return st.lists(one, min_size=1, max_size=25)


def trace_of(frames: Flags) -> Trace:
    times = np.cumsum([gap for gap, _, _ in frames]).tolist()
    runs = np.cumsum([int(new) for _, _, new in frames]).tolist()
    return Trace.make("t", times, {"leak": Column.of([flag for _, flag, _ in frames])}, runs)


def slowly_there(frames: Flags, enter: float, leave: float) -> list[float]:
    """Frame by frame: from what there was when it last turned, on by the seconds since then."""
    found: list[float] = []
    at, shown, share, since = 0.0, False, 0.0, 0.0
    for i, (gap, flag, new) in enumerate(frames):
        at += gap
        now = flag is True
        if i == 0 or new:
            shown, share, since = now, float(now), at
        elif now is not shown:
            share, shown, since = slowly(share, at - since, enter, leave, shown), now, at
        found.append(slowly(share, at - since, enter, leave, shown))
    return found


def slowly(share: float, past: float, enter: float, leave: float, shown: bool) -> float:
    if shown:
        return min(1.0, share + past / enter) if enter else 1.0
    return max(0.0, share - past / leave) if leave else 0.0


@given(flags(), st.sampled_from([0.0, 0.2, 3.0]), st.sampled_from([0.0, 0.5, 1.0]))
def test_presence_is_what_its_words_say(frames: Flags, enter: float, leave: float) -> None:
    text = {name: Passage(seconds=seconds) for name, seconds in (("enter", enter), ("leave", leave)) if seconds} or {
        "enter": Passage(seconds=1e-9)
    }
    found = track(bind(moving(**text)), trace_of(frames)).columns["w.presence"].data
    assert found == pytest.approx(slowly_there(frames, enter or (0.0 if leave else 1e-9), leave), abs=1e-6)


@given(flags(), st.data())
def test_both_shares_are_the_same_however_the_trace_grew(frames: Flags, data: st.DataObject) -> None:
    bound = bind(moving(enter=Passage(seconds=0.4), leave=Passage(seconds=0.3), pop=Pop(when="leak", seconds=0.5)))
    whole = trace_of(frames)
    cut = data.draw(st.integers(1, len(frames)))
    begun = trace_of(frames[:cut])
    grown = Tracks(bound, begun).grown(begun).grown(whole)
    for name in ("presence", "pop"):
        step = bound.widgets["w"].columns[name]
        assert np.array_equal(grown.column(step).data, Tracks(bound, whole).column(step).data)


def test_a_pop_is_fresh_when_its_rule_turns_true_and_spent_after_its_seconds() -> None:
    frames: Flags = [(0.0, True, False), (0.5, False, False), (0.5, True, False), (0.1, True, False),
                     (0.2, None, False), (0.1, True, False), (9.0, True, False), (0.1, True, True)]  # fmt: skip
    bound = bind(moving(pop=Pop(when="leak", seconds=0.4)))
    found = track(bound, trace_of(frames)).columns["w.pop"].data
    assert found == pytest.approx([0.0, 0.0, 1.0, 0.75, 0.25, 1.0, 0.0, 0.0])


def test_the_track_has_these_columns_only_where_they_are_used() -> None:
    frames: Flags = [(0.0, True, False)]
    assert list(track(bind(moving()), trace_of(frames)).columns) == ["w.visible", "w.band", "w.text"]
    both = moving(leave=Passage(), pop=Pop(when="leak"))
    assert list(track(bind(both), trace_of(frames)).columns)[-2:] == ["w.presence", "w.pop"]


def test_a_pop_with_a_mistake_is_reported_at_its_place_and_pops_never() -> None:
    bound = bind(moving(pop=Pop(when="leek")))
    assert list(bound.errors) == [RulePlace("widget", "w", "pop", "when")]
    with pytest.raises(AvrinError, match="widget 'w', pop, when"):
        bound.raise_first()
    assert track(bound, trace_of([(0.0, True, False), (1.0, True, False)])).columns["w.pop"].data.tolist() == [0.0, 0.0]


def test_nobody_in_a_roster_without_slots_ever_arrives() -> None:
    text = moving(enter=Passage(), repeat="crew")
    empty = bind(Project(variables=VARIABLES, rosters=(Roster(name="crew", slots=0),), widgets=text.widgets))
    state = Tracks(empty, trace_of([(0.0, True, False)])).state(empty.widgets["w"], 0)
    assert not is_drawn(empty.widgets["w"], state)
