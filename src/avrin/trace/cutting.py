"""Cut a stretch out of a recording, and replace its texts by made-up names before it is shared."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable

import numpy as np
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.trace.frames import NO_TEXT, Column, Event, Trace, Value

__all__ = ["cut", "quoted", "with_made_up_names"]

NAMES = (
    "Ona", "Rask", "Teo", "Mika", "Sefa", "Wil", "Yara", "Dov", "Pell", "Hester", "Oskar", "Lumi", "Brann", "Iva", "Quill",
    "Juno", "Marek", "Tove", "Edda", "Nilo",
)  # fmt: skip


def cut(trace: Trace, first: int, end: int) -> Trace:
    """Return frames first..end (exclusive) as a recording of its own that begins at 0 s; runs are numbered from 1.

    Times of later runs shift along if the recording's time runs on over its runs, and stay if each run restarts its time.
    Raises AvrinError if there are no such frames.
    """
    first, end = max(0, first), min(end, len(trace))
    if first >= end:
        raise AvrinError("the stretch holds no frame", advice="Mark a longer one")
    t, run = trace.t[first:end].copy(), trace.run[first:end]
    numbers = {int(number): i for i, number in enumerate(dict.fromkeys(run.tolist()), 1)}
    goes_on = bool((np.diff(t) >= 0).all())
    begin = float(t[0])
    shifts = {number: begin if goes_on or i == 1 else 0.0 for number, i in numbers.items()}
    for number, shift in shifts.items():
        t[run == number] -= shift
    columns = {name: _cut_column(column, first, end) for name, column in trace.columns.items()}
    frames, events = trace.events_by_frame
    kept = [
        replace(event, t=event.t - shifts[event.run], run=numbers[event.run])
        for frame, event in zip(frames.tolist(), events, strict=True) if first <= frame < end
    ]  # fmt: skip
    return Trace.make(trace.name, t, columns, [numbers[int(one)] for one in run], kept)


def _cut_column(column: Column, first: int, end: int) -> Column:
    """Return a column's part, without texts that occur only elsewhere, which must not be shared with it."""
    data = column.data[first:end].copy()
    if column.kind != "text":
        return Column(column.kind, data)
    used = np.unique(data[data != NO_TEXT])
    codes = np.full(len(column.words) + 1, NO_TEXT, np.int32)  # code -1 selects the last entry
    codes[used] = np.arange(len(used))
    return Column("text", codes[data], tuple(column.words[code] for code in used.tolist()))


def with_made_up_names(trace: Trace, keep: Collection[str] = ()) -> Trace:
    """Return the recording with every text replaced by a made-up name, the same one wherever it occurs.

    keep: texts that stay, such as those that rules compare with. Empty texts stay.
    """
    names: dict[str, str] = {}
    columns = {
        name: replace(column, words=tuple(_made_up(word, names, keep) for word in column.words))
        if column.kind == "text" else column
        for name, column in trace.columns.items()
    }  # fmt: skip
    events = tuple(replace(event, args=_with_names(event, names, keep)) for event in trace.events)
    return replace(trace, columns=columns, events=events)


def _with_names(event: Event, names: dict[str, str], keep: Collection[str]) -> dict[str, Value]:
    return {arg: _made_up(value, names, keep) if isinstance(value, str) else value for arg, value in event.args.items()}


def _made_up(text: str, names: dict[str, str], keep: Collection[str]) -> str:
    if not text or text in keep:
        return text
    if text not in names:
        number, index = divmod(len(names), len(NAMES))
        names[text] = NAMES[index] + (f" {number + 1}" if number else "")
    return names[text]


def quoted(rules: Iterable[str]) -> set[str]:
    """Return the texts that rules and templates write in quotes."""
    return {match[1] for rule in rules for match in re.finditer(r'"((?:\\.|[^"\\])*)"', rule)}
