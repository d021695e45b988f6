"""Texts of several lines: broken where a line end is written, and between words where a line is full."""

from __future__ import annotations

from collections.abc import Callable

__all__ = ["wrapped"]

LINE_END = "\\n"  # as it is written in a text: a backslash and an n


def wrapped(text: str, width: float, most: int, measure: Callable[[str], float]) -> list[str]:
    """The lines of a text in a box of a width, `most` at most; measure: a line's width in the same unit.

    A word is never broken. What is left for the last line stands in it whole, beyond the box, so that it is seen and found.
    """
    if most == 1:
        return [text]
    lines: list[str] = []
    parts = text.replace("\n", LINE_END).split(LINE_END)
    for number, part in enumerate(parts):
        words = part.split(" ")
        line = words[0]
        for at, word in enumerate(words[1:], start=1):
            if len(lines) == most - 1:  # the last one takes the rest
                rest = " ".join([line, *words[at:], *parts[number + 1 :]])
                return [*lines, rest]
            if measure(f"{line} {word}") <= width:
                line = f"{line} {word}"
            else:
                lines.append(line)
                line = word
        if len(lines) == most - 1:
            return [*lines, " ".join([line, *parts[number + 1 :]])]
        lines.append(line)
    return lines
