"""Convert text positions: Qt counts UTF-16 code units, everything else counts characters."""

from __future__ import annotations

__all__ = ["characters_before", "units_before"]

LAST_OF_ONE = "\uffff"  # characters above it have two units


def units_before(text: str, characters: int) -> int:
    """Return the number of units in the first `characters` of a text."""
    return characters + sum(character > LAST_OF_ONE for character in text[:characters])


def characters_before(text: str, units: int) -> int:
    """Return the number of characters in the first `units` of a text, counting a partial one."""
    left = units
    for number, character in enumerate(text):
        if left <= 0:
            return number
        left -= 2 if character > LAST_OF_ONE else 1
    return len(text)
