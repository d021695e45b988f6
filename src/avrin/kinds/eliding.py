"""Truncate lines of text to a width, with an ellipsis."""

from __future__ import annotations

import unicodedata

from avrin.kinds.shapes import Measure
from avrin.rules.template import icon_pieces

__all__ = ["ELLIPSIS", "elided"]

ELLIPSIS = "…"
JOINERS = "\u200d\ufe0e\ufe0f"  # zero-width joiner and variation selectors belong to the preceding character


def elided(text: str, room: float, measure: Measure, size: float, bold: bool = False) -> str:
    """Return the text, or the longest prefix that fits with an ellipsis; the ellipsis alone if nothing fits.

    room: its width in the unit of `size`. Icons and combined characters are never split.
    """
    if measure.width(text, size, bold) <= room:
        return text
    parts = _parts(text)
    low, high = 0, len(parts)  # low parts fit, high parts do not
    while high - low > 1:
        middle = (low + high) // 2
        if measure.width("".join(parts[:middle]).rstrip() + ELLIPSIS, size, bold) <= room:
            low = middle
        else:
            high = middle
    return "".join(parts[:low]).rstrip() + ELLIPSIS


def _parts(text: str) -> list[str]:
    """Split a text into indivisible parts: icons, and characters with their combining ones."""
    found: list[str] = []
    for letters, asset in icon_pieces(text):
        if not letters:
            found.append(f"{{@{asset}}}")
        for character in letters:
            joins = character in JOINERS or unicodedata.combining(character) or (found and found[-1][-1] == JOINERS[0])
            if found and joins and letters:
                found[-1] += character
            else:
                found.append(character)
    return found
