"""Traces in Parquet: the columns of a CSV trace, typed; null is missing; texts as dictionaries."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

from avrin.model import AvrinError
from avrin.trace.arrow import as_arrow, as_column
from avrin.trace.assemble import assemble, check_names, check_size, wanted
from avrin.trace.clock import UNSAID, Clock
from avrin.trace.frames import ColumnKind, Trace

if TYPE_CHECKING:
    import pyarrow as pa

__all__ = ["read_parquet", "write_parquet"]


def read_parquet(path: Path, kinds: Mapping[str, ColumnKind] | None = None, clock: Clock = UNSAID) -> Trace:
    """Read a Parquet trace; otherwise as `read_csv`. Raises AvrinError."""
    kinds = kinds or {}
    table = _table(path)
    if not table.num_rows:
        raise AvrinError("has columns but no rows", advice="Record at least one frame")
    columns = {}
    for i, name in enumerate(table.column_names):
        columns[name] = as_column(name, table.column(i), wanted(name, kinds, clock), lines=False)
    return assemble(path.stem, columns, clock, lines=False)


def write_parquet(trace: Trace, file: BinaryIO, *, runs: bool = True) -> None:
    """Write a trace so that `read_parquet` gives it back. runs: as in `write_csv`. Raises OSError."""
    import pyarrow as pa
    import pyarrow.parquet as pq

    arrays: dict[str, Any] = {"t": pa.array(trace.t)}
    if runs and len(trace.run_starts) > 1:
        arrays["run"] = pa.array(trace.run)
    for name, column in trace.columns.items():
        made = as_arrow(column)
        arrays[name] = made.dictionary_encode() if column.kind == "text" else made
    pq.write_table(pa.table(arrays), file, compression="zstd")


def _table(path: Path) -> pa.Table:
    import pyarrow as pa
    import pyarrow.parquet as pq

    try:
        with pq.ParquetFile(path) as file:
            # What the file says of itself is checked before any memory is asked for.
            check_names(file.schema_arrow.names, "the schema")
            check_size(file.metadata.num_rows, file.metadata.num_columns)
            table = file.read()
    except (pa.ArrowException, ValueError) as error:
        raise AvrinError(f"is no Parquet table ({_first_line(error)})", advice="Write the file anew") from None
    except OSError as error:
        if error.errno is not None:
            raise
        raise AvrinError(f"is damaged ({_first_line(error)})", advice="Write the file anew") from None
    if table.num_rows != file.metadata.num_rows:
        raise AvrinError(f"says it has {file.metadata.num_rows:,} rows, but has {table.num_rows:,}")
    return table


def _first_line(error: Exception) -> str:
    line = (str(error).splitlines() or ["no reason given"])[0]
    return line if len(line) <= 120 else line[:120] + "…"
