"""Recordings read, against the bare libraries; opened again from the columnar copy; memory while reading."""

from __future__ import annotations

import time
import tracemalloc
from pathlib import Path

import numpy as np

from common import FOLDER, FRAMES, best, line, reached

__all__ = ["run"]

COLUMNS = 40
CHANGES = 1_000_000


def _built() -> tuple[Path, Path, Path]:
    from avrin.trace.frames import Column, Trace
    from avrin.trace.store import save_trace

    dice = np.random.default_rng(2)
    columns = {f"v{i}": Column("number", dice.normal(0, 50, FRAMES).round(3)) for i in range(COLUMNS - 1)}
    trace = Trace.make("big", np.arange(FRAMES) / 60, columns)
    table, parquet, log = FOLDER / "big.csv", FOLDER / "big.parquet", FOLDER / "log.jsonl"
    save_trace(trace, table)
    save_trace(trace, parquet)
    with log.open("w") as file:
        file.write('{"avrin_log": 1, "rate": 60}\n')
        for i, value in enumerate(dice.normal(0, 50, CHANGES).round(2).tolist()):
            file.write(f'{{"t": {i / 278:.4f}, "set": {{"v{i % 39}": {value}}}}}\n')
    return table, parquet, log


def run() -> None:
    """All of it."""
    import msgspec
    import pyarrow.parquet as pq
    from pyarrow import csv

    from avrin.trace import csv_file, log_file, parquet_file
    from avrin.trace.store import open_trace

    table, parquet, log = _built()
    ours, other = best(lambda: csv_file.read(table), lambda: [c.to_numpy() for c in csv.read_csv(table).columns])
    line(f"CSV of {FRAMES:,} frames × {COLUMNS}", ours, other, "≤ 1.2×")
    ours, other = best(
        lambda: parquet_file.read(parquet), lambda: [c.to_numpy() for c in pq.read_table(parquet).columns]
    )
    line(f"Parquet of {FRAMES:,} frames × {COLUMNS}", ours, other, "≤ 1.2×")
    ours, other = best(
        lambda: log_file.read(log), lambda: msgspec.json.Decoder().decode_lines(log.read_bytes()), turns=3
    )
    line(f"change log of {CHANGES:,} changes", ours, other, "≤ 3×")
    time.sleep(2.1)  # what was written just now is looked at whole each time
    for path in (table, parquet, log):
        start = time.perf_counter()
        open_trace(path)
        first = time.perf_counter() - start
        (again,) = best(lambda path=path: open_trace(path))  # type: ignore[misc]
        line(f"{path.name} opened again, against its first load", again, first, "≤ 0.3×")
    tracemalloc.start()
    trace = csv_file.read(table)
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    columns = sum(column.data.nbytes for column in trace.columns.values())
    reached("  peak memory of NumPy while reading the CSV", peak / columns, "× the columns", "≤ 2.5×")
