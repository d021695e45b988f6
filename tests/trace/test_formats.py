"""Every format of traces: lossless round trips, what clocks mean, what is refused and how it is reported."""

from __future__ import annotations

import json
import string
from importlib import import_module
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.errors import AvrinError
from avrin.project.project import Variable
from avrin.trace import columnar_cache
from avrin.trace.clock import ONE_RUN, Clock
from avrin.trace.formats import ENDINGS, ENDINGS_IN_WORDS, FILE_FILTER, FORMATS, is_recording
from avrin.trace.frames import Column, Event, Trace
from avrin.trace.store import open_trace, save_trace
from strategies import traces


def values(column: Column) -> list[object]:
    return [column[i] for i in range(len(column.data))]


def same(a: Trace, b: Trace) -> bool:
    """Whether two traces are equal: times, runs, types, values, missing ones, events."""
    assert a.t.tolist() == b.t.tolist()
    assert a.run.tolist() == b.run.tolist()
    assert list(a.columns) == list(b.columns)
    for name, column in a.columns.items():
        assert (name, column.kind, values(column)) == (name, b.columns[name].kind, values(b.columns[name]))
    assert a.events == b.events
    return True


@given(traces(least=1), st.lists(st.sampled_from(list(ENDINGS)), min_size=1, max_size=3))
def test_any_way_through_the_formats_keeps_everything(
    tmp_path_factory: pytest.TempPathFactory, trace: Trace, way: list[str]
) -> None:
    folder, found = tmp_path_factory.mktemp("t"), trace
    for number, ending in enumerate(way):
        path = folder / f"made{number}{ending}"
        save_trace(found, path)
        found = open_trace(path)
    assert same(found, trace)


@given(st.integers(1, 200), st.sampled_from([24.0, 30.0, 59.94, 60.0, 144.0, 1000.0]), st.sampled_from([0.0, 3.5]))
def test_a_regular_trace_is_logged_by_its_rate(
    tmp_path_factory: pytest.TempPathFactory, frames: int, rate: float, begins: float
) -> None:
    t = begins + np.arange(frames) / rate
    trace = Trace.make(
        "t", t, {"x": Column("number", np.floor(np.arange(frames) / 7))}, events=[Event(float(t[-1]), "end")]
    )
    path = tmp_path_factory.mktemp("t") / "t.jsonl"
    save_trace(trace, path)
    assert same(open_trace(path), trace)
    if frames > 10:
        assert json.loads(path.read_text().splitlines()[0])["rate"] == rate
        assert len(path.read_text().splitlines()) < frames / 6 + 4


def logged(tmp_path: Path, *lines: object, declared: dict[str, Variable] | None = None) -> Trace:
    path = tmp_path / "made.jsonl"
    path.write_text("\n".join(line if isinstance(line, str) else json.dumps(line) for line in lines))
    return open_trace(path, declared)


def test_a_change_log_holds_each_value_until_the_next_change(tmp_path: Path) -> None:
    trace = logged(
        tmp_path,
        {"avrin_log": 1, "rate": 4},
        {"t": 0, "set": {"hull": 100, "crew.0.scrap": 0}},
        {"t": 0.5, "set": {"hull": 80}},
        {"t": 0.6, "set": {"hull": None, "leak": True}},
        {"t": 0.6, "event": "hit", "args": {"points": 20, "who": "Ona"}},
        {"t": 1.1, "set": {"hull": 70, "phase": "dive"}},
        {"t": 1.5, "set": {}},
        {"t": 2.0, "run": 2},
        {"t": 2.3, "set": {"hull": 100}},
    )
    assert trace.t.tolist() == [0, 0.25, 0.5, 0.75, 1.0, 1.25, 1.5, 1.75, 2.0, 2.25, 2.5]
    assert trace.run.tolist() == [1] * 8 + [2] * 3
    assert values(trace.columns["hull"]) == [100, 100, 80, None, None, 70, 70, 70, 70, 70, 100]
    assert values(trace.columns["leak"]) == [None, None, None, *[True] * 8]
    assert values(trace.columns["phase"]) == [None] * 5 + ["dive"] * 6
    assert values(trace.columns["crew[0].scrap"]) == [0] * 11
    assert trace.events == (Event(0.6, "hit", {"points": 20.0, "who": "Ona"}, 1),)
    assert trace.event_frames.tolist() == [3]


def test_a_log_that_says_no_rate_has_sixty_frames_a_second(tmp_path: Path) -> None:
    trace = logged(tmp_path, {"t": 1, "set": {"x": 1}}, {"t": 2, "set": {}})
    assert len(trace) == 61
    assert trace.t[[0, 1, -1]].tolist() == [1.0, 1 + 1 / 60, 2.0]


def test_declarations_say_what_a_log_holds(tmp_path: Path) -> None:
    declared = {"f": Variable(name="f", type="bool"), "s": Variable(name="s", type="text")}
    trace = logged(tmp_path, {"t": 0, "set": {"f": 1, "s": None}}, {"t": 0, "set": {"f": 0}}, declared=declared)
    assert values(trace.columns["f"]) == [False]
    assert trace.columns["s"].kind == "text"


LOG_FAULTS = [
    ("", "is empty"),
    ('{"t": 0, "set": {"x": 1}}\n{"t": 1,', "line 2: is not JSON"),
    ('{"t": 0, "set": {"x": [1]}}', "line 1: 'set.x' cannot be used: values are numbers, flags, texts or null"),
    ('{"t": "soon"}', "line 1: 't' cannot be used: expected a number or null, got text"),
    ('{"t": "soon", ', "line 1: is not a change log entry"),
    ('{"set": {"x": 1}}', "line 1: has no time"),
    ('{"t": 2, "set": {"x": 1}}\n{"t": 1, "set": {"x": 1}}', "line 2: time runs backwards, from 2 to 1 s"),
    ('{"t": 0, "set": {"x": 1}}\n{"t": 1, "set": {"x": "far"}}', "'x' at 1 s: \"far\" is among its numbers"),
    ('{"t": 0, "set": {"x": 9007199254740993}}', "'x' at 0 s: a whole number beyond 2^53"),
    ('{"t": 0, "set": {"": 1}}', "line 1: sets a value without a name"),
    ('{"t": 0, "set": {}}\n{"t": 1e18, "set": {}}', "a time is too large"),
    ('{"t": 0, "set": {"x": 1}}\n{"t": 1e8, "set": {}}', "more than this program holds"),
    ('{"avrin_log": 2}', "line 1: is a change log of a newer kind (2)"),
    ('{"avrin_log": 1, "rate": 0}', "line 1: a rate is above 0"),
    ('{"t": 0, "set": {"x": NaN}}', "line 1: is not JSON"),
    ('{"t": 0, "deep": ' + "[" * 5000 + "]" * 5000 + "}", "line 1: is not JSON"),
    ('{"t": 0, "event": ""}', "line 1: the event has no name"),
    (b"\xff\xfe{}", "line 1: is not JSON"),
]


@pytest.mark.parametrize(("content", "words"), LOG_FAULTS)
def test_faults_of_logs_are_reported_by_their_line(tmp_path: Path, content: str | bytes, words: str) -> None:
    path = tmp_path / "made.jsonl"
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    with pytest.raises(AvrinError) as caught:
        open_trace(path)
    assert str(caught.value).startswith("made.jsonl")
    assert words in str(caught.value)
    assert "\n" not in str(caught.value)


CLOCKS = [
    ("t,x\n0,1\n0.5,2\n", Clock(), [0, 0.5], "time is 't' in seconds"),
    ("time_ms,x\n0,1\n500,2\n", Clock(), [0, 0.5], "time is 'time_ms' in milliseconds (guessed)"),
    ("frame,x\n0,1\n30,2\n", Clock(), [0, 0.5], "time is 'frame' in frames, 60 a second (guessed)"),
    ("frame,x\n0,1\n30,2\n", Clock(rate=120), [0, 0.25], "time is 'frame' in frames, 120 a second (guessed)"),
    ("Timestamp,x\n0,1\n17,2\n33,3\n", Clock(), [0, 0.017, 0.033], "time is 'Timestamp' in milliseconds (guessed)"),
    ("Timestamp,x\n0,1\n0.25,2\n", Clock(), [0, 0.25], "time is 'Timestamp' in seconds (guessed)"),
    ("a,x\n0,1\n2000000,2\n", Clock("a", "us"), [0, 2.0], "time is 'a' in microseconds"),
    ("t,x,attempt\n0,1,4\n0,2,5\n", Clock(), [0, 0], "time is 't' in seconds; runs by 'attempt' (guessed)"),
    ("t,x,Episode\n0,1,4\n0,2,5\n", Clock(), [0, 0], "time is 't' in seconds; runs by 'Episode' (guessed)"),
    ("t,x,run\n0,1,4\n0,2,9\n", Clock(), [0, 0], "time is 't' in seconds; runs by 'run'"),
    ("t,x,lap\n0,1,4\n0,2,9\n", Clock(run="lap"), [0, 0], "time is 't' in seconds; runs by 'lap' (guessed)"),
]


@pytest.mark.parametrize(("text", "written", "times", "reported"), CLOCKS)
def test_the_clock_is_declared_or_guessed_and_reported(
    tmp_path: Path, text: str, written: Clock, times: list[float], reported: str
) -> None:
    path = tmp_path / "made.csv"
    path.write_text(text)
    for trace in (open_trace(path, clock=written), open_trace(path, clock=written)):  # read, and from its copy
        assert trace.t.tolist() == times
        assert str(trace.clock) == reported
        separates = [
            name for name in text.partition("\n")[0].split(",") if name == written.run or f"by '{name}'" in reported
        ]
        assert list(trace.columns) == ["x", *(name for name in separates if name != "run")]  # a name for rules


@pytest.mark.parametrize("column", ["attempt", "game", "life", "match", "episode"])
@pytest.mark.parametrize("values", [("4", "9"), ("5", "4"), ("1", ""), ("1", "1.5"), ("a", "b")])
def test_what_is_called_like_runs_but_does_not_count_them_tells_none_apart(
    tmp_path: Path, column: str, values: tuple[str, str]
) -> None:
    path = tmp_path / "made.csv"
    path.write_text(f"t,x,{column}\n0,1,{values[0]}\n1,2,{values[1]}\n")
    trace = open_trace(path)
    assert column in trace.columns
    assert len(trace.run_starts) == 1


def test_no_column_separates_runs_if_declared_so(tmp_path: Path) -> None:
    path = tmp_path / "made.csv"
    path.write_text("t,x,episode\n0,1,1\n1,2,2\n")
    assert len(open_trace(path).run_starts) == 2
    assert len(open_trace(path, clock=Clock(run=ONE_RUN)).run_starts) == 1


def test_a_column_that_is_said_must_be_there(tmp_path: Path) -> None:
    path = tmp_path / "made.csv"
    path.write_text("t,x\n0,1\n")
    with pytest.raises(AvrinError, match=r"no column 'tt' for the time: did you mean 't'\?"):
        open_trace(path, clock=Clock("tt"))


def test_cells_may_turn_out_otherwise_far_down_a_long_table(tmp_path: Path) -> None:
    path = tmp_path / "made.csv"
    rows = [f"{i},{i},,{'true' if i % 2 else 'false'}" for i in range(400_000)]
    path.write_text("t,whole,late,flag\n" + "\n".join([*rows, "400000,0.5,7,true", "400001,1,word,"]) + "\n")
    with pytest.raises(AvrinError, match=r"row 400002 \(line 400003\), column 'late': 'word' is not a number"):
        open_trace(path, {"late": Variable(name="late", type="float")})
    path.write_text("t,whole,late,flag\n" + "\n".join([*rows, "400000,0.5,7,true"]) + "\n")
    trace = open_trace(path)
    assert [trace.columns[n][400_000] for n in ("whole", "late", "flag")] == [0.5, 7.0, True]
    assert trace.columns["late"][0] is None


def test_a_text_may_have_lines(tmp_path: Path) -> None:
    path = tmp_path / "made.csv"
    written = ["Ona joined\nTeo joined", None, "", 'a "quoted", one']
    save_trace(Trace.make("t", [0.0, 1.0, 2.0, 3.0], {"said": Column.of(written)}), path)
    assert values(open_trace(path).columns["said"]) == written


def test_events_beside_a_table_make_another_copy(tmp_path: Path) -> None:
    path = tmp_path / "made.csv"
    path.write_text("t,x\n0,1\n1,2\n")
    assert open_trace(path).events == ()
    (tmp_path / "made.events.jsonl").write_text('{"t": 0.5, "event": "hit"}\n')
    assert [e.name for e in open_trace(path).events] == ["hit"]
    (tmp_path / "made.events.jsonl").write_text("{")
    with pytest.raises(AvrinError, match=r"^made\.csv, made\.events\.jsonl, line 1: is not JSON"):
        open_trace(path)


def test_faults_of_parquet_files(tmp_path: Path) -> None:
    import pyarrow as pa
    import pyarrow.parquet as pq

    path = tmp_path / "made.parquet"
    whole = pa.table({"t": [0.0, 1.0], "x": [1, 2]})
    pq.write_table(whole, path)
    data = path.read_bytes()
    for content in (b"", b"PAR1", data[: len(data) // 2], data[:30] + b"\x00" * 40 + data[70:], data[:-4] + b"PAR2"):
        path.write_bytes(content)
        with pytest.raises(AvrinError, match=r"^made\.parquet: [^\n]*$"):
            open_trace(path)
    for table, words in (
        (pa.table({"t": [0.0], "x": [[1, 2]]}), "column 'x': holds list"),
        (pa.table({"t": [0.0, float("nan")]}), r"row 2, column 't': NaN is not a value"),
        (pa.table({"t": [1.0, 0.0]}), r"row 2, column 't': time runs backwards"),
        (pa.table({"t": [0.0], "x": [2**60]}), "row 1, column 'x': a whole number beyond"),
        (pa.table({"a": [0.0]}), "no time column found among a"),
        (pa.table({"t": pa.array([], pa.float64())}), "has columns but no rows"),
        (pa.Table.from_arrays([pa.array([0.0]), pa.array([1])], names=["t", "t"]), "has 't' twice"),
    ):
        pq.write_table(table, path)
        with pytest.raises(AvrinError, match=words):
            open_trace(path)


def test_a_million_columns_are_refused_by_the_header(tmp_path: Path) -> None:
    path = tmp_path / "made.csv"
    path.write_text("t," + ",".join(f"c{i}" for i in range(400_000)) + "\n0\n")
    with pytest.raises(AvrinError, match="has 400,001 columns; a recording may have 10,000"):
        open_trace(path)


def test_texts_that_would_fill_the_memory_are_refused_before_they_are_read(tmp_path: Path) -> None:
    path = tmp_path / "texts.parquet"
    words = [letter * 10_000_000 for letter in string.ascii_letters[:30]]
    pq.write_table(pa.table({"t": np.arange(30) / 60.0, "s": words}), path, compression="zstd", use_dictionary=False)
    assert path.stat().st_size < 2**20
    with pytest.raises(AvrinError, match=r"has 30\d MB of texts, more than a recording has"):
        open_trace(path)
    pq.write_table(pa.table({"t": [0.0, 1.0], "s": ["a", "b" * 100_001]}), path)
    with pytest.raises(AvrinError, match=r"column 's': holds a text of 100,001 characters"):
        open_trace(path)


@pytest.mark.parametrize("held", [0, 1 << 30])
def test_a_recording_just_read_is_that_of_its_copy(tmp_path: Path, held: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whether it is in memory, or in a file without a name."""
    monkeypatch.setattr(columnar_cache, "MAX_IN_MEMORY", held)
    path = tmp_path / "a.csv"
    path.write_text("t,a,b\n" + "".join(f"{i},{i * 2},x{i % 3}\n" for i in range(1000)))
    first, again = open_trace(path), open_trace(path)
    assert not first.columns["a"].data.flags.writeable
    for name in ("a", "b"):
        assert first.columns[name].data.tobytes() == again.columns[name].data.tobytes()
        assert first.columns[name].words == again.columns[name].words


@pytest.mark.parametrize(
    ("content", "values"),
    [
        ("t;v;s\n0;1;a\n0.5;2;b\n", [1, 2]),
        ("t\tv\ts\n0\t1\ta\n0.5\t2\tb\n", [1, 2]),
        ("t;v;s\n0,0;1,5;a\n0,5;-2,25;b\n", [1.5, -2.25]),
        ('t;v;s\n0;1;"a;b"\n0.5;2;"c\nd"\n', [1, 2]),
        ('t,v,s\n0,1,"a;b"\n0.5,2,c\n', [1, 2]),
    ],
)
def test_other_separators_and_decimal_commas_are_taken_as_they_are(
    content: str, values: list[float], tmp_path: Path
) -> None:
    path = tmp_path / "a.csv"
    path.write_text(content)
    trace = open_trace(path)
    assert trace.t.tolist() == [0, 0.5]
    assert trace.columns["v"].data.tolist() == values
    assert trace.columns["s"].kind == "text"


@pytest.mark.parametrize(
    ("name", "content", "problem"),
    [
        ("a.csv", "t,v\n0,1\n1,1_000\n2,5\n", "row 2 (line 3), column 'v': '1_000' is not a number"),
        ("a.csv", 't,v\n"0,0","1,5"\n', "'0,0' is not a number. Write a point for the decimal comma, or separate the cells by ;"),
        ("a.csv", 't,v,s\n0,1,a\n1,2,"b\n2,3,c\n', "line 3: a quote is not closed"),
        ("a.jsonl", '{"avrin_log": 1, "types": {"v": "number"}}\n', "has no frames"),
        ("a.jsonl", '{"avrin_log": 1, "frames": "each"}\n{"t": 0, "event": "hit"}\n', "has no frames"),
        ("a.jsonl", '{"t": 0, "event": "hit", "args": {"p": ' + "9" * 400 + "}}\n", "args.p: a whole number"),
    ],
)  # fmt: skip
def test_what_cannot_be_a_recording_is_reported_in_words(name: str, content: str, problem: str, tmp_path: Path) -> None:
    path = tmp_path / name
    path.write_text(content)
    with pytest.raises(AvrinError) as reported:
        open_trace(path)
    assert problem in str(reported.value)


def test_numbers_written_as_texts_in_a_typed_file_are_numbers_where_they_must_be(tmp_path: Path) -> None:
    path = tmp_path / "a.parquet"
    pq.write_table(pa.table({"t": ["0.0", "0.5"], "v": ["1", None], "s": ["1", "x"]}), path)
    trace = open_trace(path, {"v": Variable(name="v", type="float")})
    assert trace.t.tolist() == [0, 0.5]
    assert trace.columns["v"].data[0] == 1
    assert trace.columns["s"].kind == "text"
    with pytest.raises(AvrinError, match="column 's': 'x' is not a number"):
        open_trace(path, {"s": Variable(name="s", type="float")})


def test_an_argument_that_is_now_this_and_now_that_is_a_text(tmp_path: Path) -> None:
    path = tmp_path / "a.jsonl"
    lines = ['{"t": 0, "set": {"v": 1}}']
    lines += [
        f'{{"t": {i}, "event": "hit", "args": {{"p": {value}, "q": 2}}}}'
        for i, value in enumerate(("1.5", '"x"', "true"), 1)
    ]
    path.write_text("\n".join([*lines, '{"t": 4, "set": {}}']))
    trace = open_trace(path)
    assert [event.args for event in trace.events] == [{"p": "1.5", "q": 2}, {"p": "x", "q": 2}, {"p": "true", "q": 2}]
    assert trace.event_kinds == {"hit": {"p": "text", "q": "number"}}
    column = trace.find("hit().p")
    assert column is not None
    assert [column[frame] for frame in (60, 120, 180)] == ["1.5", "x", "true"]


@pytest.mark.parametrize("end", ENDINGS)
def test_what_is_infinite_is_written_as_missing(end: str, tmp_path: Path, caplog: pytest.LogCaptureFixture) -> None:
    path = tmp_path / f"a{end}"
    save_trace(Trace.make("a", [0.0, 1 / 60], {"v": Column("number", np.array([1.0, np.inf]))}), path)
    found = open_trace(path).columns["v"].data
    assert found[0] == 1
    assert np.isnan(found[1])
    assert "infinite values of v" in caplog.text


def test_runs_are_counted_at_restarts_and_said_for_the_next_time(tmp_path: Path) -> None:
    path = tmp_path / "songs.csv"
    path.write_text("Song Pos (ms),combo\n" + "".join(f"{at % 4 * 50},{at}\n" for at in range(12)))
    trace = open_trace(path)
    assert trace.run.tolist() == [1] * 4 + [2] * 4 + [3] * 4
    assert trace.t.tolist() == pytest.approx([0, 0.05, 0.1, 0.15] * 3)
    assert trace.clock is not None
    assert str(trace.clock) == "time is 'Song Pos (ms)' in milliseconds; a run begins wherever it starts over (guessed)"
    assert open_trace(path, clock=Clock("Song Pos (ms)", "ms", run="restarts")).run.tolist() == trace.run.tolist()
    with pytest.raises(AvrinError, match="runs backwards"):
        open_trace(path, clock=Clock("Song Pos (ms)", "ms", run="none"))


@pytest.mark.parametrize(
    ("cells", "kind"),
    [(["0,5", "1", "-2,25"], "number"), (["1,000", "20", "3,500"], "text"), (["1,2", "x", "3"], "text")],
)
def test_a_column_with_decimal_commas_beside_others_with_points(tmp_path: Path, cells: list[str], kind: str) -> None:
    path = tmp_path / "mixed.csv"
    path.write_text("t;a;b;c;d\n" + "".join(f"0.{i};{cell};0.5;1.5;2.5\n" for i, cell in enumerate(cells)))
    assert open_trace(path).columns["a"].kind == kind


def test_a_recording_is_known_by_its_name() -> None:
    names = ["a.csv", "A.CSV", "b.parquet", "c.jsonl", "a.events.jsonl", "A.Events.JSONL", "d.txt", "csv", ".csv.bak"]
    assert [name for name in names if is_recording(name)] == ["a.csv", "A.CSV", "b.parquet", "c.jsonl"]
    assert (ENDINGS_IN_WORDS, FILE_FILTER) == (".csv, .parquet or .jsonl", "Recordings (*.csv *.parquet *.jsonl)")
    for form in FORMATS.values():
        module = import_module(form.module)
        assert callable(module.read)
        assert callable(module.write)
