"""Enter and leave transitions and pops: progress values as functions of time, stored with a widget's track."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np

from avrin.kinds.kind import Kind
from avrin.project.project import Passage
from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.rules.template import TEMPLATE, split_template
from avrin.trace.frames import TRUE, Array

__all__ = ["popping", "popping_rule", "presence"]


def _presence(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: (whether it is visible, its presence at the last change, the time of that change)."""
    entering, leaving = params
    shown = np.broadcast_to(args[0] == TRUE, (chunk.frames,))
    if state is None:  # a widget visible at the start of a run is fully present
        state = (bool(shown[0]), float(shown[0]), float(chunk.t[0]))
    on, start, since = state
    changed = np.flatnonzero(shown[1:] != shown[:-1]) + 1
    for begin, end in pairwise((0, *changed.tolist(), chunk.frames)):
        if bool(shown[begin]) is not on:
            now = float(chunk.t[begin])
            start = float(_share(start, now - since, entering if on else -leaving))
            on, since = not on, now
        out[begin:end] = _share(start, chunk.t[begin:end] - since, entering if on else -leaving)
    return on, start, since


def _share(start: float, past: Array | float, seconds: float) -> Array:
    """Return the presence some time after it was `start`, growing to 1 in `seconds`, or shrinking to 0 if negative."""
    if seconds == 0:  # the sign gives the direction: +0.0 enters at once, -0.0 leaves at once
        return np.full_like(past, 0.0 if np.signbit(seconds) else 1.0)
    return np.clip(start + np.asarray(past) / seconds, 0.0, 1.0)


def _pop(out: Array, args: Sequence[Array], params: Params, _chunk: Chunk, _state: Carried) -> None:
    """Return the remainder of the latest pop, from the seconds since it began."""
    (seconds,) = params
    np.clip(1.0 - args[0] / seconds, 0.0, 1.0, out=out)
    np.copyto(out, 0.0, where=np.isnan(args[0]))


PRESENCE = Op("presence", _presence, timed=True)
POP = Op("pop", _pop)


def presence(graph: Graph, visible: Step, enter: Passage | None, leave: Passage | None) -> Step:
    """Return the step of a widget's presence, 0 to 1.

    It grows linearly to 1 within `enter`'s seconds after `visible` turns true, and shrinks within `leave`'s after it
    turns false; immediately without a transition. At the start of a run it is 0 or 1.
    """
    seconds = tuple(passage.seconds if passage is not None else 0.0 for passage in (enter, leave))
    return graph.add(PRESENCE, (visible,), "number", seconds)


def popping(graph: Graph, when: Step, seconds: float) -> Step:
    """Return a step that is 1 when `when` turns true and falls linearly to 0 within `seconds`; 0 at the start of a run."""
    past = FUNCTIONS["since"].build(graph, (FUNCTIONS["rose"].build(graph, (when,)),))
    return graph.add(POP, (past,), "number", (seconds,))


CHANGES = {"number": "change({}) != 0", "flag": "rose({})", "text": "({0}) != prev({0})"}


def popping_rule(kind: Kind, inputs: Mapping[str, str], steps: Mapping[str, Step]) -> str:
    """Return a rule that makes a widget pop when its main value changes. inputs: its rules. steps: of its inputs.

    For a text the first value in it is used; "false" if nothing can change.
    """
    for name in kind.main_inputs():
        rule, step = inputs.get(name, ""), steps.get(name)
        if step is None or not rule:
            continue
        if step.op is TEMPLATE:
            values = [piece.rule for piece in split_template(rule) if piece.rule is not None]
            if values and step.args:
                return CHANGES[step.args[0].kind].format(values[0].strip())
        elif step.constant is None:
            return CHANGES[step.kind].format(rule.strip())
    return "false"
