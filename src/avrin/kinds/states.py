"""The state word of a widget: broken, hidden, missing, off, its band's name, or showing."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import TRUE, Array

__all__ = ["BROKEN", "HIDDEN", "MISSING", "OFF", "SHOWING", "STATE_WORDS", "state_label", "state_step"]

BROKEN, HIDDEN, MISSING, OFF, SHOWING = "broken", "hidden", "missing", "off", "showing"
STATE_WORDS = (BROKEN, HIDDEN, MISSING, OFF, SHOWING)  # reserved: no band may have such a name

NO_BAND = "no band"


def state_label(state: str, states: Iterable[str]) -> str:
    """Return a state as people read it. states: all of the widget's; with bands among them, "" is `no band`, else `showing`."""
    return state or (NO_BAND if any(one and one not in STATE_WORDS for one in states) else SHOWING)


def _state(out: Array, args: Sequence[Array], _params: Params, chunk: Chunk, _state: Carried) -> None:
    visible, there, enabled, band = args
    out[...] = band
    for word, holds in ((OFF, enabled == TRUE), (MISSING, there == TRUE), (HIDDEN, visible == TRUE)):
        np.copyto(out, chunk.words.code(word), where=~holds)  # later words take precedence


STATE = Op("state", _state)


def state_step(graph: Graph, visible: Step, there: Step, enabled: Step, band: Step) -> Step:
    """Return the state word as a text step: "" for a visible widget outside all bands; `broken` does not depend on frames.

    visible, there, enabled: flags: whether it is visible, has its value, and can be pressed.
    """
    return graph.add(STATE, (visible, there, enabled, band), "text")
