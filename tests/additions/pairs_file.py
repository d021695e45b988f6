"""Recordings as lines of `time name=value name=value`: a format that only a test knows."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import BinaryIO

import numpy as np

from avrin.trace.clock import UNSAID, Clock
from avrin.trace.frames import Column, ColumnKind, Trace

__all__ = ["read", "write"]


def read(path: Path, _kinds: Mapping[str, ColumnKind], _clock: Clock = UNSAID) -> Trace:
    """Read a recording."""
    lines = [line.split() for line in path.read_text("utf-8").splitlines()]
    rows = [dict(cell.split("=") for cell in cells) for _, *cells in lines]
    columns = {name: Column("number", np.array([float(row[name]) for row in rows])) for name in rows[0]}
    return Trace.make(path.stem, [float(time) for time, *_ in lines], columns)


def write(trace: Trace, file: BinaryIO, *, runs: bool = False) -> None:
    """Write a recording of numbers, without runs."""
    del runs
    for at, time in enumerate(trace.t.tolist()):
        cells = (f"{name}={column.data[at]}" for name, column in trace.columns.items())
        file.write(f"{time} {' '.join(cells)}\n".encode())
