"""Reserved words of the rule language, which no part of a project may use as its name. The grammar in `rules` has the same."""

from __future__ import annotations

__all__ = ["JOINING_WORDS", "MOMENT_WORDS", "RESERVED", "VALUE_WORDS"]

JOINING_WORDS = ("if", "then", "else", "otherwise", "and", "or", "not", "in")  # each must be followed by something
VALUE_WORDS = ("true", "false", "missing")
MOMENT_WORDS = ("now", "clock", "run")  # numbers that every frame has
RESERVED = frozenset((*JOINING_WORDS, *VALUE_WORDS, *MOMENT_WORDS, "slot"))
