"""What a warning would have done, computed frame by frame from its definition: slow and independent."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

__all__ = ["Recorded", "outcome_of"]

EQUAL = 1e-9


class Recorded(NamedTuple):
    """A recording: times, the run of each frame, levels (None missing), and whether the outcome's rule is true."""

    t: Sequence[float]
    run: Sequence[int]
    level: Sequence[float | None]
    lost: Sequence[bool]


def outcome_of(
    recordings: Sequence[Recorded], value: float, *, below: bool, gap: float | None, restart: bool,
    lead: float, within: float, again: float, held: float = 0.0,
) -> dict[str, float | None]:  # fmt: skip
    """One value's row."""
    sums: dict[str, float | None] = dict.fromkeys(
        ("outcomes", "warned", "late", "missed", "alarms", "false", "again"), 0
    )
    leads: list[float] = []
    frames = on_frames = 0
    for one in recordings:
        for first, end in _runs(one.run):
            state = _on(one.level[first:end], one.t[first:end], value, below=below, gap=gap, held=held)
            t, last = one.t[first:end], end - first - 1
            frames, on_frames = frames + end - first, on_frames + sum(state)
            alarms = _rows(state)
            times = [(b, t[min(e + 1, last)]) for b, e in alarms]  # its first frame, and when it ends
            if restart:
                outcomes = [last] if end < len(one.t) else []
            else:
                outcomes = [k for k in range(1, end - first) if one.lost[first + k] and not one.lost[first + k - 1]]
            for k in outcomes:
                sums["outcomes"] = (sums["outcomes"] or 0) + 1
                before = [b for b, e in alarms if k > 0 and b <= k - 1 <= e]
                if before:
                    found: float | None = t[k] - t[before[0]]
                else:
                    found = 0.0 if any(b == k for b, _ in alarms) else None
                if found is None:
                    sums["missed"] = (sums["missed"] or 0) + 1
                    continue
                leads.append(found)
                what = "warned" if found >= lead - EQUAL else "late"
                sums[what] = (sums[what] or 0) + 1
            for number, (b, e) in enumerate(times):
                sums["alarms"] = (sums["alarms"] or 0) + 1
                answered = any(t[b] - EQUAL <= t[k] <= e + within + EQUAL for k in outcomes)
                if not answered and t[last] >= e + within - EQUAL:
                    sums["false"] = (sums["false"] or 0) + 1
                if number and t[b] - times[number - 1][1] < again - EQUAL:
                    sums["again"] = (sums["again"] or 0) + 1
    sums["lead_median"], sums["lead_p10"] = _percentile(leads, 50), _percentile(leads, 10)
    sums["share_on"] = on_frames / frames if frames else 0.0
    return sums


def _runs(run: Sequence[int]) -> list[tuple[int, int]]:
    starts = [i for i in range(len(run)) if i == 0 or run[i] != run[i - 1]]
    return list(zip(starts, [*starts[1:], len(run)], strict=True))


def _on(
    level: Sequence[float | None], t: Sequence[float], value: float, *, below: bool, gap: float | None, held: float
) -> list[bool]:
    found, now, since = [], False, math.inf
    for one, second in zip(level, t, strict=True):
        inside = one is not None and (one < value if below else one > value)
        since = min(since, second) if inside else math.inf
        entered = inside and second - since >= held
        if gap is None:
            now = entered
        else:
            gone = one is not None and not inside and (one >= value + gap if below else one <= value + gap)
            now = True if entered else False if gone else now
        found.append(now)
    return found


def _rows(state: Sequence[bool]) -> list[tuple[int, int]]:
    """First and last frame of each row of frames that are on."""
    found: list[tuple[int, int]] = []
    for frame, on in enumerate(state):
        if on and frame and state[frame - 1]:
            found[-1] = (found[-1][0], frame)
        elif on:
            found.append((frame, frame))
    return found


def _percentile(numbers: Sequence[float], share: float) -> float | None:
    if not numbers:
        return None
    ordered = sorted(numbers)
    place = (len(ordered) - 1) * share / 100
    low = math.floor(place)
    high = min(low + 1, len(ordered) - 1)
    return ordered[low] + (ordered[high] - ordered[low]) * (place - low)
