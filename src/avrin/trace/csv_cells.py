"""Read the cells of a CSV file as Arrow columns.

The reader infers column types from the start of the file. If later rows contradict them (decimals after whole
numbers, values after empty cells, texts that look like dates), the columns are read again with wider types. The reason
for a failure is searched in the file itself, never in the library's message.
"""

from __future__ import annotations

import csv
import re
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from avrin.errors import AvrinError, reason_of
from avrin.trace.line_blocks import line_blocks

if TYPE_CHECKING:
    import pyarrow as pa

__all__ = ["read_cells", "separator_of"]

PIECE = 64 << 20  # bytes given to the reader at once
BEGINNING = 64 << 10  # bytes used to detect the separator and the decimal sign
SEPARATORS = (",", ";", "\t")
DECIMALS = (re.compile(r"\s*[+-]?\d+,\d+\s*"), re.compile(r"\s*[+-]?\d+\.\d+\s*"))  # with a comma, with a point
DECIMAL = re.compile(r"\s*[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?\s*", re.ASCII)  # with either sign
THOUSANDS = re.compile(r"\s*[+-]?\d{1,3}(,\d{3})?\s*", re.ASCII)
NEGATIVE_ZERO = re.compile(rb"[,;\t\n]-0[,;\t\r\n]")  # in a column of whole numbers
LARGEST = 2**53  # the largest whole number below which every integer is an exact 64-bit float
BLOCK = 4 << 20  # bytes read at once; no row may be longer


def read_cells(path: Path, texts: set[str]) -> pa.Table:
    """Read all columns of a file, each typed as int, float, flag, text or null. texts: columns known to be texts.

    Raises AvrinError, with the line if known.
    """
    import pyarrow as pa  # late: 39 ms

    with path.open("rb") as file:
        beginning = file.read(BEGINNING)
    separator = separator_of(beginning)
    cells = _Cells(path, dict.fromkeys(texts, pa.string()), separator, _decimal_point(beginning, separator))
    _check_quotes(path, separator)
    try:
        table = cells.read()
        if odd := [column.name for column in table.schema if not _plain(column.type)]:
            cells.types |= dict.fromkeys(odd, pa.string())
            table = cells.read()
        whole = [column.name for column in table.schema if pa.types.is_int64(column.type)]
        exact = [name for name in whole if _fits_floats(table[name])] if whole and _has_negative_zeros(path) else []
        if exact:
            cells.types |= dict.fromkeys(exact, pa.float64())  # integers have no -0
            table = cells.read()
    except (OSError, pa.ArrowException) as error:
        raise AvrinError(f"cannot be read ({reason_of(error)})") from None
    return _with_points(table, texts, cells.point) if cells.separator != "," else table


def _has_negative_zeros(path: Path) -> bool:
    with path.open("rb") as file:
        before = b""
        while block := file.read(BLOCK):
            if NEGATIVE_ZERO.search(before + block):
                return True
            before = block[-4:]
    return False


def _fits_floats(column: pa.ChunkedArray) -> bool:
    """Return whether 64-bit floats hold all of a column's whole numbers exactly."""
    import pyarrow.compute as pc  # late: 90 ms

    ends = pc.min_max(column).as_py()
    return ends["min"] is not None and -LARGEST <= ends["min"] <= ends["max"] <= LARGEST


def _with_points(table: pa.Table, texts: set[str], point: str) -> pa.Table:
    """Convert columns of numbers whose decimal sign is not the table's, in all or some of their cells.

    point: the table's. Where it is a point, commas before three digits each time may group thousands: such a column is a text.
    """
    import pyarrow as pa  # late: 90 ms
    import pyarrow.compute as pc

    for at, field in enumerate(table.schema):
        if field.name in texts or not pa.types.is_string(field.type):
            continue
        words = table.column(at).drop_null().unique().to_pylist()
        if words and all(map(DECIMAL.fullmatch, words)) and not (point == "." and all(map(THOUSANDS.fullmatch, words))):
            plain = pc.replace_substring(table.column(at), ",", ".")
            table = table.set_column(at, field.name, plain.cast(pa.float64()))
    return table


class _Cells(Struct):
    """One file being read. types: known column types; broken_lines: whether cells may contain line breaks."""

    path: Path
    types: dict[str, Any]
    separator: str = ","
    point: str = "."
    broken_lines: bool = False  # searched only when needed: such a file cannot be split for parallel reading

    def read(self) -> pa.Table:
        """Return the table, retrying until the known types fit."""
        import pyarrow as pa  # late: 39 ms

        while True:
            try:
                return self.columns([])
            except pa.ArrowInvalid:
                self.learn()

    def columns(self, names: list[str]) -> pa.Table:
        """Read some columns, or all. Raises the library's errors."""
        import pyarrow as pa  # late: 39 ms

        if self.broken_lines or self.path.stat().st_size <= PIECE:
            return self.table(self.path, names, self.types, None)
        # Reading a large file at once takes several times the memory of the result.
        header, types, tables = None, self.types, []
        for piece in line_blocks(self.path, PIECE):
            tables.append(self.table(pa.BufferReader(piece), names, types, header))
            if header is None:
                header = _names(piece, self.separator)
                types = {**dict(zip(tables[0].schema.names, tables[0].schema.types, strict=True)), **self.types}
        return pa.concat_tables(tables)

    def table(self, source: Any, names: list[str], types: dict[str, Any], header: list[str] | None) -> pa.Table:  # noqa: ANN401
        """Read a file, or a piece of one whose header is known."""
        from pyarrow import csv as arrow_csv  # late: 39 ms

        return arrow_csv.read_csv(
            source,
            arrow_csv.ReadOptions(block_size=BLOCK, column_names=header),
            self.parsing(),
            arrow_csv.ConvertOptions(
                column_types=types,
                include_columns=names,
                decimal_point=self.point,
                null_values=[""],
                true_values=["true", "True", "TRUE"],
                false_values=["false", "False", "FALSE"],
                strings_can_be_null=True,
                quoted_strings_can_be_null=False,
            ),
        )

    def parsing(self) -> Any:  # noqa: ANN401 - the library has no types of its own
        from pyarrow import csv as arrow_csv  # late: 39 ms

        return arrow_csv.ParseOptions(delimiter=self.separator, newlines_in_values=self.broken_lines)

    def learn(self) -> None:
        """Find out why the last reading failed and adjust the next one. Raises AvrinError if nothing can help."""
        broken_lines = _check_text(self.path)
        if broken_lines and not self.broken_lines:
            self.broken_lines = True
            return
        if not self.widen():
            raise _ragged(self.path, self.separator)

    def widen(self) -> bool:
        """Widen column types beyond what the start of the file shows; return False if none could be widened."""
        import pyarrow as pa  # late: 39 ms
        from pyarrow import csv as arrow_csv

        try:
            with arrow_csv.open_csv(self.path, arrow_csv.ReadOptions(block_size=BLOCK), self.parsing()) as file:
                schema = file.schema
        except pa.ArrowInvalid:
            return False  # not even its start is a table
        small = [
            c.name
            for c in schema
            if c.name not in self.types and (pa.types.is_integer(c.type) or pa.types.is_null(c.type))
        ]
        if small:
            self.types |= dict.fromkeys(small, pa.float64())
            return True
        bad = self.unread([name for name in schema.names if self.types.get(name) != pa.string()])
        self.types |= dict.fromkeys(bad, pa.string())
        return bool(bad)

    def unread(self, names: list[str]) -> list[str]:
        """Return the columns that cannot be read with their types, by bisection, because they are few."""
        import pyarrow as pa  # late: 39 ms

        if not names:
            return []
        try:
            self.columns(names)
        except pa.ArrowInvalid:
            half = len(names) // 2
            return self.unread(names[:half]) + self.unread(names[half:]) if half else names
        return []


def _names(piece: bytes, separator: str) -> list[str]:
    return next(csv.reader([piece.partition(b"\n")[0].decode("utf-8-sig").rstrip("\r")], delimiter=separator))


def separator_of(beginning: bytes) -> str:
    """Return the cell separator: a comma, or a semicolon or tab if commas do not separate the names."""
    header = beginning.partition(b"\n")[0].decode("utf-8-sig", "replace")
    return next((one for one in SEPARATORS if len(next(csv.reader([header], delimiter=one), [])) > 1), ",")


def _decimal_point(beginning: bytes, separator: str) -> str:
    """Return the decimal sign: a comma if it does not separate cells and numbers are written with it."""
    if separator == ",":
        return "."
    lines = beginning.decode("utf-8-sig", "replace").splitlines()[1:-1]
    cells = [cell for row in csv.reader(lines, delimiter=separator) for cell in row]
    commas, points = (sum(bool(form.fullmatch(cell)) for cell in cells) for form in DECIMALS)
    return "," if commas > points else "."


def _check_quotes(path: Path, separator: str) -> None:
    """Raise AvrinError if a quote is never closed: the rest of the file would be one cell."""
    odd = 0
    with path.open("rb") as file:
        while part := file.read(BLOCK):
            odd ^= part.count(b'"') & 1
    if not odd:  # quotes are balanced, or inside a cell
        return
    line = 1
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            rows = csv.reader(file, delimiter=separator, strict=True)
            for _ in rows:
                line = rows.line_num + 1
    except csv.Error:
        raise AvrinError("a quote is not closed", place=(f"line {line}",), advice="Close it, or double it") from None
    except UnicodeDecodeError:
        return  # reported with its line


def _plain(kind: pa.DataType) -> bool:
    import pyarrow.types as is_  # late: 39 ms

    return bool(
        is_.is_int64(kind) or is_.is_float64(kind) or is_.is_boolean(kind) or is_.is_string(kind) or is_.is_null(kind)
    )


def _check_text(path: Path) -> bool:
    """Return whether cells contain line breaks. Raises AvrinError if the file is not UTF-8 or a quote is not closed."""
    broken, quoted, long = False, False, 0
    with path.open("rb") as file:
        for number, line in enumerate(file, 1):
            try:
                line.decode("utf-8-sig")
            except UnicodeDecodeError:
                raise AvrinError(
                    "is not UTF-8 text", place=(f"line {number}",), advice="Save it as CSV in UTF-8"
                ) from None
            long = len(line) + (long if quoted else 0)
            quoted ^= line.count(b'"') % 2 == 1
            broken |= quoted
            if long > BLOCK:
                raise AvrinError(
                    "a row is longer than 4 MiB: a quote is probably not closed",
                    place=(f"line {number}",),
                    advice="Check the quotes",
                )
    return broken


def _ragged(path: Path, separator: str) -> AvrinError:
    """Return the error for the first row with another number of cells than the header, or for a file that is no table."""
    with path.open(encoding="utf-8-sig", newline="") as file:
        rows = csv.reader(file, delimiter=separator)
        try:
            wide = len(next(rows, []))
            for row in rows:
                if row and len(row) != wide:
                    place = (f"line {rows.line_num}",)
                    return AvrinError(
                        f"a row has {len(row)} cells, the header {wide}", place=place, advice="Fill or cut the row"
                    )
        except csv.Error:  # a cell longer than the standard library reads
            pass
    return AvrinError("is not a CSV table", advice="Save it as CSV in UTF-8, with commas between cells")
