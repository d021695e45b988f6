"""In which order a line's letters stand: the Unicode bidirectional algorithm (UAX #9), by a library that knows it."""

from __future__ import annotations

import re
from itertools import groupby

__all__ = ["FROM_RIGHT", "ORDERING", "in_order", "right_to_left"]

# Letters that are written from right to left, and the marks that say so: lines without them need no ordering.
TURNED = "[\u0590-\u08ff\u200f\u202b\u202e\ufb1d-\ufdff\ufe70-\ufefc\U00010800-\U00010fff\U0001e800-\U0001efff]"
FIRST = "\u0590"  # no letter before it is one of them
FROM_RIGHT = "\u200f"  # what follows is read from right to left
ORDERING = frozenset("\u200e\u200f\u202a\u202b\u202c\u202d\u202e")  # marks that order letters and are none


def right_to_left(text: str) -> bool:
    """Whether a line begins at its right: its first letter, or mark, is one that does (UAX #9, P2 and P3)."""
    if not _turns(text):
        return False
    from bidi import get_base_level

    return bool(get_base_level(text))


def in_order(text: str) -> list[tuple[str, bool]]:
    """The stretches of a line from left to right as they are seen, each with whether it runs from right to left itself.

    Its letters are in their reading order. Marks that only order are left out.
    """
    if not _turns(text):
        return [(text, False)]
    from bidi import algorithm as uax

    storage = uax.get_empty_storage()
    base = uax.get_base_level(text)
    storage["base_level"], storage["base_dir"] = base, ("L", "R")[base]
    uax.get_embedding_levels(text, storage)
    uax.explicit_embed_and_overrides(storage)
    uax.resolve_weak_types(storage)
    uax.resolve_neutral_types(storage, debug=False)
    uax.resolve_implicit_levels(storage, debug=False)
    runs = [
        (level, "".join(one["ch"] for one in letters if one["ch"] not in ORDERING))
        for level, letters in groupby(storage["chars"], key=lambda one: int(one["level"]))
    ]
    runs = [run for run in runs if run[1]]
    # L2: from the highest level down to the lowest odd one, what stands side by side at that level or above is turned.
    for level in range(max((run[0] for run in runs), default=0), 0, -1):
        turned: list[tuple[int, str]] = []
        for high, beside in groupby(runs, key=lambda run: run[0] >= level):
            stretch = list(beside)
            turned += reversed(stretch) if high else stretch
        runs = turned
    return [(letters, bool(level % 2)) for level, letters in runs]


def _turns(text: str) -> bool:
    """Whether a line has any of them."""
    return max(text, default="") >= FIRST and re.search(TURNED, text) is not None
