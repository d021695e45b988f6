"""Values that a restart should reset but does not."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from avrin.binding.tracks import Tracks
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding
from avrin.findings.fixes import fix_variable
from avrin.project.numbers import plain_number
from avrin.project.project import Variable
from avrin.trace.frames import Column, Value

__all__ = ["CHECKS"]


def _not_reset(case: Case) -> Iterator[Finding]:
    """Yield shown variables that begin a later run with the last value of the previous run."""
    for name, variable in case.project.all_variables().items():
        users = case.users.get(name)
        for tracks in case.tracks if users and not variable.keeps else ():
            column = tracks.trace.find(name)
            frame = _carried(tracks, column, variable) if column is not None else None
            if frame is not None and column is not None and users:
                yield _not_reset_finding(case, tracks, users[0], name, column[frame], frame, variable)
                break


def _not_reset_finding(
    case: Case, tracks: Tracks, ident: str, name: str, value: Value, frame: int, variable: Variable
) -> Finding:
    roster = "[" in name
    return Finding(
        ident, f"{name} not reset",
        f"`{name}` begins run {tracks.trace.run[frame]} at {_value_text(value)}, where the run before ended,"
        f" not at {_value_text(_start(tracks, name, variable))}",
        "Reset it in the game, or declare that it keeps its value", about=name, variable=name, trace=tracks.trace.name,
        start=frame, end=frame + 1,
        fix=None if roster or name not in {v.name for v in case.project.variables}
        else fix_variable("it keeps its value", variable, keeps=True),
    )  # fmt: skip


def _start(tracks: Tracks, name: str, variable: Variable) -> Value:
    """Return the declared start, or the first value of the recording's first run."""
    if variable.start is not None and not variable.guessed:
        return float(variable.start) if variable.type in ("int", "float") else variable.start
    column = tracks.trace.find(name)
    return column[0] if column is not None and len(column.data) else None


def _carried(tracks: Tracks, column: Column, variable: Variable) -> int | None:
    """Return the first frame of a run that begins with the previous frame's value instead of the start value.

    Without a declared start only numbers are checked: names and phases may persist.
    """
    declared = variable.start is not None and not variable.guessed
    if not declared and variable.type not in ("int", "float"):
        return None
    for frame in tracks.trace.run_starts[1:].tolist():
        start = _start(tracks, variable.name, variable) if declared else column[0]
        if column[frame] != start and column[frame] == column[frame - 1] and column[frame] is not None:
            # Flags may persist. Tested last, because it scans the whole column.
            return None if not declared and _is_flag(column) else int(frame)
    return None


def _is_flag(column: Column) -> bool:
    """Return whether a number is recorded only as 0 and 1."""
    return column.kind == "number" and bool(np.isin(column.data[~column.is_missing()], (0.0, 1.0)).all())


def _value_text(value: Value) -> str:
    return plain_number(value) if isinstance(value, float) else str(value)


CHECKS = (
    Check("not-reset", "warning", "A variable keeps its value over a restart without being declared to.", project=_not_reset,
          follows=(("not-reset", "field"),)),
)  # fmt: skip
