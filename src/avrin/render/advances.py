"""Advances of a font's characters and character pairs, which give a text's width without shaping it.

Each pair is measured by the shaping library on first use. A text's width is the advance of its first character
plus what each further one adds after its predecessor; this is exact unless three or more letters interact.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from avrin.trace.frames import Array

__all__ = ["Advances"]

KNOWN = 128  # characters in the tables: ASCII


class Advances:
    """advance: returns a text's width in font units by shaping it."""

    def __init__(self, advance: Callable[[str], int]) -> None:
        self._advance = advance
        self._alone = np.full(KNOWN, np.nan)
        self._after = np.full(KNOWN * KNOWN, np.nan)  # what the second of a pair adds; index: first · KNOWN + second

    def widths(self, texts: Sequence[str]) -> Array:
        """Return widths in font units, shape (len(texts),). Texts with non-ASCII characters are shaped."""
        found = np.zeros(len(texts))
        plain = [i for i, text in enumerate(texts) if text.isascii()]
        for i in set(range(len(texts))).difference(plain):
            found[i] = self._advance(texts[i])
        filled = [i for i in plain if texts[i]]
        if not filled:
            return found
        codes = np.frombuffer("".join(texts[i] for i in filled).encode("ascii"), np.uint8).astype(np.intp)
        lengths = np.array([len(texts[i]) for i in filled])
        starts = np.cumsum(lengths) - lengths
        pairs = np.append(0, codes[:-1] * KNOWN + codes[1:])
        inner = np.ones(len(codes), bool)
        inner[starts] = False
        self._learn(codes[starts], pairs[inner])
        added = np.empty(len(codes))
        added[inner] = self._after[pairs[inner]]
        added[starts] = self._alone[codes[starts]]
        found[filled] = np.add.reduceat(added, starts)
        return found

    def _learn(self, firsts: Array, pairs: Array) -> None:
        """Measure those that are not known yet."""
        for code in np.unique(firsts[np.isnan(self._alone[firsts])]).tolist():
            self._alone[code] = self._advance(chr(code))
        for pair in np.unique(pairs[np.isnan(self._after[pairs])]).tolist():
            first, second = divmod(pair, KNOWN)
            self._after[pair] = self._advance(chr(first) + chr(second)) - self._advance(chr(first))
