"""Functions of and to texts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from avrin.rules.functions.spec import Function, applies, number, text
from avrin.rules.patterns import pattern
from avrin.rules.steps import Chunk, Graph, Op, Step
from avrin.rules.template import Part, template_step
from avrin.trace import NO_TEXT, Array

__all__ = ["FUNCTIONS"]


def _each_word(function: Callable[[str], Any], nothing: Any, *, to_text: bool) -> Any:
    """A kernel that applies `function` once to each text that occurs, however many frames show it."""

    def kernel(out: Array, args: Sequence[Array], _params: tuple[Any, ...], chunk: Chunk, _state: Any) -> None:
        codes, at = np.unique(args[0], return_inverse=True)
        results = [nothing if code == NO_TEXT else function(str(chunk.words.text(code))) for code in codes.tolist()]
        out[...] = (chunk.words.codes(results) if to_text else np.array(results, np.float64))[at]

    return kernel


UPPER = Op("upper", _each_word(str.upper, None, to_text=True))
LOWER = Op("lower", _each_word(str.lower, None, to_text=True))
LENGTH = Op("length", _each_word(len, np.nan, to_text=False))


def _build_text(graph: Graph, args: Sequence[Step]) -> Step:
    value, shape = args
    assert shape.constant is not None  # the check saw a written text
    source = graph.words.text(int(shape.constant[0])) or ""
    return template_step(graph, [Part(value, pattern(source))], whole=True)


FUNCTIONS = (
    Function("text", (number("x"), text("pattern", pattern=True)), "text", "x written by a number or duration pattern.",
             'text(air, "0.0")', _build_text),
    Function("upper", (text("x"),), "text", "x in capital letters.", "upper(phase)", applies(UPPER, "text")),
    Function("lower", (text("x"),), "text", "x in small letters.", "lower(phase)", applies(LOWER, "text")),
    Function("length", (text("x"),), "number", "How many characters x has.", "length(phase)", applies(LENGTH, "number")),
)  # fmt: skip
