"""The names that rules can use without declaring them: the seconds and the run of a moment."""

from __future__ import annotations

from collections.abc import Sequence

from avrin.project.reserved_words import MOMENT_WORDS
from avrin.rules.steps import Carried, Chunk, Op, Params
from avrin.trace.frames import Array

__all__ = ["BUILT_IN"]


def _now(out: Array, _args: Sequence[Array], _params: Params, chunk: Chunk, _state: Carried) -> None:
    out[...] = chunk.t - chunk.began


def _clock(out: Array, _args: Sequence[Array], _params: Params, chunk: Chunk, _state: Carried) -> None:
    out[...] = chunk.t


def _run(out: Array, _args: Sequence[Array], _params: Params, chunk: Chunk, _state: Carried) -> None:
    out[...] = chunk.run


# Each built-in name for a moment: its operator and its meaning.
BUILT_IN = dict(
    zip(
        MOMENT_WORDS,
        (
            (Op("now", _now, timed=True, rests=False), "Seconds since this run began."),
            (Op("clock", _clock, timed=True, rests=False), "Seconds of the trace."),
            (Op("run", _run, timed=True), "The run's number, from 1."),
        ),
        strict=True,
    )
)
