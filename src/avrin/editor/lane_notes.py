"""Notes in a variable's lane: its users, and anomalies in this recording."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from avrin.binding.tracks import changes
from avrin.editor.snapshot import Snapshot
from avrin.project.numbers import counted
from avrin.project.project import Variable
from avrin.render.values import format_value
from avrin.trace.frames import Array, Column, Trace

__all__ = ["Note", "Notes"]


class Note(Struct, frozen=True):
    """A short note. odd: whether it is an anomaly."""

    text: str
    odd: bool = False


class Notes:
    """Computes a lane's notes once per trace and declaration."""

    def __init__(self) -> None:
        self._known: dict[tuple[object, ...], list[Note]] = {}

    def forget(self) -> None:
        """Drop the cache for another trace."""
        self._known.clear()

    def of(self, now: Snapshot, name: str) -> list[Note]:
        """Return the notes of a variable, anomalies first."""
        users = len(now.users(name))
        uses = Note(counted(users, "widget") if users else "unused")
        variable = now.variable(name)
        ends = (variable.type, variable.low, variable.high) if variable is not None else None
        key = (name, ends)
        if key not in self._known:
            self._known[key] = _odd(now.recorded_column(name), now.trace, variable)
        return [*self._known[key], uses]


def _odd(column: Column | None, trace: Trace, variable: Variable | None) -> list[Note]:
    if column is None or not len(trace):
        return []
    missing = column.is_missing()
    if missing.all():
        return [Note("always missing", True)]
    found: list[Note] = []
    if column.kind == "number" and variable is not None:
        with np.errstate(invalid="ignore"):
            for end, beyond, word in (
                (variable.low, column.data < (variable.low if variable.low is not None else 0), "below"),
                (variable.high, column.data > (variable.high if variable.high is not None else 0), "above"),
            ):
                if end is not None and beyond.any():
                    found.append(Note(f"{word} {format_value(float(end))} for {_seconds(trace, beyond)}", True))
    if missing.any():
        found.append(Note(f"missing {missing.mean():.0%}" if missing.mean() >= 0.005 else "missing at times", True))
    if not len(changes(column.data)):
        found.append(Note("never changes", True))
    return found


def _seconds(trace: Trace, where: Array) -> str:
    """Return how long a condition holds in total."""
    seconds = float(where.sum()) * trace.frame_time
    return f"{seconds:.1f} s" if seconds >= 0.1 else "a moment"
