"""Traces in CSV: first a header, then one row a frame; `t` in seconds, optionally `run`, an empty cell is missing.

The cells are read by Arrow's columnar reader; what it cannot know is checked here: which columns mean numbers,
whole numbers that a 64-bit float cannot hold, infinities written as words, times that run backwards.
"""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

import numpy as np

from avrin.model import AvrinError, Variable, nearest
from avrin.trace.frames import (
    FALSE,
    MISSING,
    NO_TEXT,
    TRUE,
    Array,
    Column,
    ColumnKind,
    FloatArray,
    Trace,
    check_times,
    numbered,
    row_place,
)

if TYPE_CHECKING:
    import pyarrow as pa

__all__ = ["read_csv", "write_csv"]

LARGEST = 2.0**53
KINDS: dict[str, ColumnKind] = {"int": "number", "float": "number", "bool": "flag", "text": "text"}


def read_csv(path: Path, declared: Mapping[str, Variable] | None = None) -> Trace:
    """Read a CSV trace.

    declared: variables by name; they say what a column is. An undeclared column is what its cells look like.
    Raises AvrinError naming row and column; its place does not hold the file's name.
    """
    kinds = {name: KINDS[variable.type] for name, variable in (declared or {}).items()}
    _check_header(path)
    table = _table(path, {name for name, kind in kinds.items() if kind == "text"})
    if not table.num_rows:
        raise AvrinError("has a header but no rows", advice="Record at least one frame")
    columns = {
        _canonical(name): _column(name, table.column(i), kinds.get(_canonical(name)))
        for i, name in enumerate(table.column_names)
    }
    time = columns.pop("t")
    run = columns.pop("run", None)
    if time.kind != "number":
        raise AvrinError("the times are not numbers", place=("column 't'",), advice="Write seconds")
    if run is not None and (run.kind != "number" or run.is_missing().any()):
        raise AvrinError("runs must be whole numbers without gaps", place=("column 'run'",))
    runs = numbered(run.data) if run is not None else np.ones(len(time.data), np.int32)
    check_times(time.data, runs)
    return Trace(path.stem, time.data, runs, columns)


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
        arrays[name] = _as_arrow(column)
    header = io.StringIO()  # the columnar writer quotes every name
    csv.writer(header, lineterminator="\n").writerow(arrays)
    file.write(header.getvalue().encode())
    arrow_csv.write_csv(pa.table(arrays), file, arrow_csv.WriteOptions(include_header=False, quoting_style="needed"))


def _as_arrow(column: Column) -> Any:
    import pyarrow as pa

    missing = column.is_missing()
    if column.kind == "text":
        return pa.array(np.array([*column.words, None], object)[column.data], pa.string())
    if column.kind == "flag":
        return pa.array(column.data == TRUE, mask=missing)
    whole = column.data[~missing]
    if len(whole) and (whole == np.rint(whole)).all() and (np.abs(whole) <= LARGEST).all():
        return pa.array(np.where(missing, 0, column.data).astype(np.int64), mask=missing)
    return pa.array(column.data, mask=missing)


def _canonical(name: str) -> str:
    """Roster columns are `crew[0].scrap`; `crew.0.scrap` is read too."""
    return re.sub(r"\.(\d+)(?=\.)", r"[\1]", name)


def _check_header(path: Path) -> None:
    try:
        with path.open("rb") as file:
            header = next(csv.reader([file.readline(4_000_000).decode("utf-8-sig")]), [])
    except OSError as error:
        raise AvrinError(
            f"cannot be read ({(error.strerror or str(error)).lower()})", advice="Check the path"
        ) from None
    except (UnicodeDecodeError, csv.Error):
        raise AvrinError("is no text table in UTF-8", place=("line 1",), advice="Save it as CSV in UTF-8") from None
    if not any(header):
        raise AvrinError("is empty", advice="A trace starts with a header such as t,hull,air")
    twice = [name for name, times in Counter(map(_canonical, header)).items() if times > 1]
    if twice:
        raise AvrinError(f"the header has '{twice[0]}' twice", place=("line 1",), advice="Rename or drop one of them")
    if "" in header:
        raise AvrinError(f"the header's column {header.index('') + 1} has no name", place=("line 1",), advice="Name it")
    if "t" not in header:
        close = nearest("t", header) or next((name for name in header if name.lower().startswith("t")), "")
        shown = ", ".join(header[:6]) + (" …" if len(header) > 6 else "")
        raise AvrinError(
            f"no time column 't' among {shown}",
            place=("line 1",),
            advice=f"Rename '{close}' if it holds seconds" if close else "Add a first column t in seconds",
        )


def _table(path: Path, texts: set[str]) -> pa.Table:
    """The file's cells; a column that looks like dates or times to the reader is read again as text."""
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    def read(types: dict[str, Any]) -> pa.Table:
        options = arrow_csv.ConvertOptions(
            column_types=types,
            null_values=[""],
            true_values=["true", "True", "TRUE"],
            false_values=["false", "False", "FALSE"],
            strings_can_be_null=True,
            quoted_strings_can_be_null=False,
        )
        return arrow_csv.read_csv(path, arrow_csv.ReadOptions(block_size=4 << 20), convert_options=options)

    types = dict.fromkeys(texts, pa.string())
    try:
        table = read(types)
        odd = [f.name for f in table.schema if not _plain_type(f.type)]
        return read({**types, **dict.fromkeys(odd, pa.string())}) if odd else table
    except pa.ArrowInvalid as error:
        raise _explained(str(error), path) from None
    except (OSError, pa.ArrowException) as error:
        raise AvrinError(f"cannot be read ({str(error).splitlines()[0]})") from None


def _plain_type(kind: Any) -> bool:
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
        return next((reader.line_num for row in reader if row and len(row) != wide), 0)


def _column(name: str, cells: pa.ChunkedArray, wanted: ColumnKind | None) -> Column:
    import pyarrow as pa
    import pyarrow.types as is_

    if is_.is_null(cells.type):
        return Column.missing(len(cells), wanted or "number")
    if is_.is_string(cells.type):
        if wanted in ("number", "flag") or (wanted is None and (name in ("t", "run") or _mostly_numbers(cells))):
            raise _word_among(name, cells, wanted or "number")
        coded = cells.dictionary_encode().combine_chunks()
        if isinstance(coded, pa.ChunkedArray):
            coded = coded.chunk(0)
        codes = coded.indices.fill_null(NO_TEXT).to_numpy(zero_copy_only=False).astype(np.int32)
        return Column("text", codes, tuple(coded.dictionary.to_pylist()))
    if is_.is_boolean(cells.type):
        if wanted == "number":
            raise AvrinError("holds true and false, but is declared a number", place=(f"column '{name}'",))
        flags = cells.cast(pa.int8()).fill_null(-1).to_numpy()
        return Column("flag", np.where(flags < 0, MISSING, flags * TRUE).astype(np.int8))
    numbers = _numbers(name, cells)
    if wanted == "flag":
        odd = np.flatnonzero(~(np.isnan(numbers) | (numbers == 0) | (numbers == 1)))
        if len(odd):
            raise AvrinError(
                f"{numbers[odd[0]]:g} is neither true nor false", place=(row_place(int(odd[0])), f"column '{name}'")
            )
        return Column("flag", np.where(np.isnan(numbers), MISSING, np.where(numbers == 1, TRUE, FALSE)).astype(np.int8))
    return Column("number", numbers)


def _numbers(name: str, cells: pa.ChunkedArray) -> Any:
    """The cells as float64 with NaN for missing; refuses infinities, NaN as a word and whole numbers beyond 2^53."""
    numbers = np.empty(len(cells), np.float64)
    at = 0
    for chunk in cells.chunks:
        numbers[at : at + len(chunk)] = chunk.to_numpy(zero_copy_only=False)
        at += len(chunk)
    # One pass tells whether anything is odd: a sum is finite only when every term is.
    if cells.null_count == 0 and np.isfinite(total := np.abs(numbers).sum()) and total < LARGEST:
        return numbers
    nans = np.isnan(numbers)
    bad = np.isinf(numbers)
    if int(nans.sum()) > cells.null_count:
        bad |= nans & ~np.asarray(cells.is_null())
    if bad.any():
        at = int(np.argmax(bad))
        word = "NaN" if nans[at] else "infinity"
        raise AvrinError(
            f"{word} is not a value a game can show",
            place=(row_place(at), f"column '{name}'"),
            advice="Leave the cell empty if the value is missing",
        )
    large = _inexact(cells, numbers)
    if len(large):
        raise AvrinError(
            "a whole number beyond 2^53 cannot be kept exactly",
            place=(row_place(int(large[0])), f"column '{name}'"),
            advice="Record identifiers as text",
        )
    return numbers


def _inexact(cells: pa.ChunkedArray, numbers: FloatArray) -> Array:
    """Frames with whole numbers beyond 2^53. Those that fit into 64 bits are looked at before they become floats."""
    if cells.type == "int64":
        whole = np.concatenate([chunk.fill_null(0).to_numpy(zero_copy_only=False) for chunk in cells.chunks])
        return np.flatnonzero(np.abs(whole) > int(LARGEST))
    return np.flatnonzero((np.abs(numbers) > LARGEST) & (numbers == np.rint(numbers)))


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def _mostly_numbers(cells: pa.ChunkedArray) -> bool:
    """Whether a column the reader took for text is one of numbers with a stray word in it."""
    counts = cells.drop_null().value_counts()
    weights = counts.field("counts").to_numpy()
    numeric = np.array([_is_number(text) for text in counts.field("values").to_pylist()], bool)
    return bool(weights[numeric].sum() * 2 > weights.sum())


def _word_among(name: str, cells: pa.ChunkedArray, wanted: ColumnKind) -> AvrinError:
    fits = _is_number if wanted == "number" else ("true", "false", "0", "1").__contains__
    at, word = next((i, text) for i, text in enumerate(cells.to_pylist()) if text is not None and not fits(text))
    shown = word if len(word) <= 40 else word[:40] + "…"
    return AvrinError(
        f"'{shown}' is " + ("not a number" if wanted == "number" else "neither true nor false"),
        place=(row_place(at), f"column '{name}'"),
        advice="Leave the cell empty if the value is missing, or declare the variable a text",
    )
