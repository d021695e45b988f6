"""Texts with values: `Depth {depth | 0.0} m`. `{{` and `}}` are braces; `{@coin}` is left for an icon.

A template is one step over its values. Each combination of values that occurs is formatted once.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from avrin.errors import AvrinError
from avrin.rules.errors import RuleError
from avrin.rules.language import PLURAL
from avrin.rules.patterns import PLAIN, Pattern, pattern
from avrin.rules.steps import Carried, Chunk, Graph, Op, Params, Step
from avrin.trace.frames import MISSING, NO_TEXT, TRUE, Array

__all__ = ["ICON_MARK", "Part", "Piece", "icon_pieces", "split_template", "template_step", "text_parts"]


class Piece(Struct, frozen=True):
    """A piece of a template. rule: None for plain text; otherwise `text` is "" and the rule starts at `at`."""

    text: str
    rule: str | None = None
    pattern: Pattern = PLAIN
    at: int = 0


class Part(Struct, frozen=True):
    """A checked value of a template, or plain text."""

    value: Step | str
    pattern: Pattern = PLAIN


def split_template(source: str) -> list[Piece]:
    """Return the pieces of a template. Raises RuleError at an invalid brace or pattern."""
    pieces: list[Piece] = []
    plain, at = "", 0
    while at < len(source):
        char = source[at]
        if char in "{}" and source[at : at + 2] == char * 2:
            plain, at = plain + char, at + 2
        elif char == "}":
            raise RuleError("this brace has no opening brace", (at, at + 1), advice="Write }} for a brace")
        elif named := _ICON.match(source, at):
            plain, at = plain + named[0], named.end()
        elif char != "{":
            plain, at = plain + char, at + 1
        else:
            end, bar = _value_end(source, at)
            if plain:
                pieces.append(Piece(plain))
            plain = ""
            pieces.append(_value(source, at + 1, end, bar))
            at = end + 1
    return [*pieces, Piece(plain)] if plain or not pieces else pieces


def _value_end(source: str, opened: int) -> tuple[int, int]:
    """Return the positions of a value's closing brace and of its `|` (or the brace, if it has none)."""
    quoted, escaped, bar = False, False, -1
    for at in range(opened + 1, len(source)):
        char = source[at]
        if quoted:
            quoted, escaped = escaped or char != '"', char == "\\" and not escaped
        elif char == '"' and bar < 0:
            quoted = True
        elif char == "|" and bar < 0:
            bar = at
        elif char == "}":
            return at, bar if bar >= 0 else at
        elif char == "{":
            break
    raise RuleError("this brace is not closed", (opened, opened + 1), advice="Add }, or write {{ for a brace")


ICON_MARK = "{@"  # every text with an icon contains it
_ICON = re.compile(r"\{@([^{}\s]+)\}")


def icon_pieces(text: str) -> Iterator[tuple[str, str]]:
    """Yield runs of letters and icons of a text in order: (letters, "") or ("", the icon's name)."""
    for i, part in enumerate(_ICON.split(text)):
        if part:
            yield ("", part) if i % 2 else (part, "")


def _value(source: str, start: int, end: int, bar: int) -> Piece:
    if bar == end:
        return Piece("", source[start:end], PLAIN, start)
    try:
        return Piece("", source[start:bar], pattern(source[bar + 1 : end].strip()), start)
    except AvrinError as error:
        raise RuleError(error.problem, (bar + 1, end), advice=error.advice) from None


def template_step(graph: Graph, parts: Sequence[Part], *, placeholder: str = "—", all_or_missing: bool = False) -> Step:
    """Return the step that joins the parts into one text.

    A missing value becomes `placeholder`; with `whole`, the text itself becomes missing.
    """
    values = [part.value for part in parts if isinstance(part.value, Step)]
    shape = tuple(part.value if isinstance(part.value, str) else part.pattern for part in parts)
    kinds = tuple(value.kind for value in values)
    return graph.add(TEMPLATE, values, "text", (shape, kinds, None if all_or_missing else placeholder))


def _template(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, _state: Carried) -> None:
    shape, kinds, placeholder = params
    patterns = [part for part in shape if isinstance(part, Pattern)]
    keys = [_keys(values, kind, p) for values, kind, p in zip(args, kinds, patterns, strict=True)]
    frames = max((len(key) for key in keys), default=1)
    if frames == 1:  # one frame of live play has nothing to compare with
        row = tuple(None if key[0] != key[0] else float(key[0]) for key in keys)
        out[...] = _code(row, shape, kinds, placeholder, chunk)
        return
    if len(keys) == 1 and kinds[0] == "number":
        _one_number(out, keys[0], patterns[0], shape, placeholder, chunk)
        return
    at = _news(keys, frames)
    rows = zip(*((key[at] if len(key) > 1 else np.broadcast_to(key, len(at))).tolist() for key in keys), strict=True)
    known: dict[tuple[Any, ...], int] = {}
    codes = []
    for row in rows if keys else [()]:
        name = tuple(None if value != value else value for value in row)  # NaN is unequal to itself
        code = known.get(name)
        if code is None:
            code = known[name] = _code(name, shape, kinds, placeholder, chunk)
        codes.append(code)
    out[...] = np.repeat(np.array(codes, np.int32), np.diff(at, append=frames))


def _one_number(
    out: Array, key: Array, pattern_: Pattern, shape: tuple[str | Pattern, ...], placeholder: str | None, chunk: Chunk
) -> None:
    """Format texts with one number in them: each distinct number once, all together."""
    stretches = _news([key], len(key))
    numbers, which = np.unique(key[stretches], return_inverse=True)
    before, after = ("".join(part for part in parts if isinstance(part, str)) for parts in _around(shape))
    missing = np.isnan(numbers)
    texts: list[str | None] = [f"{before}{text}{after}" for text in pattern_.all_written(numbers[~missing].tolist())]
    texts += [None if placeholder is None else f"{before}{placeholder}{after}"] * int(missing.sum())  # sorted last
    out[...] = np.repeat(chunk.words.codes(texts)[which.reshape(-1)], np.diff(stretches, append=len(key)))


def _news(keys: Sequence[Array], frames: int) -> Array:
    """Return the ascending frames, from 0, at which a key changes: recorded values are mostly constant."""
    new = np.zeros(frames, bool)
    new[:1] = True
    for key in keys:
        if len(key) > 1:
            new[1:] |= ~((key[1:] == key[:-1]) | (np.isnan(key[1:]) & np.isnan(key[:-1])))
    return np.flatnonzero(new)


def _around(shape: tuple[str | Pattern, ...]) -> tuple[tuple[str | Pattern, ...], tuple[str | Pattern, ...]]:
    at = next(i for i, part in enumerate(shape) if isinstance(part, Pattern))
    return shape[:at], shape[at + 1 :]


def _keys(values: Array, kind: str, shape: Pattern) -> Array:
    """Return what distinguishes shown texts: rounded units of a number, codes of flags and texts; NaN for missing."""
    if kind == "number":
        return shape.keys(values)
    return np.where(values == (MISSING if kind == "flag" else NO_TEXT), np.nan, values)


def _code(
    row: tuple[float | None, ...],
    shape: tuple[str | Pattern, ...],
    kinds: tuple[str, ...],
    placeholder: str | None,
    chunk: Chunk,
) -> int:
    values = iter(zip(row, kinds, strict=True))
    written = []
    for part in shape:
        if isinstance(part, str):
            written.append(part)
            continue
        key, kind = next(values)
        if key is None:
            if placeholder is None:
                return NO_TEXT
            written.append(placeholder)
        elif kind == "number":
            written.append(part.written(key))
        elif kind == "flag":
            written.append("yes" if key == TRUE else "no")
        else:
            written.append(chunk.words.text(int(key)) or "")
    return chunk.words.code("".join(written))


TEMPLATE = Op("template", _template)


def text_parts(step: Step) -> tuple[Step, ...]:
    """Return the steps a text is written from, so that it can be written at a few frames only; of another step, itself."""
    if step.constant is not None:
        return ()
    if step.op.name not in (TEMPLATE.name, PLURAL.name):
        return (step,)
    return tuple(dict.fromkeys(part for arg in step.args for part in text_parts(arg)))
