"""Characters that a widget writes and its glyph sheet, or its font, does not have."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from avrin.widgets.binding import BoundWidget
from avrin.widgets.glyph_sheet import GlyphSheet
from avrin.widgets.tracks import Tracks

__all__ = ["lacking", "unwritten"]

MOST = 400  # different texts of one recording that are looked at


def lacking(tracks: Tracks, widget: BoundWidget, column: str, has: Callable[[str], bool]) -> dict[str, int]:
    """Printable characters of a text column for which `has` is false, each with the first frame found that shows it."""
    frames = np.flatnonzero(tracks.column(widget.columns["visible"]).data > 0)
    step = widget.columns.get(column) or widget.drawn[column]
    found: dict[str, int] = {}
    for frame, text in tracks.some_texts(step, frames, MOST):
        for character in text:
            if not has(character) and character.isprintable():
                found.setdefault(character, frame)
    return found


def unwritten(tracks: Tracks, widget: BoundWidget) -> list[str]:
    """What a widget with a glyph sheet writes in it that the sheet does not have, sorted; nothing for one without."""
    sheet = getattr(widget.options, "face", None)
    if not isinstance(sheet, GlyphSheet) or not widget.kind.faced:
        return []
    return sorted(lacking(tracks, widget, widget.kind.faced, {*sheet.characters, " "}.__contains__))
