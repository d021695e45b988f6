"""Cells of CSV files that turn out otherwise than their beginning, in blocks so small that every file has many."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.errors import AvrinError
from avrin.trace import csv_cells
from avrin.trace.csv_cells import read_cells

MANY = 400  # rows of a few bytes: several blocks


@pytest.fixture(autouse=True, scope="module")
def blocks() -> object:
    patch = pytest.MonkeyPatch()
    patch.setattr(csv_cells, "BLOCK", 256)
    yield
    patch.undo()


def built(folder: Path, header: str, rows: list[str]) -> Path:
    path = folder / "made.csv"
    path.write_text("\n".join([header, *rows]) + "\n")
    return path


@pytest.mark.parametrize(
    ("first", "late", "kind"),
    [
        ("1", "1", "int64"),
        ("1", "2.5", "double"),
        ("", "3", "int64"),
        ("", "far", "string"),
        ("1", "far", "string"),
        ("1.5", "far", "string"),
        ("true", "maybe", "string"),
        ("2026-01-02", "2026-01-03", "string"),
        ("10:30:00", "later", "string"),
        ('"a\nb"', "c", "string"),
    ],
)
def test_a_column_is_what_all_its_cells_are(tmp_path: Path, first: str, late: str, kind: str) -> None:
    path = built(tmp_path, "n,other,more", [*[f"{first},0,x"] * MANY, f"{late},0,x"])
    table = read_cells(path, set())
    assert str(table.column("n").type) == kind
    assert [str(table.column(name).type) for name in ("other", "more")] in (["int64", "string"], ["double", "string"])
    cells = table.column("n").to_pylist()
    assert len(cells) == MANY + 1
    assert str(cells[-1]).removesuffix(".0") == late


def test_columns_known_to_be_texts_are_read_as_such(tmp_path: Path) -> None:
    table = read_cells(built(tmp_path, "a,b", ["007,007"]), {"a"})
    assert [table.column(name).to_pylist() for name in "ab"] == [["007"], [7]]


@pytest.mark.parametrize(
    ("late", "problem"),
    [
        ("1,2,3", f"line {MANY + 2}: a row has 3 cells, the header 2"),
        ("1", f"line {MANY + 2}: a row has 1 cells, the header 2"),
        ('1,"' + "x\n" * 200, "a quote is not closed"),
    ],
)
def test_why_a_file_could_not_be_read(tmp_path: Path, late: str, problem: str) -> None:
    with pytest.raises(AvrinError) as found:
        read_cells(built(tmp_path, "a,b", [*["0,1"] * MANY, late]), set())
    assert problem in str(found.value)


def test_what_is_no_text_is_reported_by_its_line(tmp_path: Path) -> None:
    path = tmp_path / "made.csv"
    path.write_bytes(b"a,b\n" + b"0,x\n" * MANY + b"0,\xff\n")
    with pytest.raises(AvrinError, match=rf"^line {MANY + 2}: is not UTF-8 text"):
        read_cells(path, set())


CELL = st.text('ab,"\n ', max_size=6).map(lambda cell: "x" + cell)


@given(st.lists(st.tuples(CELL, CELL), min_size=1, max_size=60))
def test_texts_are_read_as_the_standard_library_writes_them(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, str]]
) -> None:
    path = tmp_path_factory.mktemp("t") / "t.csv"
    with path.open("w", newline="") as file:
        csv.writer(file, lineterminator="\n").writerows([("a", "b"), *rows])
    table = read_cells(path, set())
    assert list(zip(*(table.column(name).to_pylist() for name in "ab"), strict=True)) == rows


@pytest.mark.parametrize("size", [24, 33, 64, 1000])
@pytest.mark.parametrize(
    "text",
    [
        "t,a,b\n0,1,x\n1,2,y\n2,3,z\n",
        "\ufefft,a,b\r\n0,1,x\r\n1,,y\r\n2,3,\r\n",
        "t,a,b\n0,1,x\n1,2.5,y\n2,3,z",  # decimals after whole numbers, no end of line at the end
        "t,a,b\n0,,x\n1,,y\n2,3,z\n3,true,z\n",  # values after empty cells, and then others
        't,a,b\n0,1,"two\nlines"\n1,2,"an end, of a line\n"\n',
        't,"a,b",b\n0,1,x\n1,2,y\n',
        "t,a\n0,1\n1,2,3\n",  # a row that is too long
    ],
)
def test_a_large_file_read_in_pieces_is_as_read_at_once(
    text: str, size: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "a.csv"
    path.write_bytes(text.encode())

    def outcome() -> object:
        try:
            return read_cells(path, set()).to_pydict()
        except AvrinError as error:
            return str(error)

    monkeypatch.setattr(csv_cells, "BLOCK", size)
    whole = outcome()
    monkeypatch.setattr(csv_cells, "PIECE", size)  # never less than a block, from which the reader guesses
    assert outcome() == whole
