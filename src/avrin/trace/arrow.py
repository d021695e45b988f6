"""Convert between Arrow columns and Avrin columns: missing cells, invalid values, texts as codes."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from avrin.errors import AvrinError
from avrin.trace.frames import FALSE, MISSING, NO_TEXT, TRUE, Array, Column, ColumnKind, FloatArray, row_place

if TYPE_CHECKING:
    import pyarrow as pa

__all__ = ["LARGEST", "as_arrow", "as_columns"]

GIVEN_BACK = 8  # columns between two releases of memory
LONGEST = 100_000  # characters in a text
TRUE_WORDS, FALSE_WORDS = ("true", "True", "TRUE", "1"), ("false", "False", "FALSE", "0")
LARGEST = 2.0**53  # the largest whole number below which every integer is an exact 64-bit float


def as_arrow(column: Column) -> pa.Array:
    """Return a column as an Arrow array of shape (T,): whole numbers as integers unless one is -0, missing as null."""
    import pyarrow as pa  # late: 39 ms

    missing = column.is_missing()
    if column.kind == "text":
        return pa.array(np.array([*column.words, None], object)[column.data], pa.string())
    if column.kind == "flag":
        return pa.array(column.data == TRUE, mask=missing)
    whole = column.data[~missing]
    negative_zero = ((whole == 0) & np.signbit(whole)).any()
    if len(whole) and not negative_zero and (whole == np.rint(whole)).all() and (np.abs(whole) <= LARGEST).all():
        return pa.array(np.where(missing, 0, column.data).astype(np.int64), mask=missing)
    return pa.array(column.data, mask=missing)


def as_columns(
    names: list[str], cells: list[pa.ChunkedArray], wanted: Callable[[str], ColumnKind | None], *, lines: bool
) -> dict[str, Column]:
    """Convert all Arrow columns to columns of shape (T,), releasing each one after use: `cells` is empty at the end.

    wanted, lines: see `as_column`. Raises AvrinError naming row and column.
    """
    import pyarrow as pa  # late: 39 ms

    found = {}
    for number, name in enumerate(names):
        found[name] = as_column(name, cells.pop(0), wanted(name), lines=lines)
        if number % GIVEN_BACK == 0:
            pa.default_memory_pool().release_unused()  # return the reader's memory to the system
    pa.default_memory_pool().release_unused()
    return found


def as_column(name: str, cells: pa.ChunkedArray, wanted: ColumnKind | None, *, lines: bool) -> Column:
    """Convert Arrow cells to a column of shape (T,).

    wanted: the declared kind; None to infer it. lines: whether rows are lines of a text file.
    Raises AvrinError naming row and column.
    """
    return _Reader(name, cells, lines).column(wanted)


class _Reader:
    """The conversion of one column; errors name the column."""

    def __init__(self, name: str, cells: pa.ChunkedArray, lines: bool) -> None:
        self.name = name
        self.cells = cells
        self.lines = lines

    def place(self, row: int) -> tuple[str, str]:
        return (row_place(row, lines=self.lines), f"column '{self.name}'")

    def column(self, wanted: ColumnKind | None) -> Column:
        import pyarrow.types as is_  # late: 39 ms

        kind = self.cells.type
        if is_.is_null(kind):
            return Column.missing(len(self.cells), wanted or "number")
        if is_.is_string(kind) or is_.is_large_string(kind) or is_.is_dictionary(kind):
            return self.texts(wanted)
        if is_.is_boolean(kind):
            return self.flags(wanted)
        if not (is_.is_integer(kind) or is_.is_floating(kind)):
            raise AvrinError(
                f"holds {kind}, which is not a number, flag or text",
                place=(f"column '{self.name}'",),
                advice="Write it as one of them, or remove the column",
            )
        numbers = self.numbers()
        if wanted == "flag":
            odd = np.flatnonzero(~(np.isnan(numbers) | (numbers == 0) | (numbers == 1)))
            if len(odd):
                raise AvrinError(f"{numbers[odd[0]]:g} is neither true nor false", place=self.place(int(odd[0])))
            flags = np.where(np.isnan(numbers), MISSING, np.where(numbers == 1, TRUE, FALSE))
            return Column("flag", flags.astype(np.int8))
        if wanted == "text":
            whole = bool((numbers[~np.isnan(numbers)] % 1 == 0).all())
            words = [None if x != x else str(int(x)) if whole else repr(x) for x in numbers.tolist()]
            return Column.of(words) if any(words) else Column.missing(len(words), "text")
        return Column("number", numbers)

    def texts(self, wanted: ColumnKind | None) -> Column:
        import pyarrow as pa  # late: 39 ms
        import pyarrow.types as is_

        if is_.is_dictionary(self.cells.type):
            if not is_.is_string(self.cells.type.value_type):
                self.cells = self.cells.cast(self.cells.type.value_type)
                return self.column(wanted)
            if wanted in ("number", "flag"):
                self.cells = self.cells.cast(pa.string())
        if wanted is None and self.lines and _mostly_numbers(self.cells):
            wanted = "number"
        if wanted in ("number", "flag"):
            fits = FITS[wanted]
            if not all(map(fits, self.cells.drop_null().unique().to_pylist())):
                raise self.word_among(wanted, fits)
            return self.numbers_of_texts() if wanted == "number" else self.flags_of_texts()
        coded = (
            self.cells.unify_dictionaries() if is_.is_dictionary(self.cells.type) else self.cells.dictionary_encode()
        )
        coded = coded.combine_chunks()
        if isinstance(coded, pa.ChunkedArray):
            coded = coded.chunk(0)
        self.check_lengths(coded.dictionary)
        codes = coded.indices.fill_null(NO_TEXT).to_numpy(zero_copy_only=False).astype(np.int32)
        return Column("text", codes, tuple(coded.dictionary.to_pylist()))

    def numbers_of_texts(self) -> Column:
        """Convert cells the reader left as texts although each is a number, as in a typed file."""
        import pyarrow as pa  # late: 39 ms

        self.cells = self.cells.cast(pa.float64())
        return Column("number", self.numbers())

    def flags_of_texts(self) -> Column:
        """Convert cells the reader left as texts although each is a flag: true and false mixed with 0 and 1."""
        flags = {**dict.fromkeys(TRUE_WORDS, TRUE), **dict.fromkeys(FALSE_WORDS, FALSE)}
        cells = self.cells.to_pylist()
        return Column("flag", np.array([MISSING if cell is None else flags[cell] for cell in cells], np.int8))

    def check_lengths(self, words: pa.Array) -> None:
        """Raise AvrinError if a text exceeds the maximum length."""
        import pyarrow.compute as pc  # late: 90 ms

        longest = pc.max(pc.utf8_length(words)).as_py() or 0
        if longest > LONGEST:
            raise AvrinError(
                f"holds a text of {longest:,} characters; the longest may have {LONGEST:,}",
                place=(f"column '{self.name}'",),
                advice="Leave the column out",
            )

    def flags(self, wanted: ColumnKind | None) -> Column:
        import pyarrow as pa  # late: 39 ms

        if wanted == "number":
            raise AvrinError("holds true and false, but is declared a number", place=(f"column '{self.name}'",))
        flags = self.cells.cast(pa.int8()).fill_null(-1).to_numpy()
        return Column("flag", np.where(flags < 0, MISSING, flags * TRUE).astype(np.int8))

    def numbers(self) -> FloatArray:
        """Return the cells as float64 with NaN for missing; reject infinities, the word NaN and integers beyond 2^53."""
        numbers = np.empty(len(self.cells), np.float64)
        at = 0
        for chunk in self.cells.chunks:
            numbers[at : at + len(chunk)] = chunk.to_numpy(zero_copy_only=False)
            at += len(chunk)
        # One pass finds any exceptional value: a sum is finite only if every term is.
        if self.cells.null_count == 0 and np.isfinite(total := np.abs(numbers).sum()) and total < LARGEST:
            return numbers
        nans = np.isnan(numbers)
        bad = np.isinf(numbers)
        if int(nans.sum()) > self.cells.null_count:
            bad |= nans & ~np.asarray(self.cells.is_null())
        if bad.any():
            at = int(np.argmax(bad))
            word = "NaN" if nans[at] else "infinity"
            raise AvrinError(
                f"{word} is not a value a game can show",
                place=self.place(at),
                advice="Leave the cell empty if the value is missing",
            )
        large = _inexact(self.cells, numbers)
        if len(large):
            raise AvrinError(
                "a whole number beyond 2^53 cannot be stored exactly",
                place=self.place(int(large[0])),
                advice="Record identifiers as text",
            )
        return numbers

    def word_among(self, wanted: ColumnKind, fits: Callable[[str], bool]) -> AvrinError:
        """Return the error for the first cell of the wrong kind."""
        at, word = next(
            (i, text) for i, text in enumerate(self.cells.to_pylist()) if text is not None and not fits(text)
        )
        shown = word if len(word) <= 40 else word[:40] + "…"
        advice = "Leave the cell empty if the value is missing, or declare the variable a text"
        if wanted == "number" and NUMBER.fullmatch(word.replace(",", ".", 1)):
            advice = "Write a point for the decimal comma, or separate the cells by ; and not by commas"
        return AvrinError(
            f"'{shown}' is " + ("not a number" if wanted == "number" else "neither true nor false"),
            place=self.place(at),
            advice=advice,
        )


def _inexact(cells: pa.ChunkedArray, numbers: FloatArray) -> Array:
    """Return the frames with integers beyond 2^53; 64-bit integers are checked before their conversion to floats."""
    import pyarrow.types as is_  # late: 39 ms

    if is_.is_integer(cells.type):
        whole = np.concatenate([chunk.fill_null(0).to_numpy(zero_copy_only=False) for chunk in cells.chunks])
        return np.flatnonzero((whole > int(LARGEST)) | (whole < -int(LARGEST)))
    return np.flatnonzero((np.abs(numbers) > LARGEST) & (numbers == np.rint(numbers)))


NUMBER = re.compile(r"\s*[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?\s*", re.ASCII)


def _is_number(text: str) -> bool:
    """Return whether the columnar reader parses a text as a number; Python would also accept 1_000."""
    return NUMBER.fullmatch(text) is not None


def _is_flag(text: str) -> bool:
    return text in TRUE_WORDS or text in FALSE_WORDS


FITS: dict[ColumnKind, Callable[[str], bool]] = {"number": _is_number, "flag": _is_flag}


def _mostly_numbers(cells: pa.ChunkedArray) -> bool:
    """Return whether a column the reader took for text holds numbers and a few stray words."""
    counts = cells.drop_null().value_counts()
    weights = counts.field("counts").to_numpy()
    numeric = np.array([_is_number(text) for text in counts.field("values").to_pylist()], bool)
    return bool(weights[numeric].sum() * 2 > weights.sum())
