"""The cells of a CSV file as Arrow's columns.

The reader guesses from a file's beginning what its columns hold. Where that turns out otherwise later on (decimals after
whole numbers, values after empty cells), or looks like dates to it, the columns are read again as what they are. Why a
file could not be read is looked for in the file itself, never in the wording of the library's complaint.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from avrin.model import AvrinError
from avrin.trace.progress import tell

if TYPE_CHECKING:
    import pyarrow as pa

__all__ = ["read_cells", "separator_of"]

PIECE = 64 << 20  # bytes of a file that are in the reader's hands at once
BEGINNING = 64 << 10  # bytes from which a table's signs are told
SEPARATORS = (",", ";", "\t")
DECIMALS = (re.compile(r"\s*[+-]?\d+,\d+\s*"), re.compile(r"\s*[+-]?\d+\.\d+\s*"))  # with a comma, with a point
DECIMAL = re.compile(r"\s*[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?\s*", re.ASCII)  # with either sign
NEGATIVE_ZERO = re.compile(rb"[,;\t\n]-0[,;\t\r\n]")  # in a column that else holds whole numbers
LARGEST = 2**53  # the largest whole number up to which a 64-bit float holds all
BLOCK = 4 << 20  # bytes read at once, which no row may be longer than


def read_cells(path: Path, texts: set[str]) -> pa.Table:
    """All columns of a file, each of whole numbers, floats, flags, texts or nothing. texts: columns known to be texts.

    Raises AvrinError, with the line where there is one.
    """
    import pyarrow as pa

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
            cells.types |= dict.fromkeys(exact, pa.float64())  # no whole number is -0
            table = cells.read()
    except (OSError, pa.ArrowException) as error:
        raise AvrinError(f"cannot be read ({str(error).splitlines()[0]})") from None
    return _with_points(table, texts) if cells.point == "," else table


def _has_negative_zeros(path: Path) -> bool:
    with path.open("rb") as file:
        before = b""
        while block := file.read(BLOCK):
            if NEGATIVE_ZERO.search(before + block):
                return True
            before = block[-4:]
    return False


def _fits_floats(column: pa.ChunkedArray) -> bool:
    """Whether 64-bit floats hold all of a column's whole numbers."""
    import pyarrow.compute as pc

    ends = pc.min_max(column).as_py()
    return ends["min"] is not None and -LARGEST <= ends["min"] <= ends["max"] <= LARGEST


def _with_points(table: pa.Table, texts: set[str]) -> pa.Table:
    """A table of decimal commas in which columns with a decimal point among them are numbers, too."""
    import pyarrow as pa
    import pyarrow.compute as pc

    for at, field in enumerate(table.schema):
        if field.name in texts or not pa.types.is_string(field.type):
            continue
        words = table.column(at).drop_null().unique().to_pylist()
        if words and all(DECIMAL.fullmatch(word) for word in words):
            plain = pc.replace_substring(table.column(at), ",", ".")
            table = table.set_column(at, field.name, plain.cast(pa.float64()))
    return table


class _Cells(Struct):
    """A file on its way. types: what columns are known to hold; broken_lines: whether cells may hold ends of lines."""

    path: Path
    types: dict[str, Any]
    separator: str = ","
    point: str = "."
    broken_lines: bool = False  # looked for only in need: such a file cannot be cut to be read side by side

    def read(self) -> pa.Table:
        """The table, as soon as all that is known of the file lets it be read."""
        import pyarrow as pa

        while True:
            try:
                return self.columns([])
            except pa.ArrowInvalid:
                self.learn()

    def columns(self, names: list[str]) -> pa.Table:
        """Some columns, or all. Raises what the library raises."""
        import pyarrow as pa

        if self.broken_lines or self.path.stat().st_size <= PIECE:
            return self.table(self.path, names, self.types, None)
        # All of a large file at once takes several times the memory of what comes of it.
        header, types, tables = None, self.types, []
        for piece in _pieces(self.path):
            tables.append(self.table(pa.BufferReader(piece), names, types, header))
            if header is None:
                header = _names(piece, self.separator)
                types = {**dict(zip(tables[0].schema.names, tables[0].schema.types, strict=True)), **self.types}
        return pa.concat_tables(tables)

    def table(self, source: Any, names: list[str], types: dict[str, Any], header: list[str] | None) -> pa.Table:  # noqa: ANN401
        """A file, or a piece of one whose header is known."""
        from pyarrow import csv as arrow_csv

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
        from pyarrow import csv as arrow_csv

        return arrow_csv.ParseOptions(delimiter=self.separator, newlines_in_values=self.broken_lines)

    def learn(self) -> None:
        """After a reading that failed: what it failed by, kept for the next. Raises AvrinError where nothing would help."""
        broken_lines = _check_text(self.path)
        if broken_lines and not self.broken_lines:
            self.broken_lines = True
            return
        if not self.widen():
            raise _ragged(self.path, self.separator)

    def widen(self) -> bool:
        """Let columns hold more than their beginning shows; False when none could."""
        import pyarrow as pa
        from pyarrow import csv as arrow_csv

        try:
            with arrow_csv.open_csv(self.path, arrow_csv.ReadOptions(block_size=BLOCK), self.parsing()) as file:
                schema = file.schema
        except pa.ArrowInvalid:
            return False  # already its beginning is no table
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
        """Which columns cannot be read as what they are taken for: by halves, since few are."""
        import pyarrow as pa

        if not names:
            return []
        try:
            self.columns(names)
        except pa.ArrowInvalid:
            half = len(names) // 2
            return self.unread(names[:half]) + self.unread(names[half:]) if half else names
        return []


def _pieces(path: Path) -> Iterator[bytes]:
    """Whole lines, so many at a time as take little memory while they are read."""
    size = path.stat().st_size
    with path.open("rb") as file:
        rest = b""
        while read := file.read(PIECE):
            tell((file.tell() - len(read)) / size)
            whole, newline, tail = read.rpartition(b"\n")
            if newline:
                yield rest + whole + newline
                rest = tail
            else:
                rest += read
        if rest:
            yield rest


def _names(piece: bytes, separator: str) -> list[str]:
    return next(csv.reader([piece.partition(b"\n")[0].decode("utf-8-sig").rstrip("\r")], delimiter=separator))


def separator_of(beginning: bytes) -> str:
    """What stands between the cells of a table: the comma, or where that parts no names, a semicolon or a tab."""
    header = beginning.partition(b"\n")[0].decode("utf-8-sig", "replace")
    return next((one for one in SEPARATORS if len(next(csv.reader([header], delimiter=one), [])) > 1), ",")


def _decimal_point(beginning: bytes, separator: str) -> str:
    """The decimal sign: a comma where commas separate nothing and numbers are written with them."""
    if separator == ",":
        return "."
    lines = beginning.decode("utf-8-sig", "replace").splitlines()[1:-1]
    cells = [cell for row in csv.reader(lines, delimiter=separator) for cell in row]
    commas, points = (sum(bool(form.fullmatch(cell)) for cell in cells) for form in DECIMALS)
    return "," if commas > points else "."


def _check_quotes(path: Path, separator: str) -> None:
    """Raises AvrinError where a quote is never closed: the rest of the file would be one cell."""
    odd = 0
    with path.open("rb") as file:
        while part := file.read(BLOCK):
            odd ^= part.count(b'"') & 1
    if not odd:  # each has its other half, or stands within a cell
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
        return  # which is told by its line


def _plain(kind: pa.DataType) -> bool:
    import pyarrow.types as is_

    return bool(
        is_.is_int64(kind) or is_.is_float64(kind) or is_.is_boolean(kind) or is_.is_string(kind) or is_.is_null(kind)
    )


def _check_text(path: Path) -> bool:
    """Whether cells of a file hold ends of lines. Raises AvrinError: it is no UTF-8, or a quote is not closed."""
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
    """What is wrong with the first row that is not as wide as the header; or that it is no table."""
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
    return AvrinError("is no CSV table", advice="Save it as CSV in UTF-8, cells apart by commas")
