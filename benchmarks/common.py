"""Shared by all benchmarks: a folder of their own, alternating timing, and one row per result."""

from __future__ import annotations

import json
import os
import re
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

__all__ = ["FOLDER", "FRAMES", "ROWS_FILE", "best", "line", "reached"]

_FOLDER = tempfile.TemporaryDirectory(prefix="avrin-bench-")
FOLDER = Path(_FOLDER.name)
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["AVRIN_DATA"] = f"{FOLDER}/data"
os.environ["AVRIN_CACHE"] = f"{FOLDER}/cache"
os.environ["XDG_CONFIG_HOME"] = f"{FOLDER}/config"

ROWS_FILE = "AVRIN_BENCH_ROWS"  # environment variable: a file that each row is appended to, as JSON
LIMIT = re.compile(r"([≤≥]) ([\d.,]+)")
FRAMES = 216_000  # an hour at sixty frames per second
TURNS = 7


def best(*sides: Callable[[], object], turns: int = TURNS) -> list[float]:
    """Return the best time of each side in seconds, the sides alternating."""
    times = [[] for _ in sides]  # type: list[list[float]]
    for _ in range(turns):
        for side, found in zip(sides, times, strict=True):
            start = time.perf_counter()
            side()
            found.append(time.perf_counter() - start)
    return [min(found) for found in times]


def line(what: str, ours: float, other: float, limit: str, unit: str = "ms") -> None:
    """Report a row with two sides: Avrin's time, the other's, and the ratio."""
    scale = {"ms": 1e3, "s": 1.0}[unit]
    row = f"{what:<52}{ours * scale:>9.2f} {unit:<3}{other * scale:>9.2f} {unit:<3}{ours / other:>7.2f}×   {limit}"
    missed = _is_missed(ours / other if "×" in limit else ours * scale, limit)
    figure = f"{ours / other:.2f}×" if "×" in limit or not limit else f"{ours * scale:.3g} {unit}"
    _report(row, what, limit, f"{figure} ({ours * scale:.3g} against {other * scale:.3g} {unit})", missed=missed)


def reached(what: str, value: float, unit: str, limit: str) -> None:
    """Report a row with one figure."""
    row = f"{what:<52}{value:>9.2f} {unit:<31}   {limit}"
    figure = f"{value:,.3g}{'' if unit[:1] in ('×', '%') else ' '}{unit}".strip()
    _report(row, what, limit, figure, missed=_is_missed(value, limit))


def _report(row: str, what: str, limit: str, figure: str, *, missed: bool) -> None:
    print(row + ("   MISSED" if missed else ""), flush=True)
    if file := os.environ.get(ROWS_FILE):
        with Path(file).open("a", encoding="utf-8") as rows:
            rows.write(json.dumps([what, limit, figure, missed]) + "\n")


def _is_missed(value: float, limit: str) -> bool:
    """Return whether a value misses its limit, such as "≤ 1.2×" or "≥ 20", given in the unit of the value."""
    found = LIMIT.match(limit)
    if found is None:
        return False
    bound = float(found[2].replace(",", ""))
    return value > bound if found[1] == "≤" else value < bound
