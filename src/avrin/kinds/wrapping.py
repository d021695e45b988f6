"""Wrap text: at written line ends, and between words at the box's width."""

from __future__ import annotations

import functools
import re
from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from budoux import Parser

__all__ = ["wrapped"]

FIRST = "\u0e00"  # no earlier letter belongs to a script without spaces
THAI, CHINESE, KANA = "[\u0e00-\u0e7f]{2,}", "[\u3040-\u30ff\u3400-\u9fff]{2,}", "[\u3040-\u30ff]"

LINE_END = "\\n"  # as written in a text: a backslash and an n


def wrapped(text: str, width: float, most: int, measure: Callable[[str], float]) -> list[str]:
    """Return the lines of a text in a box, `most` at most; measure: a line's width in the same unit.

    A word is never broken; in languages without spaces a library finds the words. The remainder goes into the
    last line, beyond the box, where it is visible.
    """
    if most == 1:
        return [text]
    lines: list[str] = []
    parts = text.replace("\n", LINE_END).split(LINE_END)
    for number, part in enumerate(parts):
        words = _words(part)
        line = words[0]
        for at, word in enumerate(words[1:], start=1):
            if len(lines) == most - 1:  # the last line takes the rest
                rest = " ".join(["".join([line, *words[at:]]), *parts[number + 1 :]])
                return [*lines, rest]
            if measure(line + word) <= width:
                line += word
            else:
                lines.append(line)
                line = word.removeprefix(" ")
        if len(lines) == most - 1:
            return [*lines, " ".join([line, *parts[number + 1 :]])]
        lines.append(line)
    return lines


def _words(text: str) -> list[str]:
    """Return what a line may be broken before, each with the preceding space."""
    words: list[str] = []
    for number, word in enumerate(text.split(" ")):
        first, *rest = _phrases(word)
        words += [f" {first}" if number else first, *rest]
    return words


def _phrases(word: str) -> list[str]:
    """Return the phrases between two spaces, in languages that put none between words; otherwise the word itself."""
    if max(word, default="") < FIRST:
        return [word]
    if re.search(THAI, word):
        return _parser("thai").parse(word) or [word]
    if re.search(CHINESE, word):
        return _parser("japanese" if re.search(KANA, word) else "simplified_chinese").parse(word) or [word]
    return [word]


@functools.cache
def _parser(language: str) -> Parser:
    import budoux  # late: 12 ms

    parser: Parser = getattr(budoux, f"load_default_{language}_parser")()
    return parser
