"""Traces in CSV: a header, then one row per frame; `t` in seconds, optionally `run`, an empty cell is missing.

Arrow's columnar reader parses the cells. This module checks what Arrow cannot: which columns are numbers,
whole numbers that a 64-bit float cannot hold, infinities written as words, times that run backwards.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from pathlib import Path
from typing import Any, BinaryIO

from avrin.errors import AvrinError, reason_of
from avrin.trace.arrow import as_arrow, as_columns
from avrin.trace.assemble import assemble, check_names, check_size, wanted
from avrin.trace.clock import UNSAID, Clock
from avrin.trace.csv_cells import read_cells, separator_of
from avrin.trace.frames import ColumnKind, Trace

__all__ = ["read", "write"]

HEADER = 4_000_000  # bytes of the first line


def read(path: Path, kinds: Mapping[str, ColumnKind] | None = None, clock: Clock = UNSAID) -> Trace:
    """Read a CSV trace.

    kinds: declared column kinds by name; others are inferred. clock: what is known of the time.
    Raises AvrinError naming row and column, without the file's name.
    """
    kinds = kinds or {}
    _check_header(path)
    table = read_cells(path, {name for name, kind in kinds.items() if kind == "text"})
    if not table.num_rows:
        raise AvrinError("has a header but no rows", advice="Record at least one frame")
    check_size(table.num_rows, table.num_columns)
    names, cells = table.column_names, table.columns
    del table
    columns = as_columns(names, cells, lambda name: wanted(name, kinds, clock), lines=True)
    return assemble(path.stem, columns, clock, lines=True)


def write(trace: Trace, file: BinaryIO, *, runs: bool = True) -> None:
    """Write a trace so that `read` returns it unchanged: shortest exact numbers, empty cells for missing ones.

    runs: whether to write the run column; a trace with one run has none. Raises OSError.
    """
    import pyarrow as pa  # late: 39 ms
    from pyarrow import csv as arrow_csv

    arrays: dict[str, Any] = {"t": pa.array(trace.t)}
    if runs and len(trace.run_starts) > 1:
        arrays["run"] = pa.array(trace.run)
    for name, column in trace.columns.items():
        arrays[name] = as_arrow(column)
    header = io.StringIO()  # the columnar writer would quote every name
    csv.writer(header, lineterminator="\n").writerow(arrays)
    file.write(header.getvalue().encode())
    arrow_csv.write_csv(pa.table(arrays), file, arrow_csv.WriteOptions(include_header=False, quoting_style="needed"))


def _check_header(path: Path) -> None:
    try:
        with path.open("rb") as file:
            first = file.readline(HEADER)
            header = next(csv.reader([first.decode("utf-8-sig")], delimiter=separator_of(first)), [])
    except OSError as error:
        raise AvrinError(f"cannot be read ({reason_of(error)})", advice="Check the path") from None
    except (UnicodeDecodeError, csv.Error):
        raise AvrinError("is not a text table in UTF-8", place=("line 1",), advice="Save it as CSV in UTF-8") from None
    if not any(header):
        raise AvrinError("is empty", advice="A trace starts with a header such as t,hull,air")
    check_names(header, "line 1")
