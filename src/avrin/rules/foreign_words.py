"""Words of other languages and their equivalents in rules."""

from __future__ import annotations

from collections.abc import Iterable

from avrin.errors import nearest

__all__ = ["foreign_word_advice", "function_like", "name_like"]

# Functions of other languages, in lower case without a prefix: the equivalent here, and advice.
ELSEWHERE = {
    "int": ("floor", "floor(x) cuts off, round(x) rounds"),
    "trunc": ("floor", "floor(x) cuts off, round(x) rounds"),
    "float": ("", "It is a number already: remove the function"),
    "str": ("text", 'text(x, "0") writes a number'),
    "string": ("text", 'text(x, "0") writes a number'),
    "tostring": ("text", 'text(x, "0") writes a number'),
    "format": ("text", 'text(x, "0") writes a number'),
    "concat": ("", "Texts are joined in a label's text, with values in braces"),
    "join": ("", "Texts are joined in a label's text, with values in braces"),
    "len": ("length", ""),
    "size": ("length", ""),
    "isnull": ("has", "has(x) tests for a value"),
    "exists": ("has", "has(x) tests for a value"),
    "modulo": ("mod", ""),
    "clip": ("clamp", ""),
    "average": ("mean", ""),
    "avg": ("mean", ""),
    "toupper": ("upper", ""),
    "touppercase": ("upper", ""),
}
NOTHING = ("null", "none", "nil", "undefined", "nan")


def function_like(name: str, names: Iterable[str]) -> tuple[str, str]:
    """Return the function most similar to an unknown name, or "", and advice."""
    names = list(names)
    last = name.rpartition(".")[2].lower()
    if last in names:
        return last, ""
    return ELSEWHERE[last] if last in ELSEWHERE else (nearest(name, names), "")


def name_like(name: str, names: Iterable[str]) -> str:
    """Return the name most similar to an unknown one; for `player.score` names equal to the last part win."""
    names = list(names)
    last = name.rpartition(".")[2]
    if last != name:
        ending = [one for one in names if one == last or one.endswith((f".{last}", f"_{last}"))]
        if ending:
            return min(ending, key=lambda name_: (name_ != last, len(name_)))
        return nearest(last, names) or nearest(name, names)
    return nearest(name, names)


def foreign_word_advice(name: str) -> str:
    """Return advice for a word of another language without a value here; "" for any other name."""
    return "has(x) tests for a value; `x otherwise 0` replaces a missing one" if name.lower() in NOTHING else ""
