"""Derived events that say nothing, or that a recording replaces by its own."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from avrin.binding.places import RulePlace
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding

__all__ = ["CHECKS"]

ALWAYS = 0.5  # share of a recording's frames from which an event happens all the time
LEAST_FRAMES = 8  # of a recording that can show it


def _derived(case: Case) -> list[str]:
    """Return the derived events without an error."""
    wrong = {place.owner for place in case.bound.errors if place.what == "event"}
    return [event.name for event in case.project.events if event.when and event.name not in wrong]


def _happens_always(case: Case) -> Iterator[Finding]:
    for name in _derived(case):
        for tracks in case.tracks:
            found, frames = tracks.occurrences(name), len(tracks.trace)
            times = len(np.unique(found.frames))
            if not found.derived or frames < LEAST_FRAMES or times <= ALWAYS * frames:
                continue
            yield Finding(
                "", f"{name} happens all the time",
                f"The event {name} happens on {times:,} of {frames:,} frames of {tracks.trace.name}",
                "Write when it begins: rose(…), changed(…) or change(…) > 0", about=RulePlace("event", name, "when").within,
                variable=f"{name}()", trace=tracks.trace.name, start=int(found.frames[0]), end=int(found.frames[0]) + 1,
            )  # fmt: skip
            break


def _recorded_instead(case: Case) -> Iterator[Finding]:
    for name in _derived(case):
        for tracks in case.tracks:
            if name in tracks.trace.event_kinds:
                yield Finding(
                    "", f"{name} is recorded",
                    f"The recording {tracks.trace.name} contains the event {name}: it is used as recorded, and its rule is not",
                    "Rename one of them, or remove the rule if the game records the event",
                    about=name, variable=f"{name}()", trace=tracks.trace.name,
                )  # fmt: skip
                break


CHECKS = (
    Check(
        "happens-always", "warning", "A derived event happens on most frames of a recording.", project=_happens_always,
    ),
    Check(
        "recorded-instead", "hint", "A recording contains an event that the project derives, and is used as recorded.",
        project=_recorded_instead,
    ),
)  # fmt: skip
