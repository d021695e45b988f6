"""The state word of a widget: broken, hidden, missing, off, its band's name, or showing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from avrin.rules import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace import TRUE, Array

__all__ = ["BROKEN", "HIDDEN", "MISSING", "OFF", "SHOWING", "STATE_WORDS", "state_step"]

BROKEN, HIDDEN, MISSING, OFF, SHOWING = "broken", "hidden", "missing", "off", "showing"
STATE_WORDS = (BROKEN, HIDDEN, MISSING, OFF, SHOWING)  # reserved: no band may have such a name


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
