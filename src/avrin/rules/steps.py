"""The graph of operations that rules compile to. Equal operations are one step, so nothing is computed twice.

A step is an operator applied to other steps. An operator is a chunked scan: it gets a chunk of frames of one run
and its previous state, and fills `out`. Arrays have shape (n,) for the chunk's frames, or (1,) for
constants; number float64, flag int8, text int32 codes into the graph's words (see `avrin.trace.frames`).
"""

from __future__ import annotations

import functools
import threading
from collections.abc import Callable, Hashable, Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from avrin.trace.frames import FALSE, MISSING, NO_TEXT, TRUE, Array, ColumnKind, Event, FloatArray, Value

__all__ = ["DTYPES", "Breakpoints", "Chunk", "Graph", "Op", "Step", "Words", "run_once"]

DTYPES: dict[ColumnKind, np.dtype[Any]] = {
    "number": np.dtype(np.float64),
    "flag": np.dtype(np.int8),
    "text": np.dtype(np.int32),
}


class Words:
    """Unique texts by code."""

    def __init__(self) -> None:
        self._texts: list[str] = []
        self._codes: dict[str, int] = {}
        self._lock = threading.Lock()

    def code(self, text: str) -> int:
        """Return a text's code; equal texts always have equal codes."""
        found = self._codes.get(text)
        if found is None:
            with self._lock:  # two threads may add the same text
                found = self._codes.get(text)
                if found is None:
                    self._texts.append(text)
                    found = self._codes[text] = len(self._texts) - 1
        return found

    def codes(self, texts: Sequence[str | None]) -> Array:
        """Return the codes of many texts, int32, shape (texts,); None is missing."""
        known, all_texts = self._codes, self._texts
        with self._lock:  # once for all of them
            for text in texts:
                if text is not None and text not in known:
                    all_texts.append(text)
                    known[text] = len(all_texts) - 1
        return np.array([NO_TEXT if text is None else known[text] for text in texts], np.int32)

    def text(self, code: int) -> str | None:
        """Return the text of a code; None for missing."""
        return None if code == NO_TEXT else self._texts[code]

    def column(self) -> tuple[str, ...]:
        """Return all texts in the order of their codes."""
        return tuple(self._texts)


Params = tuple[Any, ...]  # an operator's parameters: numbers, names, patterns; compared by equality
Carried = Any  # an operator's state between chunks, opaque to everything else


class Chunk(Struct):
    """A stretch of frames of one run.

    t: seconds, shape (n,). first: whether the run begins here. began: the run's first time. run: its number, from 1.
    columns: by name, in the graph's codes, shape (n,) each. events: each with its frame in this chunk.
    """

    t: FloatArray
    first: bool
    began: float
    run: int
    columns: dict[str, Array]
    words: Words
    events: Sequence[tuple[int, Event]] = ()

    @property
    def frames(self) -> int:
        """The number of frames."""
        return len(self.t)


# (out, arguments, parameters, chunk, state) -> state for the run's next chunk. State is None at the start of a run.
Kernel = Callable[[Array, Sequence[Array], Params, Chunk, Carried], Carried]


class Breakpoints(Struct, frozen=True):
    """The breakpoints of an operator's result, between which it is smooth or constant.

    guides: maps arguments, arrays of shape (n,) or (1,), and parameters to numbers of shape (n,) or (1,) with
    a zero crossing at each breakpoint. at_integers: for each guide, whether every whole number is a breakpoint instead.
    """

    guides: Callable[[Sequence[Array], Params], Sequence[Array]]
    at_integers: tuple[bool, ...] = (False,)


# (arguments on a frame, arguments on a later one, parameters, both frames' seconds, state before) -> values on both, each of
# shape (V,): one kernel call on the frame and one on the later one for each of V alternatives. Arguments: (V,), or (1,).
Branch = Callable[[Sequence[Array], Sequence[Array], Params, tuple[float, float], Carried], tuple[Array, Array] | None]


class Op(Struct, frozen=True):
    """An operator. timed: it depends on time or earlier frames, so it is never folded to a constant.

    complete: a faster kernel for arguments without missing values; its result has none either.
    breakpoints: where its result breaks, bends or jumps; None if nowhere or unknown.
    ever: its state persists across runs. rests: with constant arguments its result becomes constant eventually.
    branch: a faster way to evaluate many values on one frame; may return None, otherwise bit-identical to the kernel.
    """

    name: str
    kernel: Kernel
    timed: bool = False
    ever: bool = False
    complete: Kernel | None = None
    breakpoints: Breakpoints | None = None
    rests: bool = True
    branch: Branch | None = None


class Step(Struct, frozen=True, eq=False):
    """One operation; equal ones are the same object. constant: its value as an array of shape (1,), or None."""

    op: Op
    args: tuple[Step, ...]
    params: Params
    kind: ColumnKind
    constant: Array | None = None

    def sources(self) -> list[str]:
        """Names of the variables it depends on, in order of first use."""
        return list(_sources(self))


@functools.lru_cache(maxsize=4096)
def _sources(root: Step) -> tuple[str, ...]:
    names: dict[str, None] = {}
    seen: set[Step] = set()
    waiting = [root]
    while waiting:
        step = waiting.pop()
        if step in seen:
            continue
        seen.add(step)
        if step.op is COLUMN:
            names[step.params[0]] = None
        waiting.extend(reversed(step.args))
    return tuple(names)


def _column(out: Array, _args: Sequence[Array], params: Params, chunk: Chunk, _state: Carried) -> None:
    out[...] = chunk.columns[params[0]]


def _constant(_out: Array, _args: Sequence[Array], _params: Params, _chunk: Chunk, _state: Carried) -> None:
    raise AssertionError("a constant is never run")


COLUMN = Op("column", _column, timed=True)
CONSTANT = Op("constant", _constant)


class Graph:
    """All steps of a project. It only grows, so equal steps are found again."""

    def __init__(self) -> None:
        self.words = Words()
        self._steps: dict[Hashable, Step] = {}

    def column(self, name: str, kind: ColumnKind) -> Step:
        """Return the step of a variable's recorded values."""
        return self._intern(COLUMN, (), (name,), kind)

    def constant(self, value: Value, kind: ColumnKind) -> Step:
        """Return the step of a constant; None is missing."""
        if kind == "number":
            raw: Any = np.nan if value is None else float(value)
        elif kind == "flag":
            raw = MISSING if value is None else TRUE if value else FALSE
        else:
            raw = NO_TEXT if value is None else self.words.code(str(value))
        return self._constant(np.array([raw], DTYPES[kind]), kind)

    def add(self, op: Op, args: Sequence[Step], kind: ColumnKind, params: Params = ()) -> Step:
        """Return the step that applies `op` to `args`; one with constant arguments is folded at once."""
        if not op.timed and all(arg.constant is not None for arg in args):
            step = Step(op, tuple(args), params, kind)
            return self._constant(
                run_once(step, [arg.constant for arg in args if arg.constant is not None], self), kind
            )
        return self._intern(op, tuple(args), params, kind)

    def _constant(self, raw: Array, kind: ColumnKind) -> Step:
        key = ("constant", kind, raw.tobytes())
        if key not in self._steps:
            self._steps.setdefault(key, Step(CONSTANT, (), (), kind, raw))
        return self._steps[key]

    def _intern(self, op: Op, args: tuple[Step, ...], params: Params, kind: ColumnKind) -> Step:
        key = (op.name, tuple(map(id, args)), params, kind)
        step = self._steps.get(key)
        if step is None:
            step = self._steps.setdefault(key, Step(op, args, params, kind))  # another thread may be first
        return step


def run_once(step: Step, args: Sequence[Array], graph: Graph) -> Array:
    """Return the values (n) of an untimed step from its arguments: arrays of shape (n,), or (1,) for all."""
    frames = max(map(len, args), default=1)
    out = np.empty(frames, DTYPES[step.kind])
    with np.errstate(all="ignore"):
        step.op.kernel(out, args, step.params, Chunk(np.zeros(frames), True, 0.0, 1, {}, graph.words), None)
    return out
