"""Visual order of a line's letters: the Unicode bidirectional algorithm (UAX #9), by a library."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from itertools import groupby

__all__ = ["FROM_RIGHT", "ORDERING", "UNSEEN", "in_order", "right_to_left"]

# Right-to-left letters and direction marks: lines without them need no reordering.
TURNED = "[\u0590-\u08ff\u200f\u202b\u202e\ufb1d-\ufdff\ufe70-\ufefc\U00010800-\U00010fff\U0001e800-\U0001efff]"
FIRST = "\u0590"  # the lowest right-to-left letter
FROM_RIGHT = "\u200f"  # right-to-left mark
LTR_ISOLATE, RTL_ISOLATE, FIRST_STRONG_ISOLATE, END_ISOLATE = "\u2066\u2067\u2068\u2069"
ISOLATES = {LTR_ISOLATE: "L", RTL_ISOLATE: "R", FIRST_STRONG_ISOLATE: ""}
# Direction marks, which have no glyph.
ORDERING = frozenset("\u200e\u200f\u061c\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
# Characters that need no glyph: direction marks, joiners, zero-width breaks and variation selectors.
UNSEEN = ORDERING | frozenset("\u00ad\u034f\u200b\u200c\u200d\u2060\ufeff") | {chr(0xFE00 + n) for n in range(16)}
OBJECT = "\ufffc"  # replaces an isolate while its surroundings are reordered
LTR_LETTER, RTL_LETTER = "A", "\u05d0"
MAX_DEPTH = 60  # nested isolates; deeper ones are not isolated


def right_to_left(text: str) -> bool:
    """Return whether a line is right-to-left, by its first strong letter or mark (UAX #9, P2 and P3)."""
    if not _turns(text):
        return False
    from bidi import get_base_level  # late: 6 ms

    outer = _without_isolates(text)[0]  # P2: isolates do not count
    return bool(get_base_level("".join(map(_with_class, outer)))) if outer else False


def in_order(text: str) -> list[tuple[str, bool]]:
    """Return the runs of a line in visual order, left to right, each with whether it is right-to-left.

    Letters of a run are in reading order, with joiners. Direction marks are removed.
    """
    if not _turns(text):
        return [(text if ORDERING.isdisjoint(text) else "".join(one for one in text if one not in ORDERING), False)]
    return _ordered(text, "", 0)


def _ordered(text: str, base: str, depth: int) -> list[tuple[str, bool]]:
    """Do the same for a line or an isolate. base: its direction, "L" or "R"; "" to detect it.

    The library does not support isolates (UAX #9, X5a to X6a): their content is reordered separately and is one neutral
    character in its surroundings.
    """
    whole, held = _without_isolates(text) if depth < MAX_DEPTH else (text, [])
    runs: list[tuple[int, str]] = []
    for level, letters in groupby(zip(_levels(whole, base), whole, strict=True), key=lambda item: item[0]):
        runs.append((level, "".join(letter for _, letter in letters if letter not in ORDERING)))
    isolated = iter(held)
    parts = [part for level, letters in runs for part in _parts(level, letters, isolated, depth)]
    # L2: from the highest level down to the lowest odd one, reverse adjacent runs at that level or above
    for level in range(max((part[0] for part in parts), default=0), 0, -1):
        turned: list[_Part] = []
        for high, beside in groupby(parts, key=lambda part: part[0] >= level):
            stretch = list(beside)
            turned += reversed(stretch) if high else stretch
        parts = turned
    return [run for _, inner in parts for run in inner]


_Part = tuple[int, list[tuple[str, bool]]]  # a level, and runs that stay together, left to right


def _parts(level: int, letters: str, isolated: Iterator[tuple[str | None, str]], depth: int) -> Iterator[_Part]:
    """Yield a run of one level, split at isolates."""
    for number, piece in enumerate(letters.split(OBJECT)):
        if number:
            inner, base = next(isolated)
            yield level, [(OBJECT, False)] if inner is None else _ordered(inner, base, depth + 1)
        if piece:
            yield level, [(piece, bool(level % 2))]


def _without_isolates(text: str) -> tuple[str, list[tuple[str | None, str]]]:
    """Replace isolates with a neutral character; return the text and the isolates with their direction."""
    outer, held, depth, begins, base = list[str](), list[tuple[str | None, str]](), 0, 0, ""
    for at, letter in enumerate(text):
        if letter in ISOLATES:
            if not depth:
                begins, base = at + 1, ISOLATES[letter]
            depth += 1
        elif letter == END_ISOLATE:
            if depth == 1:
                outer.append(OBJECT)
                held.append((text[begins:at], base))
            depth = max(0, depth - 1)
        elif not depth:
            outer.append(letter)
            if letter == OBJECT:
                held.append((None, ""))
    if depth:  # unterminated: it extends to the end of the line
        outer.append(OBJECT)
        held.append((text[begins:], base))
    return "".join(outer), held


def _levels(text: str, base: str) -> list[int]:
    """Return the embedding level of each letter; odd levels are right-to-left."""
    if not text:
        return []
    from bidi import algorithm as uax  # late: 15 ms

    known = "".join(map(_with_class, text))
    storage = uax.get_empty_storage()
    level = ("L", "R").index(base) if base else int(uax.get_base_level(known)) if known else 0
    storage["base_level"], storage["base_dir"] = level, ("L", "R")[level]
    uax.get_embedding_levels(known, storage)
    for at, one in enumerate(storage["chars"]):
        one["at"] = at
    uax.explicit_embed_and_overrides(storage)
    uax.resolve_weak_types(storage)
    uax.resolve_neutral_types(storage, debug=False)
    uax.resolve_implicit_levels(storage, debug=False)
    levels = {int(one["at"]): int(one["level"]) for one in storage["chars"]}
    found: list[int] = []
    for at in range(len(text)):  # joiners have no direction: they take the level of the letter before them
        found.append(levels.get(at, found[-1] if found else level))
    return found


def _with_class(letter: str) -> str:
    """Return the letter, or a neutral one if the library knows no class for it."""
    if unicodedata.bidirectional(letter) and letter not in ISOLATES and letter != END_ISOLATE:
        return letter
    return RTL_LETTER if re.match(TURNED, letter) else LTR_LETTER


def _turns(text: str) -> bool:
    """Return whether a line contains right-to-left characters."""
    return max(text, default="") >= FIRST and re.search(TURNED, text) is not None
