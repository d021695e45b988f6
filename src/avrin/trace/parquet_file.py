"""Traces in Parquet: the columns of a CSV trace, typed; null is missing; texts as dictionaries."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

from avrin.errors import AvrinError, reason_of
from avrin.trace.arrow import as_arrow, as_columns
from avrin.trace.assemble import assemble, check_names, check_size, wanted
from avrin.trace.clock import UNSAID, Clock
from avrin.trace.frames import ColumnKind, Trace

if TYPE_CHECKING:
    import pyarrow as pa

__all__ = ["read", "write"]

MOST_TEXTS = 256 * 2**20  # bytes


def read(path: Path, kinds: Mapping[str, ColumnKind] | None = None, clock: Clock = UNSAID) -> Trace:
    """Read a Parquet trace, like that of CSV. Raises AvrinError."""
    kinds = kinds or {}
    table = _table(path)
    if not table.num_rows:
        raise AvrinError("has columns but no rows", advice="Record at least one frame")
    names, cells = table.column_names, table.columns
    del table
    columns = as_columns(names, cells, lambda name: wanted(name, kinds, clock), lines=False)
    return assemble(path.stem, columns, clock, lines=False)


def write(trace: Trace, file: BinaryIO, *, runs: bool = True) -> None:
    """Write a trace so that `read` returns it unchanged. runs: as for CSV. Raises OSError."""
    import pyarrow as pa  # late: 57 ms
    import pyarrow.parquet as pq

    arrays: dict[str, Any] = {"t": pa.array(trace.t)}
    if runs and len(trace.run_starts) > 1:
        arrays["run"] = pa.array(trace.run)
    for name, column in trace.columns.items():
        made = as_arrow(column)
        arrays[name] = made.dictionary_encode() if column.kind == "text" else made
    pq.write_table(pa.table(arrays), file, compression="zstd")


def _table(path: Path) -> pa.Table:
    import pyarrow as pa  # late: 57 ms
    import pyarrow.parquet as pq

    try:
        with pq.ParquetFile(path) as file:
            # Sizes in the file's metadata are checked before memory is allocated.
            schema = file.schema_arrow
            check_names(schema.names, "the schema")
            check_size(file.metadata.num_rows, file.metadata.num_columns)
            texts = [one.name for one in schema if pa.types.is_string(one.type) or pa.types.is_large_string(one.type)]
            _check_texts(file.metadata, texts)
        with pq.ParquetFile(path, read_dictionary=texts) as file:  # repeated texts are stored once
            table = file.read()
    except (pa.ArrowException, ValueError) as error:
        raise AvrinError(f"is not a Parquet table ({reason_of(error)})", advice="Write the file again") from None
    except OSError as error:
        if error.errno is not None:
            raise
        raise AvrinError(f"is damaged ({reason_of(error)})", advice="Write the file again") from None
    if table.num_rows != file.metadata.num_rows:
        raise AvrinError(f"says it has {file.metadata.num_rows:,} rows, but has {table.num_rows:,}")
    return table


def _check_texts(metadata: Any, texts: list[str]) -> None:  # noqa: ANN401 - the library has no types of its own
    """Raise AvrinError if texts would exceed the memory limit."""
    whole = 0
    for group in range(metadata.num_row_groups):
        columns = (metadata.row_group(group).column(i) for i in range(metadata.num_columns))
        whole += sum(column.total_uncompressed_size for column in columns if column.path_in_schema in texts)
    if whole > MOST_TEXTS:
        raise AvrinError(
            f"has {whole / 1e6:,.0f} MB of texts, more than a recording has",
            advice="Remove columns that no HUD shows",
        )
