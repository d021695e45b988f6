"""Missing glyphs: characters a widget writes that its glyph sheet or font does not have."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.kinds.glyph_sheet import GlyphSheet

__all__ = ["missing_glyphs", "unwritten"]

# Characters of formatted numbers, besides the letters in patterns.
FIGURES = "0123456789.,:-−+%∞ "


def missing_glyphs(tracks: Tracks, widget: BoundWidget, column: str, has: Callable[[str], bool]) -> dict[str, int]:
    """Return printable characters of a text column for which `has` is false, each with its first frame."""
    frames = np.flatnonzero(tracks.column(widget.columns["visible"]).data > 0)
    step = widget.columns.get(column) or widget.drawn[column]
    parts = tracks.parts(step, frames, ends=all(map(has, FIGURES)))
    written = set().union(*(text for _, text in parts))
    wrong = {character for character in written if character.isprintable() and not has(character)}
    return {character: min(frame for frame, text in parts if character in text) for character in sorted(wrong)}


def unwritten(tracks: Tracks, widget: BoundWidget) -> list[str]:
    """Return the characters a widget writes that its glyph sheet lacks, sorted; empty without a sheet."""
    sheet = getattr(widget.options, "face", None)
    if not isinstance(sheet, GlyphSheet) or not widget.kind.glyph_text:
        return []
    return sorted(missing_glyphs(tracks, widget, widget.kind.glyph_text, {*sheet.characters, " "}.__contains__))
