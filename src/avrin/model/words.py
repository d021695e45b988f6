"""The words of the rule language: what nothing in a project can be called. Its grammar, in `rules`, knows the same."""

from __future__ import annotations

__all__ = ["JOINING_WORDS", "MOMENT_WORDS", "RESERVED", "VALUE_WORDS"]

JOINING_WORDS = ("if", "then", "else", "otherwise", "and", "or", "not", "in")  # something has to follow each
VALUE_WORDS = ("true", "false", "missing")
MOMENT_WORDS = ("now", "clock", "run")  # numbers that every frame has
RESERVED = frozenset((*JOINING_WORDS, *VALUE_WORDS, *MOMENT_WORDS, "slot"))
