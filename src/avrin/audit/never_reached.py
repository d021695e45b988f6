"""Bands that no frame of the recording ever showed."""

from __future__ import annotations

from collections.abc import Iterator

from avrin.audit.finding import Finding
from avrin.widgets import Tracks

__all__ = ["check"]


def check(tracks: Tracks) -> Iterator[Finding]:
    """A band that is never entered while its widget is visible: nobody has seen what it looks like in play."""
    for ident, widget in tracks.bound.widgets.items():
        visible = tracks.column(widget.columns["visible"]).data > 0
        column = tracks.column(widget.columns["band"])
        for band in widget.widget.bands:
            if band.name in column.words and (visible & (column.data == column.words.index(band.name))).any():
                continue
            limit = next((text for text in (band.below, band.above, band.when) if text), "")
            value = widget.inputs.get("value")
            names = value.sources() if value is not None else []
            yield Finding(
                "never-reached",
                "hint",
                ident,
                f"never {band.name}",
                f"{widget.widget.title} is never {band.name} ({limit}) in {tracks.trace.name}",
                "Play on until it is, or look at it in the ladder",
                variable=names[0] if names else "",
            )
