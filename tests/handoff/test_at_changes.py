"""The table of expected results: each state once, nothing lost."""

from __future__ import annotations

from itertools import pairwise

from hypothesis import given

from avrin.handoff.table import at_changes
from avrin.trace.frames import Trace
from strategies import traces


def rows(trace: Trace) -> list[tuple[object, ...]]:
    return [tuple(c[i] for c in trace.columns.values()) for i in range(len(trace))]


@given(traces())
def test_rows_change_within_a_run_and_hold_until_the_next(trace: Trace) -> None:
    short = at_changes(trace)
    whole, kept = rows(trace), rows(short)
    for (a, b), (r, s) in zip(pairwise(kept), pairwise(short.run.tolist()), strict=True):
        assert a != b or r != s
    # Reading the table from above gives every frame's row back.
    wanted = iter([*zip(short.t.tolist(), short.run.tolist(), kept, strict=True), (float("inf"), 0, ())])
    now: tuple[object, ...] = ()
    following = next(wanted)
    for i, row in enumerate(whole):
        starts = i == 0 or row != whole[i - 1] or trace.run[i] != trace.run[i - 1]
        if starts:
            assert following[:2] == (trace.t[i], trace.run[i])
            now, following = following[2], next(wanted)
        assert row == now
    assert following[0] == float("inf")
