"""Text columns as codes."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avrin.trace.frames import NO_TEXT, Event, Trace, events_of, present


@given(st.lists(st.integers(NO_TEXT, 40)))
def test_the_codes_that_occur_are_those_of_the_set(codes: list[int]) -> None:
    assert present(np.array(codes, np.int32)) == sorted(set(codes))


def test_what_happens_in_any_recording_has_the_arguments_of_all() -> None:
    one = Trace.make("one", [0.0], {}, events=(Event(0.0, "hit", {"points": 3.0}), Event(0.0, "end", {})))
    other = Trace.make("other", [0.0], {}, events=(Event(0.0, "hit", {"by": "rock"}),))
    assert events_of([one, other]) == {"hit": {"points": "number", "by": "text"}, "end": {}}
    assert one.event_kinds["hit"] == {"points": "number"}  # which is unchanged
