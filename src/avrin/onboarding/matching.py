"""Match names with those of another build: missing, additional and renamed columns of a recording."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from avrin.kinds.hints import tokens
from avrin.project.project import Project, Recording, Variable
from avrin.trace.behaviour import Behaviour, behaviour
from avrin.trace.frames import KIND_OF, Trace
from avrin.trace.summary import summarise_column

__all__ = ["Difference", "differences"]

LEAST = 0.5  # of a match, for it to be suggested
MOST_FRAMES = 20_000
MOST_COMPARED = 60  # columns compared by behaviour


class Difference(Struct, frozen=True):
    """A name that only the recording or only its project has.

    sort: "lacking": only the project has it; "besides": only the recording; "otherwise": both,
    under different names. name: the project's, "" for an additional one. own: the recording's, "" for a missing one.
    nearest: for a missing one, likely columns of the recording, best first.
    """

    sort: Literal["lacking", "besides", "otherwise"]
    name: str = ""
    own: str = ""
    nearest: tuple[str, ...] = ()


def differences(
    project: Project, recording: Recording | None, trace: Trace, others: Iterable[Trace] = ()
) -> list[Difference]:
    """Return how names of a recording and its project differ: missing ones first, then renamed ones.

    trace: under the project's names. others: recordings with what this one lacks, to compare behaviour with.
    """
    declared = project.all_variables()
    trace, others = _thinned(trace), [_thinned(other) for other in others]
    names: Mapping[str, str] = recording.names if recording is not None else {}
    own_of = {new: own for own, new in names.items()}
    besides = [name for name in trace.columns if name not in declared]
    # A variable declared from this recording alone may have another name in the others.
    alone = [
        name for name in trace.columns
        if name in declared and declared[name].guessed and others and not any(name in other.columns for other in others)
    ]  # fmt: skip
    found: list[Difference] = []
    for name, variable in declared.items():
        if name not in trace.columns:
            if "[" in name and not any(name in other.columns for other in others):
                continue  # a slot that was never taken
            near = _nearest(name, variable, [*besides, *alone], trace, others)
            found.append(Difference("lacking", name, nearest=tuple(near[:3])))
    found += [
        Difference("otherwise", name, own_of[name]) for name in declared if name in trace.columns and name in own_of
    ]
    found += [Difference("besides", own=own_of.get(name, name)) for name in besides]
    return found


def _thinned(trace: Trace) -> Trace:
    """Return a trace sampled to few enough frames to analyse all columns interactively."""
    step = -(-len(trace) // MOST_FRAMES)
    if step < 2:
        return trace
    columns = {name: replace(column, data=column.data[::step]) for name, column in trace.columns.items()}
    return Trace(trace.name, trace.t[::step], trace.run[::step], columns, trace.events)


def _nearest(name: str, variable: Variable, besides: list[str], trace: Trace, others: list[Trace]) -> list[str]:
    """Return columns that may be a variable, by name, type and behaviour."""
    kind = KIND_OF[variable.type]
    suited = [column for column in besides if trace.columns[column].kind == kind]
    told = next((behaviour(other.columns[name], other) for other in others if name in other.columns), None)
    scores: list[tuple[float, str]] = []
    for column in suited[:MOST_COMPARED]:
        score = _alike_names(name, column)
        score += _alike_values(variable, told, column, trace)
        if score >= LEAST:
            scores.append((-score, column))
    return [column for _, column in sorted(scores)]


def _alike_names(name: str, other: str) -> float:
    """Return the similarity of names, 0 to 1: words and letters in common."""
    mine, its = set(tokens(name)), set(tokens(other))
    words = len(mine & its) / len(mine | its) if mine | its else 0.0
    return max(words, difflib.SequenceMatcher(None, name.lower(), other.lower()).ratio() - 0.25)


def _alike_values(variable: Variable, behaviour_: Behaviour | None, column: str, trace: Trace) -> float:
    """Return the similarity of values, 0 to 0.6: same behaviour, range and start."""
    here = behaviour(trace.columns[column], trace)
    if behaviour_ is not None:
        score = 0.3 if behaviour_.sort == here.sort else 0.0
        if behaviour_.high is not None and here.high is not None:
            score += 0.2 if _close(behaviour_.high, here.high) else 0.0
            score += 0.1 if behaviour_.start == here.start else 0.0
        elif set(behaviour_.words) & set(here.words):
            score += 0.3
        return score
    summary = summarise_column(column, trace.columns[column], trace)
    score = 0.15 if variable.start is not None and here.start == variable.start else 0.0
    if variable.high is not None and summary.high is not None and _close(variable.high, summary.high):
        score += 0.2
    return score


def _close(first: float, second: float) -> bool:
    most = max(abs(first), abs(second))
    return most == 0 or abs(first - second) <= 0.15 * most
