"""Places in a text: the toolkit counts UTF-16 units, of which some characters have two, and all else counts characters."""

from __future__ import annotations

__all__ = ["characters_before", "units_before"]

LAST_OF_ONE = "\uffff"  # characters beyond it have two units


def units_before(text: str, characters: int) -> int:
    """How many units so many characters at the beginning of a text are."""
    return characters + sum(character > LAST_OF_ONE for character in text[:characters])


def characters_before(text: str, units: int) -> int:
    """How many characters so many units at the beginning of a text are; one that is cut in the middle counts."""
    left = units
    for number, character in enumerate(text):
        if left <= 0:
            return number
        left -= 2 if character > LAST_OF_ONE else 1
    return len(text)
