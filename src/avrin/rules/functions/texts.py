"""Functions that take or return texts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

import numpy as np

from avrin.rules.functions.spec import Function, applies, number, text
from avrin.rules.operators import CHOICE, EQUAL
from avrin.rules.patterns import pattern
from avrin.rules.steps import Carried, Chunk, Graph, Kernel, Op, Params, Step, Words
from avrin.rules.template import Part, template_step
from avrin.trace.frames import NO_TEXT, Array

__all__ = ["FUNCTIONS"]

Word = TypeVar("Word", str, float)


def _as_numbers(_words: Words, results: Sequence[float | None]) -> Array:
    return np.array(results, np.float64)


def _each_word(
    function: Callable[[str], Word], nothing: Word | None, coded: Callable[[Words, Sequence[Word | None]], Array]
) -> Kernel:
    """Return a kernel that applies `function` once per distinct text.

    coded: its result, and `nothing` the result for a missing text, as an operator's values.
    """

    def kernel(out: Array, args: Sequence[Array], _params: Params, chunk: Chunk, _state: Carried) -> None:
        codes, at = np.unique(args[0], return_inverse=True)
        results = [nothing if code == NO_TEXT else function(str(chunk.words.text(code))) for code in codes.tolist()]
        out[...] = coded(chunk.words, results)[at]

    return kernel


UPPER = Op("upper", _each_word(str.upper, None, Words.codes))
LOWER = Op("lower", _each_word(str.lower, None, Words.codes))
LENGTH = Op("length", _each_word(len, np.nan, _as_numbers))


def _build_text(graph: Graph, args: Sequence[Step]) -> Step:
    value, shape = args
    assert shape.constant is not None  # the check requires a literal text
    source = graph.words.text(int(shape.constant[0])) or ""
    return template_step(graph, [Part(value, pattern(source))], all_or_missing=True)


def _build_plural(graph: Graph, args: Sequence[Step]) -> Step:
    count, one, many = args
    single = graph.add(EQUAL["==", "number"], (count, graph.constant(1.0, "number")), "flag")
    return graph.add(CHOICE["text"], (single, one, many), "text")


FUNCTIONS = (
    Function("text", (number("x"), text("pattern", pattern=True)), "text", "x written by a number or duration pattern.",
             'text(air, "0.0")', _build_text),
    Function("upper", (text("x"),), "text", "x in upper case.", "upper(phase)", applies(UPPER, "text")),
    Function("lower", (text("x"),), "text", "x in lower case.", "lower(phase)", applies(LOWER, "text")),
    Function("plural", (number("n"), text("one"), text("many")), "text", "The first text where n is 1, else the second.",
             'plural(hull, "point", "points")', _build_plural),
    Function("length", (text("x"),), "number", "The number of characters in x.", "length(phase)", applies(LENGTH, "number")),
)  # fmt: skip
