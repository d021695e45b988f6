"""Brinehook, simulated: a co-operative salvage dive, sixty frames a second, the same every time.

The rules are those of a game, not of a HUD: hull and air are not clamped to their ranges, scrap comes in uneven
lumps, a loss restarts the dive. The demo shows what a HUD makes of that.
"""

from __future__ import annotations

import math
import random

from msgspec import Struct, field

from avrin.trace.frames import Column, Event, Trace, Value

__all__ = ["DIVES", "Dive", "record"]

RATE = 60
CREW = ("Ona", "Teo", "Marit", "Isko")
QUOTA = 400
TIDE = 540.0  # seconds until the tide turns
AIR = 60.0  # seconds in a full bottle, at the surface
LOST_FOR = 5.0  # seconds the wreck stays before the dive restarts


class Dive(Struct, frozen=True):
    """Parameters of a recording: the chances of rocks and leaks, the amount of scrap.

    rocks: hits per minute. leak: chance that a hit opens the seam. seal: seconds the crew needs to close it.
    lumps: scrap in a usual lump. every: seconds between lumps. plating: second of the run at which it is bought.
    """

    name: str
    seed: int
    seconds: float
    rocks: float
    leak: float
    seal: tuple[float, float]
    lumps: tuple[int, int]
    every: tuple[float, float]
    plating: float | None = None


DIVES = (
    Dive("calm-dive", 11, 200, rocks=1.2, leak=0.0, seal=(3, 5), lumps=(6, 24), every=(9, 18)),
    Dive("leaky-dive", 54, 300, rocks=3.6, leak=0.62, seal=(0.3, 26), lumps=(8, 38), every=(10, 20), plating=18),
    Dive("rich-haul", 37, 240, rocks=1.8, leak=0.25, seal=(2, 7), lumps=(20, 64), every=(7, 13), plating=96),
)


class _State(Struct):
    """One run of the game, as its own code would hold it."""

    began: float
    hull: float = 100.0
    hull_max: float = 100.0
    air: float = AIR
    cells: float = 5.0
    depth: float = 0.0
    scrap: int = 0
    tide_left: float = TIDE
    leak: bool = False
    sealed_at: float = 0.0
    phase: str = "dive"
    at_bell: bool = False
    ends: float = math.inf
    next_lump: float = 8.0
    carried: list[int] = field(default_factory=lambda: [0] * len(CREW))
    plated: bool = False
    pending_events: list[tuple[str, dict[str, Value]]] = field(default_factory=list)  # what happened on this frame


def record(dive: Dive) -> Trace:
    """Simulate a dive from its seed and record every frame. `run` numbers the runs."""
    dice = random.Random(dive.seed)
    frames = round(dive.seconds * RATE)
    rows: dict[str, list[Value]] = {}
    runs: list[int] = []
    events: list[Event] = []
    state, run, best = _State(0.0), 1, 0
    for frame in range(frames):
        t = frame / RATE
        if t >= state.ends:
            run, state = run + 1, _State(t)
        _step(state, t - state.began, dive, dice)
        if state.ends is math.inf and state.phase != "dive":
            state.ends = t + LOST_FOR
            best = max(best, state.scrap)
        runs.append(run)
        events += [Event(round(t, 4), name, args, run) for name, args in state.pending_events]
        state.pending_events.clear()
        for name, value in _recorded_values(state, best, t, dive).items():
            rows.setdefault(name, []).append(value)
    times = [round(frame / RATE, 4) for frame in range(frames)]
    return Trace.make(dive.name, times, {name: Column.of(values) for name, values in rows.items()}, runs, events)


def _step(s: _State, now: float, dive: Dive, dice: random.Random) -> None:
    """Advance by one sixtieth of a second."""
    dt = 1 / RATE
    s.tide_left = TIDE - now
    if s.phase != "dive":
        s.depth = max(0.0, s.depth - 4 * dt) if s.phase == "surfaced" else s.depth + 1.5 * dt
        return
    _swim(s, now, dt)
    if dice.random() < dive.rocks / 60 * dt and now > 6:
        lost = dice.choice((4.0, 6.5, 9.0, 13.5, 18.0))
        s.hull -= lost
        s.pending_events.append(("rock", {"points": lost}))
        if not s.leak and dice.random() < dive.leak:
            s.leak, s.sealed_at = True, now + dice.uniform(*dive.seal)
    if s.leak:
        s.hull -= (1.1 + s.depth / 60) * dt
        if now >= s.sealed_at:
            s.leak = False
            s.cells = max(0.0, s.cells - 0.5)
    if now >= s.next_lump and not s.at_bell:
        lump = dice.randint(*dive.lumps)
        s.scrap += lump
        diver = dice.randrange(len(CREW))
        s.carried[diver] += lump
        s.pending_events.append(("hauled", {"who": CREW[diver], "scrap": float(lump)}))
        s.next_lump = now + dice.uniform(*dive.every)
    if dive.plating is not None and now >= dive.plating and not s.plated:
        s.plated, s.hull_max = True, 140.0
        s.hull += 40.0
    if s.hull <= 0 or s.air <= -3:
        s.phase = "lost"
        s.pending_events.append(("lost", {"cause": "hull" if s.hull <= 0 else "air"}))
    elif s.tide_left <= 0 or s.scrap >= QUOTA * 1.6:
        s.phase = "surfaced"


def _swim(s: _State, now: float, dt: float) -> None:
    """Descend to the ground and move along it; return to the bell to refill bottles when the air runs out."""
    ground = 38 + 9 * math.sin(now / 23) + 4 * math.sin(now / 7.3)
    goal = 12.0 if s.at_bell else ground
    s.depth += max(-7.0, min(4.5, goal - s.depth)) * dt * 0.9
    s.air -= (1 + s.depth / 110) * dt
    if s.air < 7 and not s.at_bell:
        s.at_bell = True
    if s.at_bell and s.depth < 14.5:
        s.air += 14 * dt
        if s.air >= AIR:
            s.air, s.at_bell = AIR, False


def _recorded_values(s: _State, best: int, t: float, dive: Dive) -> dict[str, Value]:
    """Return the recorded values."""
    late = dive.name == "leaky-dive" and t < 42  # the fourth diver joins late: until then all their values are missing
    seen: dict[str, Value] = {
        "phase": s.phase,
        "hull": round(s.hull, 2),
        "hull_max": s.hull_max,
        "air": round(s.air, 2),
        "cells": s.cells,
        "depth": round(s.depth, 2),
        "leak": s.leak,
        "at_bell": s.at_bell,
        "scrap": float(s.scrap),
        "quota": float(QUOTA),
        "tide_left": round(s.tide_left, 3),
        "best_haul": float(best),
    }
    for slot, name in enumerate(CREW):
        gone = late and slot == len(CREW) - 1
        seen[f"crew[{slot}].name"] = None if gone else name
        seen[f"crew[{slot}].scrap"] = None if gone else float(s.carried[slot])
    return seen
