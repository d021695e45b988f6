"""Texts that vanish before anybody can read them."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from avrin.audit.finding import Finding
from avrin.widgets import Tracks, changes

__all__ = ["check"]

LEAST = 0.8  # seconds: a glance to notice a short text and one to read it
BY_LETTER = 0.05  # seconds more for each letter: some 200 words a minute
MOST = 2.5  # seconds after which a line has been read whatever its length


def check(tracks: Tracks) -> Iterator[Finding]:
    """A label that comes and goes within a run faster than its text can be read."""
    axis = tracks.trace.axis
    for ident, widget in tracks.bound.widgets.items():
        if widget.kind.name != "label":
            continue
        visible = tracks.column(widget.columns["visible"]).data > 0
        edges = np.concatenate(([0], changes(visible), [len(visible)])).astype(int).tolist()
        for start, end in pairwise(edges):
            if (
                not visible[start]
                or start == 0
                or end == len(visible)
                or tracks.trace.run[end] != tracks.trace.run[start]
            ):
                continue  # its beginning or end lies outside what was recorded, or a restart cut it off
            shown = float(axis[end] - axis[start])
            need = min(MOST, LEAST + BY_LETTER * len(str(tracks.value(widget.columns["text"], start) or "")))
            if shown < need:
                yield Finding(
                    "too-short",
                    "warning",
                    ident,
                    f"{shown:.1f} s: too short to read",
                    f"{widget.widget.title} shows for {shown:.1f} s; its text takes {need:.1f} s to read",
                    "Let it stay longer, for example with latch(on, since(on) >= 2s)",
                    start,
                    end,
                )
