"""Write docs/measured.md from the rows of a run of all benchmarks."""

from __future__ import annotations

import json
import os
import platform
from pathlib import Path

__all__ = ["write_page"]

TARGET = Path(__file__).parent.parent / "docs/measured.md"

HEAD = """# Measured

Written by `./avrin bench --write` on {machine}. Both sides of a ratio were measured in one run, alternating, and
the best of several turns counts. Times depend on the machine and on what else it runs; ratios do so less. A row that misses
its reach says so.

| what | reach | measured |
|---|---|---|
"""


def write_page(rows_file: Path) -> None:
    """Write the page. rows_file: JSON lines of (what, reach, figure, whether it is missed). Raises OSError."""
    cores = len(os.sched_getaffinity(0))
    machine = f"{cores} cores ({platform.machine()}), Python {platform.python_version()}"
    lines = []
    for text in rows_file.read_text("utf-8").splitlines():
        what, limit, figure, missed = json.loads(text)
        name = f"— {what.strip(' —')}" if what.startswith("  ") else what
        lines.append(
            f"| {name.replace('|', chr(92) + '|')} | {limit} | {figure}{' — **missed**' if missed else ''} |\n"
        )
    TARGET.write_text(HEAD.format(machine=machine) + "".join(lines), encoding="utf-8")
