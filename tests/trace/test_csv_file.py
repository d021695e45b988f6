"""CSV traces: what is read, refused, and written."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.errors import AvrinError
from avrin.project.project import Variable
from avrin.trace import csv_file
from avrin.trace.frames import KIND_OF, Column, ColumnKind, Trace
from avrin.trace.store import open_trace
from avrin.trace.summary import summarise
from strategies import traces

DECLARED = {
    "n": Variable(name="n", type="float"),
    "f": Variable(name="f", type="bool"),
    "s": Variable(name="s", type="text"),
}


def kinds_of(declared: dict[str, Variable]) -> dict[str, ColumnKind]:
    return {name: KIND_OF[variable.type] for name, variable in declared.items()}


def read(tmp_path: Path, text: str | bytes, declared: dict[str, Variable] | None = None) -> Trace:
    path = tmp_path / "made.csv"
    path.write_bytes(text.encode() if isinstance(text, str) else text)
    return csv_file.read(path, kinds_of(declared or {}))


def values(column: Column) -> list[object]:
    return [column[i] for i in range(len(column.data))]


@given(traces(least=1))
def test_what_is_written_reads_back_the_same(tmp_path_factory: pytest.TempPathFactory, trace: Trace) -> None:
    path = tmp_path_factory.mktemp("t") / "t.csv"
    with path.open("wb") as file:
        csv_file.write(trace, file)
    kinds = {"number": "float", "flag": "bool", "text": "text"}
    declared = {name: Variable(name=name, type=kinds[c.kind]) for name, c in trace.columns.items()}  # type: ignore[arg-type]
    again = csv_file.read(path, kinds_of(declared))
    assert again.t.tolist() == trace.t.tolist()
    assert again.run.tolist() == trace.run.tolist()
    for name, column in trace.columns.items():
        assert values(again.columns[name]) == values(column)


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False), min_size=1))
def test_any_number_survives_writing(tmp_path_factory: pytest.TempPathFactory, numbers: list[float]) -> None:
    numbers = [x for x in numbers if not (abs(x) > 2**53 and x == math.floor(x))] or [0.5]
    path = tmp_path_factory.mktemp("t") / "t.csv"
    with path.open("wb") as file:
        csv_file.write(Trace.make("t", [float(i) for i in range(len(numbers))], {"x": Column.of(numbers)}), file)
    assert csv_file.read(path).columns["x"].data.tolist() == numbers


def test_cells_become_typed_columns(tmp_path: Path) -> None:
    trace = read(tmp_path, 't,n,f,s,gone\n0,1,true,dive,\n0.5,,false,"a ""b"", c",\n1,2.5,,"",\n')
    assert values(trace.columns["n"]) == [1.0, None, 2.5]
    assert values(trace.columns["f"]) == [True, False, None]
    assert values(trace.columns["s"]) == ["dive", 'a "b", c', ""]  # quoted and empty is not missing
    assert values(trace.columns["gone"]) == [None, None, None]


def test_declarations_say_what_a_column_is(tmp_path: Path) -> None:
    trace = read(tmp_path, "t,n,f,s\n0,1,1,007\n1,2,0,12:30\n", DECLARED)
    assert values(trace.columns["f"]) == [True, False]
    assert values(trace.columns["s"]) == ["007", "12:30"]


def test_dates_are_texts(tmp_path: Path) -> None:
    trace = read(tmp_path, "t,day,at\n0,2026-01-02,10:30:00\n1,2026-01-03,10:31:00\n")
    assert values(trace.columns["day"]) == ["2026-01-02", "2026-01-03"]
    assert values(trace.columns["at"]) == ["10:30:00", "10:31:00"]


def test_byte_order_mark_and_windows_lines(tmp_path: Path) -> None:
    trace = read(tmp_path, b"\xef\xbb\xbft,n\r\n0,1\r\n1,2\r\n")
    assert list(trace.columns) == ["n"]
    assert values(trace.columns["n"]) == [1.0, 2.0]


def test_runs_are_numbered_from_one_and_time_may_start_anew(tmp_path: Path) -> None:
    trace = read(tmp_path, "t,run,n\n0,7,1\n1,7,2\n0,9,3\n1,9,4\n")
    assert trace.run.tolist() == [1, 1, 2, 2]
    assert trace.axis.tolist() == [0.0, 1.0, 2.0, 3.0]
    assert trace.frame_at(2.5) == 2


def test_roster_columns_may_be_written_with_points(tmp_path: Path) -> None:
    assert list(read(tmp_path, "t,crew.0.scrap,crew[1].scrap\n0,1,2\n").columns) == ["crew[0].scrap", "crew[1].scrap"]


def test_a_thousand_columns(tmp_path: Path) -> None:
    names = [f"c{i}" for i in range(1000)]
    trace = read(
        tmp_path, "t," + ",".join(names) + "\n" + "\n".join(f"{t}," + ",".join(["1.5"] * 1000) for t in range(3))
    )
    assert list(trace.columns) == names


FAULTS: list[tuple[str | bytes, str]] = [
    ("", "is empty"),
    ("t,n\n", "has a header but no rows"),
    ("then,n\n0,1\n", "line 1: no time column found among then, n"),
    ("n,m\n0,1\n", "add a first column t in seconds"),
    ("t,n,n\n0,1,2\n", "line 1: has 'n' twice"),
    ("t,,n\n0,1,2\n", "column 2 has no name"),
    ("t,n\n0,1\n2,1\n1,1\n", "row 3 (line 4), column 't': time runs backwards, from 2 to 1 s"),
    ("t,n\n0,1\n,1\n", "row 2 (line 3), column 't': the time is missing"),
    ("t,n\nx,1\n", "row 1 (line 2), column 't': 'x' is not a number"),
    ("t,n\n0,1\n1,oops\n2,3\n", "row 2 (line 3), column 'n': 'oops' is not a number"),
    ("t,n\n0,1\n1,nan\n", "row 2 (line 3), column 'n': NaN is not a value"),
    ("t,n\n0,1\n1,-inf\n", "row 2 (line 3), column 'n': infinity is not a value"),
    ("t,n\n0,1\n1,9007199254740993\n", "row 2 (line 3), column 'n': a whole number beyond 2^53"),
    ("t,n\n0,1\n1,99999999999999999999\n", "row 2 (line 3), column 'n': a whole number beyond 2^53"),
    ("t,n\n0,1\n1,2,3\n", "line 3: a row has 3 cells, the header 2"),
    ("t,n\n0,1\n1\n", "line 3: a row has 1 cells, the header 2"),
    ("t,run\n0,1\n1,\n", "column 'run': runs must be whole numbers"),
    (b"t,n\n0,\xff\xfe\n", "is not UTF-8"),
    (b"\xff\xfe\x00t", "is not a text table in UTF-8"),
]


@pytest.mark.parametrize(("text", "words"), FAULTS)
def test_fault_table(tmp_path: Path, text: str | bytes, words: str) -> None:
    with pytest.raises(AvrinError) as found:
        read(tmp_path, text)
    assert words in str(found.value)
    assert "\n" not in str(found.value)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("t,n\n0,\n1,far\n", "row 2 (line 3), column 'n': 'far' is not a number"),
        ("t,f\n0,true\n1,maybe\n", "row 2 (line 3), column 'f': 'maybe' is neither true nor false"),
        ("t,f\n0,1\n1,2\n", "row 2 (line 3), column 'f': 2 is neither true nor false"),
        ("t,n\n0,true\n", "column 'n': holds true and false, but is declared a number"),
    ],
)
def test_declared_columns_are_held_to_their_type(tmp_path: Path, text: str, words: str) -> None:
    with pytest.raises(AvrinError) as found:
        read(tmp_path, text, DECLARED)
    assert words in str(found.value)


def test_the_second_opening_reads_the_copy_and_other_contents_do_not(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "cache"))
    path = tmp_path / "a.csv"
    path.write_text("t,n,s\n0,1,x\n1,,y\n")
    first = open_trace(path)
    with monkeypatch.context() as patch:
        patch.setattr("avrin.trace.csv_file.read", lambda *_: pytest.fail("read again"))
        again = open_trace(path)
    assert values(again.columns["n"]) == values(first.columns["n"]) == [1.0, None]
    assert values(again.columns["s"]) == ["x", "y"]
    path.write_text("t,n,s\n0,5,x\n")
    assert values(open_trace(path).columns["n"]) == [5.0]
    (copy, *_) = (tmp_path / "cache" / "traces").iterdir()
    for copy in (tmp_path / "cache" / "traces").iterdir():
        copy.write_bytes(b"\x07broken")
    assert values(open_trace(path).columns["n"]) == [5.0]  # a broken copy is rebuilt


def test_unknown_endings_are_refused(tmp_path: Path) -> None:
    with pytest.raises(AvrinError, match=r"notes\.txt: '\.txt' is not a trace format"):
        open_trace(tmp_path / "notes.txt")


def test_summary_tells_each_column(tmp_path: Path) -> None:
    trace = read(tmp_path, "t,run,n,f,s\n0,1,1,true,a\n1,1,,true,b\n0,2,3,false,b\n1,2,3.5,false,b\n")
    told = {s.name: (s.type, s.low, s.high, s.missing, s.changes) for s in summarise(trace)}
    assert told["n"] == ("float", 1.0, 3.5, 0.25, 2)  # to missing and, within run 2, by half
    assert told["f"] == ("bool", None, None, 0.0, 0)  # a restart does not count as a change
    assert told["s"] == ("text", None, None, 0.0, 1)
    assert np.isnan(trace.columns["n"].data[1])
