"""What all benchmarks share: a folder of their own, timing side by side, one row a result."""

from __future__ import annotations

import os
import re
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

__all__ = ["FOLDER", "FRAMES", "best", "line", "reached"]

_FOLDER = tempfile.TemporaryDirectory(prefix="avrin-bench-")
FOLDER = Path(_FOLDER.name)
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["AVRIN_DATA"] = f"{FOLDER}/data"
os.environ["AVRIN_CACHE"] = f"{FOLDER}/cache"
os.environ["XDG_CONFIG_HOME"] = f"{FOLDER}/config"

LIMIT = re.compile(r"([≤≥]) ([\d.,]+)")
FRAMES = 216_000  # an hour at sixty frames a second
TURNS = 7


def best(*sides: Callable[[], object], turns: int = TURNS) -> list[float]:
    """The best time of each side in seconds, the sides taking turns."""
    times = [[] for _ in sides]  # type: list[list[float]]
    for _ in range(turns):
        for side, found in zip(sides, times, strict=True):
            start = time.perf_counter()
            side()
            found.append(time.perf_counter() - start)
    return [min(found) for found in times]


def line(what: str, ours: float, other: float, limit: str, unit: str = "ms") -> None:
    """One row: our time, the other's, the ratio."""
    scale = {"ms": 1e3, "s": 1.0}[unit]
    row = f"{what:<52}{ours * scale:>9.2f} {unit:<3}{other * scale:>9.2f} {unit:<3}{ours / other:>7.2f}×   {limit}"
    print(row + _missed(ours / other if "×" in limit else ours * scale, limit), flush=True)


def reached(what: str, value: float, unit: str, limit: str) -> None:
    """One row without another side: our figure alone."""
    print(f"{what:<52}{value:>9.2f} {unit:<31}   {limit}" + _missed(value, limit), flush=True)


def _missed(value: float, limit: str) -> str:
    """The mark of a row that misses its reach. limit: such as "≤ 1.2×" or "≥ 20", in the unit of the value."""
    found = LIMIT.match(limit)
    if found is None:
        return ""
    most = float(found[2].replace(",", ""))
    return "   MISSED" if (value > most if found[1] == "≤" else value < most) else ""
