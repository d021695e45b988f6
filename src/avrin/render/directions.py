"""In which order a line's letters stand: the Unicode bidirectional algorithm (UAX #9), by a library that knows it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from itertools import groupby

__all__ = ["FROM_RIGHT", "ORDERING", "UNSEEN", "in_order", "right_to_left"]

# Letters that are written from right to left, and the marks that say so: lines without them need no ordering.
TURNED = "[\u0590-\u08ff\u200f\u202b\u202e\ufb1d-\ufdff\ufe70-\ufefc\U00010800-\U00010fff\U0001e800-\U0001efff]"
FIRST = "\u0590"  # no letter before it is one of them
FROM_RIGHT = "\u200f"  # what follows is read from right to left
LTR_ISOLATE, RTL_ISOLATE, FIRST_STRONG_ISOLATE, END_ISOLATE = "\u2066\u2067\u2068\u2069"
ISOLATES = {LTR_ISOLATE: "L", RTL_ISOLATE: "R", FIRST_STRONG_ISOLATE: ""}
# Marks that order letters and are none.
ORDERING = frozenset("\u200e\u200f\u061c\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
# What no font needs letters for: those, joiners, breaks without room, and the choice between forms of a letter.
UNSEEN = ORDERING | frozenset("\u00ad\u034f\u200b\u200c\u200d\u2060\ufeff") | {chr(0xFE00 + n) for n in range(16)}
OBJECT = "\ufffc"  # stands for an isolated stretch where what is around it is ordered
LTR_LETTER, RTL_LETTER = "A", "\u05d0"
MAX_DEPTH = 60  # isolates within one another; what is deeper is not isolated


def right_to_left(text: str) -> bool:
    """Whether a line begins at its right: its first letter, or mark, is one that does (UAX #9, P2 and P3)."""
    if not _turns(text):
        return False
    from bidi import get_base_level

    outer = _without_isolates(text)[0]  # P2: what is isolated says nothing of the line
    return bool(get_base_level("".join(map(_with_class, outer)))) if outer else False


def in_order(text: str) -> list[tuple[str, bool]]:
    """The stretches of a line from left to right as they are seen, each with whether it runs from right to left itself.

    Its letters are in their reading order, joiners among them. Marks that only order are left out.
    """
    if not _turns(text):
        return [(text if ORDERING.isdisjoint(text) else "".join(one for one in text if one not in ORDERING), False)]
    return _ordered(text, "", 0)


def _ordered(text: str, base: str, depth: int) -> list[tuple[str, bool]]:
    """The same of a line, or of an isolated stretch of one. base: how it runs, "L" or "R"; "" for as its first letter does.

    The library knows no isolates (UAX #9, X5a to X6a): what they hold is ordered for itself, and is one sign without a
    direction among what is around it.
    """
    whole, held = _without_isolates(text) if depth < MAX_DEPTH else (text, [])
    runs: list[tuple[int, str]] = []
    for level, letters in groupby(zip(_levels(whole, base), whole, strict=True), key=lambda one: one[0]):
        runs.append((level, "".join(letter for _, letter in letters if letter not in ORDERING)))
    isolated = iter(held)
    parts = [part for level, letters in runs for part in _parts(level, letters, isolated, depth)]
    # L2: from the highest level down to the lowest odd one, what stands side by side at that level or above is turned.
    for level in range(max((part[0] for part in parts), default=0), 0, -1):
        turned: list[_Part] = []
        for high, beside in groupby(parts, key=lambda part: part[0] >= level):
            stretch = list(beside)
            turned += reversed(stretch) if high else stretch
        parts = turned
    return [run for _, inner in parts for run in inner]


_Part = tuple[int, list[tuple[str, bool]]]  # a level, and stretches from left to right that keep together


def _parts(level: int, letters: str, isolated: Iterator[tuple[str | None, str]], depth: int) -> Iterator[_Part]:
    """A stretch of one level, cut where something isolated stands in it."""
    for number, piece in enumerate(letters.split(OBJECT)):
        if number:
            inner, base = next(isolated)
            yield level, [(OBJECT, False)] if inner is None else _ordered(inner, base, depth + 1)
        if piece:
            yield level, [(piece, bool(level % 2))]


def _without_isolates(text: str) -> tuple[str, list[tuple[str | None, str]]]:
    """A text with a sign for each isolated stretch, and those with how they run; a sign that is there already has none."""
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
    if depth:  # not ended: it goes on to the end of the line
        outer.append(OBJECT)
        held.append((text[begins:], base))
    return "".join(outer), held


def _levels(text: str, base: str) -> list[int]:
    """The level of each letter: odd ones run from right to left."""
    if not text:
        return []
    from bidi import algorithm as uax

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
    for at in range(len(text)):  # joiners have no direction of their own: they are where the letter before them is
        found.append(levels.get(at, found[-1] if found else level))
    return found


def _with_class(letter: str) -> str:
    """A letter that the library knows a direction of: of what stands for nothing it knows none."""
    if unicodedata.bidirectional(letter) and letter not in ISOLATES and letter != END_ISOLATE:
        return letter
    return RTL_LETTER if re.match(TURNED, letter) else LTR_LETTER


def _turns(text: str) -> bool:
    """Whether a line has any of them."""
    return max(text, default="") >= FIRST and re.search(TURNED, text) is not None
