"""Traces in CSV: first a header, then one row a frame; `t` in seconds, optionally `run`, an empty cell is missing.

The cells are read by Arrow's columnar reader; what it cannot know is checked here: which columns mean numbers,
whole numbers that a 64-bit float cannot hold, infinities written as words, times that run backwards.
"""

from __future__ import annotations

import csv
import io
import re
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

__all__ = ["read_csv", "write_csv"]

HEADER = 4_000_000  # bytes of the first line at most


def read_csv(path: Path, kinds: Mapping[str, ColumnKind] | None = None, clock: Clock = UNSAID) -> Trace:
    """Read a CSV trace.

    kinds: what columns are, by name; any other is what its cells look like. clock: what is said of the time.
    Raises AvrinError naming row and column; its place does not hold the file's name.
    """
    kinds = kinds or {}
    _check_header(path)
    table = _table(path, {name for name, kind in kinds.items() if kind == "text"})
    if not table.num_rows:
        raise AvrinError("has a header but no rows", advice="Record at least one frame")
    check_size(table.num_rows, table.num_columns)
    columns = {}
    for i, name in enumerate(table.column_names):
        columns[name] = as_column(name, table.column(i), wanted(name, kinds, clock), lines=True)
    return assemble(path.stem, columns, clock, lines=True)


def write_csv(trace: Trace, file: BinaryIO, *, runs: bool = True) -> None:
    """Write a trace so that `read_csv` gives it back: shortest exact numbers, empty cells for missing ones.

    runs: whether a column tells them apart; a trace of a single run has none. Raises OSError.
    """
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    arrays: dict[str, Any] = {"t": pa.array(trace.t)}
    if runs and len(trace.run_starts) > 1:
        arrays["run"] = pa.array(trace.run)
    for name, column in trace.columns.items():
        arrays[name] = as_arrow(column)
    header = io.StringIO()  # the columnar writer quotes every name
    csv.writer(header, lineterminator="\n").writerow(arrays)
    file.write(header.getvalue().encode())
    arrow_csv.write_csv(pa.table(arrays), file, arrow_csv.WriteOptions(include_header=False, quoting_style="needed"))


def _check_header(path: Path) -> None:
    try:
        with path.open("rb") as file:
            header = next(csv.reader([file.readline(HEADER).decode("utf-8-sig")]), [])
    except OSError as error:
        raise AvrinError(
            f"cannot be read ({(error.strerror or str(error)).lower()})", advice="Check the path"
        ) from None
    except (UnicodeDecodeError, csv.Error):
        raise AvrinError("is no text table in UTF-8", place=("line 1",), advice="Save it as CSV in UTF-8") from None
    if not any(header):
        raise AvrinError("is empty", advice="A trace starts with a header such as t,hull,air")
    check_names(header, "line 1")


def _table(path: Path, texts: set[str]) -> pa.Table:
    """The file's cells.

    The reader guesses what columns hold from the file's beginning. A column that turns out otherwise later on (decimals
    after whole numbers, values after empty cells), or that looks like dates to it, is read again.
    """
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    broken_lines = False  # looked for only where they are: then the file cannot be cut to be read side by side

    def read(types: dict[str, Any]) -> pa.Table:
        options = arrow_csv.ConvertOptions(
            column_types=types,
            null_values=[""],
            true_values=["true", "True", "TRUE"],
            false_values=["false", "False", "FALSE"],
            strings_can_be_null=True,
            quoted_strings_can_be_null=False,
        )
        parsing = arrow_csv.ParseOptions(newlines_in_values=broken_lines)
        return arrow_csv.read_csv(path, arrow_csv.ReadOptions(block_size=4 << 20), parsing, options)

    types = dict.fromkeys(texts, pa.string())
    while True:
        try:
            table = read(types)
            break
        except pa.ArrowInvalid as error:
            if "out of sync" in str(error) and not broken_lines:
                broken_lines = True
                continue
            late = re.search(r"In CSV column #(\d+): .*conversion error", str(error))
            if late is None or not _widened(types, path, int(late[1])):
                raise _explained(str(error), path) from None
        except (OSError, pa.ArrowException) as error:
            raise AvrinError(f"cannot be read ({str(error).splitlines()[0]})") from None
    try:
        odd = [f.name for f in table.schema if not _plain_type(f.type)]
        return read({**types, **dict.fromkeys(odd, pa.string())}) if odd else table
    except pa.ArrowInvalid as error:
        raise _explained(str(error), path) from None
    except (OSError, pa.ArrowException) as error:
        raise AvrinError(f"cannot be read ({str(error).splitlines()[0]})") from None


def _widened(types: dict[str, Any], path: Path, column: int) -> bool:
    """Let columns hold more than their beginning shows; False when `column` is a text already."""
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    with arrow_csv.open_csv(path, arrow_csv.ReadOptions(block_size=4 << 20)) as file:
        schema = file.schema
    name = schema.names[column]
    if types.get(name) == pa.string():
        return False
    if name in types or not (pa.types.is_integer(schema.types[column]) or pa.types.is_null(schema.types[column])):
        types[name] = pa.string()
        return True
    for field in schema:
        if field.name not in types and (pa.types.is_integer(field.type) or pa.types.is_null(field.type)):
            types[field.name] = pa.float64()
    return True


def _plain_type(kind: pa.DataType) -> bool:
    import pyarrow.types as is_

    return bool(
        is_.is_int64(kind) or is_.is_float64(kind) or is_.is_boolean(kind) or is_.is_string(kind) or is_.is_null(kind)
    )


def _explained(message: str, path: Path) -> AvrinError:
    message = message.splitlines()[0]
    if ragged := re.search(r"Expected (\d+) columns, got (\d+)", message):
        row = _ragged_row(path, int(ragged[1]))
        place = (f"line {row}",) if row else ()
        return AvrinError(
            f"a row has {ragged[2]} cells, the header {ragged[1]}", place=place, advice="Fill or cut the row"
        )
    if "UTF8" in message or "UTF-8" in message:
        return AvrinError("is not UTF-8 text", advice="Save it as CSV in UTF-8")
    if "straddles" in message or "Quoted" in message:
        return AvrinError("a row is longer than 4 MiB: a quote is probably not closed", advice="Check the quotes")
    if late := re.search(r"In CSV column #(\d+): .*conversion error.*'(.*)'", message):
        return AvrinError(f"'{late[2]}' does not fit the column's other cells", place=(f"column {int(late[1]) + 1}",))
    return AvrinError(f"is no CSV table ({message})")


def _ragged_row(path: Path, wide: int) -> int:
    with path.open(encoding="utf-8-sig", errors="replace", newline="") as file:
        reader = csv.reader(file)
        try:
            return next((reader.line_num for row in reader if row and len(row) != wide), 0)
        except csv.Error:  # a cell longer than the library reads
            return 0
