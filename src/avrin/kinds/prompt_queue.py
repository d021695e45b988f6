"""Prompt queues: prompts wait, show, complete, rest and yield to one another. One operator per queue.

It does not iterate over frames: between two changes of a condition a queue changes only at the end of a wait.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import TRUE, Array

__all__ = ["PromptTiming", "prompt_turn"]


class PromptTiming(NamedTuple):
    """The timing of one prompt. order: lowest first. at_least: seconds it stays once shown; rest: seconds it stays away after.

    each: it is done only until its `when` turns false, not for the whole run.
    """

    order: float
    at_least: float
    rest: float
    each: bool


class _State:
    """showing: the prompt's number or -1. since: when it was shown. For each: done, when it went, `when` a frame ago."""

    def __init__(self, count: int) -> None:
        self.showing = -1
        self.since = -math.inf
        self.done = [False] * count
        self.gone = [-math.inf] * count
        self.when = [False] * count

    def copy(self) -> _State:
        other = _State(len(self.done))
        other.showing, other.since = self.showing, self.since
        other.done, other.gone, other.when = list(self.done), list(self.gone), list(self.when)
        return other

    def step(
        self, t: float, wants: list[bool], when: list[bool], until: list[bool], turns: Sequence[PromptTiming]
    ) -> None:
        """Advance by one frame."""
        for i, rules in enumerate(turns):
            if rules.each and self.when[i] and not when[i]:
                self.done[i] = False
            if until[i]:
                self.done[i] = True
        self.when = when
        able = [i for i, rules in enumerate(turns) if wants[i] and not self.done[i] and t - self.gone[i] >= rules.rest]
        first = min(able, key=lambda i: (turns[i].order, i), default=-1)
        now = self.showing
        if now >= 0:
            kept = t - self.since < turns[now].at_least
            before = first >= 0 and first != now and (turns[first].order, first) < (turns[now].order, now)
            if self.done[now] or not (kept or (wants[now] and not before)):
                self.gone[now] = t
                self.showing = now = -1
                if first >= 0 and self.done[first]:
                    first = -1
        if now < 0 and first >= 0 and t - self.gone[first] >= turns[first].rest:
            self.showing, self.since = first, t

    def deadlines(self, turns: Sequence[PromptTiming]) -> list[tuple[float, float]]:
        """Return waits that may change something when they end: (start, seconds)."""
        found = [(self.gone[i], rules.rest) for i, rules in enumerate(turns) if rules.rest > 0]
        if self.showing >= 0:
            found.append((self.since, turns[self.showing].at_least))
        return [(begun, wait) for begun, wait in found if begun > -math.inf and wait > 0]


def _turns(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, state: Carried) -> Carried:
    """Arguments: wants, when and until of each prompt. Result: the number of the visible prompt, from 1; 0 for none."""
    turns = params
    flags = [np.broadcast_to(arg == TRUE, (chunk.frames,)) for arg in args]
    new = np.zeros(chunk.frames, bool)
    new[0] = True
    for flag in flags:
        new[1:] |= flag[1:] != flag[:-1]
    changes = np.flatnonzero(new).tolist()
    now = _State(len(turns)) if state is None else state.copy()
    at, turn_of = 0, iter([*changes[1:], chunk.frames])
    until = next(turn_of)
    t = chunk.t
    while at < chunk.frames:
        row = [bool(flag[at]) for flag in flags]
        now.step(float(t[at]), row[0::3], row[1::3], row[2::3], turns)
        while until <= at:
            until = next(turn_of)
        end = until
        for begun, wait in now.deadlines(turns):
            if float(t[at]) - begun < wait:
                end = min(end, at + 1 + int(np.searchsorted(t[at + 1 : end] - begun, wait, "left")))
        # A prompt that went on this frame may return on the next if its rest is 0.
        settled = _State.copy(now)
        if at + 1 < end:
            settled.step(float(t[at + 1]), row[0::3], row[1::3], row[2::3], turns)
            if settled.showing != now.showing or settled.done != now.done:
                end = at + 1
        out[at:end] = now.showing + 1
        at = end
    return now


TURNS = Op("turns", _turns, timed=True)


def prompt_turn(graph: Graph, conditions: Sequence[tuple[Step, Step, Step]], turns: Sequence[PromptTiming]) -> Step:
    """Return the number, from 1, of the visible prompt of a queue; 0 for none.

    conditions: for each prompt: wants, when and until.
    """
    return graph.add(TURNS, [step for three in conditions for step in three], "number", tuple(turns))
