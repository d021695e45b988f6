"""What a change changed: sixty widgets over an hour, against making both tracks."""

from __future__ import annotations

import time
from pathlib import Path

from avrin.binding.places import RulePlace
from common import FRAMES, line
from hud import sixty

__all__ = ["run"]


def run() -> None:
    """One rule changed; and every tenth widget moved by a frame, so that much differs."""
    from avrin.binding.binding import bind
    from avrin.binding.places import with_rule
    from avrin.binding.tracks import Tracks
    from avrin.diff.entries import entries
    from avrin.diff.stretches import both_bound, stretches
    from avrin.trace.frames import events_of

    project, trace = sixty(FRAMES)
    one = with_rule(project, RulePlace("widget", "w3", "inputs", "value"), "v3 + 1")
    many = project
    for at, widget in enumerate(project.widgets):
        if at % 10 == 0 and "value" in widget.inputs:
            many = with_rule(many, RulePlace("widget", widget.id, "inputs", "value"), f"prev({widget.inputs['value']})")
    for what, new in (("one rule", one), ("every tenth widget", many)):
        start = time.perf_counter()
        for side in (project, new):
            Tracks(bind(side, events=trace.event_kinds), trace)
        both = time.perf_counter() - start
        start = time.perf_counter()
        before, after = both_bound(project, new, events_of([trace]), (Path(), Path()))
        there = Tracks(before, trace)
        found = list(stretches(there, Tracks(after, trace, there)))
        entries(project, new)
        line(f"diff of 60 widgets over an hour: {what}", time.perf_counter() - start, both, "≤ 1.5×", "s")
        print(f"  ({len(found):,} stretches)")
