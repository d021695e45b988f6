"""A dive as another studio's game would record it: its own names, runs numbered by `episode`, many internal columns."""

from __future__ import annotations

import csv
from pathlib import Path

__all__ = ["record_elsewhere"]

FILE = "abyss-run-041.csv"


def record_elsewhere(folder: Path) -> Path:
    """Write the recording into a folder and return its file. Raises OSError."""
    import numpy as np  # late: 100 ms

    from avrin.demo.game import DIVES, record

    trace = record(max(DIVES, key=lambda dive: len(record(dive).run_starts)))
    every = slice(None, None, 3)
    columns: dict[str, list[object]] = {
        "time_s": trace.t[every].round(3).tolist(),
        "episode": trace.run[every].tolist(),
    }
    for name, column in trace.columns.items():
        own = name.replace("crew[", "diver").replace("].", "_")
        if own.startswith("diver"):
            own = f"diver{int(own[5]) + 1}{own[6:]}"
        values = [column[frame] for frame in range(0, len(trace), 3)]
        columns[own] = [
            "" if value is None else str(value).lower() if isinstance(value, bool) else value for value in values
        ]
    frames = len(columns["time_s"])
    rng = np.random.default_rng(41)
    columns["frame_id"] = list(range(frames))
    columns["fps"] = (59 + rng.normal(0, 1, frames)).round(1).tolist()
    columns["cam_yaw"] = (30 * np.sin(np.arange(frames) / 90)).round(2).tolist()
    columns["sonar_dbg"] = rng.integers(0, 99, frames).tolist()
    path = folder / FILE
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(columns)
        writer.writerows(zip(*columns.values(), strict=True))
    return path
