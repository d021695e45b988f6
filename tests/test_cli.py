"""The commands as typed: what they print, write and refuse."""

from __future__ import annotations

import ast
import json
import os
import re
import signal
import subprocess
import sys
import time
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings

import avrin
from avrin.cli import main
from avrin.kinds.registry import KINDS
from avrin.trace.frames import Trace
from avrin.trace.store import open_trace, write_table
from strategies import traces


def run(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, str, str]:
    status = main(list(arguments))
    out, err = capsys.readouterr()
    return status, out, err


def test_eval_agrees_exactly_with_numpy(demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    source = demo.parent / "traces/leaky-dive.csv"
    out = tmp_path / "x.csv"
    assert run(capsys, "eval", "clamp(hull / hull_max, 0, 1)", "--trace", str(source), "--out", str(out)) == (0, "", "")
    found, trace = open_trace(out), open_trace(source)
    expected = np.clip(trace.columns["hull"].data / trace.columns["hull_max"].data, 0, 1)
    assert found.columns["value"].data.tobytes() == expected.tobytes()
    assert found.t.tobytes() == trace.t.tobytes()
    assert out.read_text().splitlines()[0] == "t,value"


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=25)
@given(traces(least=1))
def test_eval_agrees_with_numpy_on_any_trace(tmp_path: Path, capsys: pytest.CaptureFixture[str], trace: Trace) -> None:
    path, out = tmp_path / "t.csv", tmp_path / "x.csv"
    with path.open("wb") as file:
        write_table(
            Trace(
                trace.name,
                trace.t,
                np.ones(len(trace), np.int32) if (np.diff(trace.t) >= 0).all() else trace.run,
                trace.columns,
            ),
            file,
        )
    if any(c.is_missing().all() for c in trace.columns.values()):
        return  # the type of an empty column is unknown
    assert run(capsys, "eval", "clamp(hull / air, 0, 1)", "--trace", str(path), "--out", str(out))[0] == 0
    hull, air = trace.columns["hull"].data, trace.columns["air"].data
    with np.errstate(all="ignore"):
        expected = np.where(air == 0, np.nan, np.clip(hull / air, 0, 1))
    found = [None if not line.split(",")[1] else float(line.split(",")[1]) for line in out.read_text().splitlines()[1:]]
    assert found == [None if np.isnan(x) else x for x in expected.tolist()]


def test_values_print_as_the_design_says(tmp_path: Path, capfdbinary: pytest.CaptureFixture[bytes]) -> None:
    (tmp_path / "t.csv").write_text("t,hull,leak,phase\n0,0.1,true,dive\n0.5,,false,\n1,3,,up\n")
    for rule, lines in [
        ("hull", ["0,0.1", "0.5,", "1,3"]), ("leak", ["0,true", "0.5,false", "1,"]), ("phase", ['0,"dive"', "0.5,", '1,"up"']),
        ("now * 1000000", ["0,0", "0.5,500000", "1,1000000"]),
    ]:  # fmt: skip
        assert main(["eval", rule, "--trace", "t.csv"]) == 0
        assert capfdbinary.readouterr()[0].decode().splitlines() == ["t,value", *lines]


def test_a_project_lends_its_derived_values(demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "x.csv"
    trace = str(demo.parent / "traces/rich-haul.csv")
    assert run(capsys, "eval", "to_go", "--trace", trace, "--project", str(demo), "--out", str(out))[0] == 0
    assert open_trace(out).columns["value"].data.min() == 0.0


def test_track_writes_states_by_frame_and_by_change(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    trace = str(demo.parent / "traces/leaky-dive.csv")
    for every in ("frame", "change"):
        assert (
            run(
                capsys, "track", str(demo), "--trace", trace, "--every", every, "--out", str(tmp_path / f"{every}.csv")
            )[0]
            == 0
        )
    frames, moves = open_trace(tmp_path / "frame.csv"), open_trace(tmp_path / "change.csv")
    assert len(frames) == 18_000 >= len(moves) > 1000
    assert frames.columns["hull_bar.band"].words == ("", "low", "critical")
    assert frames.columns["hull_bar.fraction"].data.min() == 0.0
    assert {"tide.text", "lost.visible", "scrap.shown"} <= set(moves.columns)


def test_trace_info_tells_every_column(demo: Path, capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, "trace", "info", str(demo.parent / "traces/leaky-dive.csv"))
    assert status == 0
    assert (
        out.splitlines()[0]
        == "leaky-dive.csv: 18,000 frames, 299.98 s, 60 a second, runs: 3 (155.38 s, 93.73 s, 50.83 s)"
    )
    row = next(line for line in out.splitlines() if line.startswith("crew[3].scrap"))
    assert row.split()[:2] == ["crew[3].scrap", "int"]
    assert "14.0%" in row


def test_trace_info_tells_the_clock_it_guessed_and_the_events(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "x.csv").write_text("frame_no,try,hull\n0,1,100\n30,1,90\n0,2,100\n60,2,80\n")
    (tmp_path / "x.events.jsonl").write_text('{"t": 0.1, "event": "hit", "args": {"points": 9, "who": "Ona"}}\n')
    status, out, _ = run(capsys, "trace", "info", "x.csv", "--rate", "30")
    assert status == 0
    assert out.splitlines()[0] == "x.csv: 4 frames, 5.00 s, 0.67 a second, runs: 2 (1.00 s, 2.00 s)"
    assert out.splitlines()[1] == "time is 'frame_no' in frames, 30 a second; runs by 'try' (guessed)"
    assert out.splitlines()[-1] == "hit        1  0.10 s  points: number, who: text"


def test_a_trace_goes_through_all_formats_and_stays_what_it_was(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    source = demo.parent / "traces/leaky-dive.csv"
    steps = [str(source), "a.parquet", "b.jsonl", "c.csv"]
    for before, after in pairwise(steps):
        assert run(capsys, "trace", "convert", before, after, "--project", str(demo)) == (0, "", "")
    first, last = open_trace(source), open_trace(tmp_path / "c.csv")
    assert last.t.tolist() == first.t.tolist()
    assert last.events == first.events
    assert len(first.events) > 20
    for name, column in first.columns.items():
        assert [last.columns[name][i] for i in range(0, len(first), 97)] == [
            column[i] for i in range(0, len(first), 97)
        ]


def test_a_made_trace_visits_what_the_project_tells_apart(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    arguments = ["trace", "make", str(demo), "--out", "made.parquet", "--parts", "steps", "--seconds", "1"]
    assert run(capsys, *arguments) == (0, "", "")
    made = open_trace(tmp_path / "made.parquet")
    hull = made.columns["hull"].data
    for edge in (10.0, 25.0):  # a tenth and a quarter of the hull as it is at the start
        assert {edge} <= set(hull.round(6).tolist())
    assert (np.diff(np.unique(hull)) < 0.3).sum() >= 4
    assert run(capsys, "track", str(demo), "--trace", "made.parquet", "--out", "states.jsonl")[0] == 0
    bands = open_trace(tmp_path / "states.jsonl").columns["hull_bar.band"]
    assert {"", "low", "critical"} == {bands.words[code] for code in set(bands.data.tolist())}


def test_events_are_known_to_rules_on_the_command_line(demo: Path, capsys: pytest.CaptureFixture[str]) -> None:
    trace = str(demo.parent / "traces/leaky-dive.csv")
    status, out, _ = run(capsys, "eval", 'events("rock")', "--trace", trace)
    assert status == 0
    assert out.splitlines()[-1].split(",")[1] == "3"
    status, _, err = run(capsys, "eval", 'event("rok")', "--trace", trace)
    assert status == 2
    assert 'no event "rok": did you mean "rock"?' in err


def test_schema_is_json_and_knows_the_kinds(capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, "schema")
    assert status == 0
    parts = json.loads(out)["$defs"]
    assert parts["Widget"]["properties"]["kind"]["enum"] == list(KINDS)
    assert "extra" not in parts["Widget"]["properties"]


def faulty(demo: Path, tmp_path: Path, old: str, new: str) -> str:
    path = tmp_path / "p.avrin"
    path.write_text(demo.read_text().replace(old, new, 1))
    return str(path)


FAULTS = [
    (["eval", "hul", "--trace", "T"], "rule, column 1: no variable `hul`: did you mean `hull`?"),
    (["eval", "", "--trace", "T"], "the rule is empty"),
    (["eval", "hull / 0", "--trace", "T"], "rule, column 8: this divides by zero"),
    (["eval", "(" * 5000, "--trace", "T"], "4,000 characters"),
    (["eval", "x" * 10_000, "--trace", "T"], "4,000 characters"),
    (["eval", "hull", "--trace", "none.csv"], "none.csv: cannot be read"),
    (["eval", "hull", "--trace", "T", "--out", "x.txt"], "'.txt' is not a trace format"),
    (["eval", "hull", "--trace", "T", "--out", "no/such/x.csv"], "cannot be written"),
    (["track", "T", "--trace", "T"], "leaky-dive.csv, line 1, column 1: is not JSON"),
    (
        ["frame", "P", "--trace", "T", "--at", "9999", "--out", "f.png"],
        "is outside the recording, which ends at 299.98",
    ),
    (["frame", "P", "--trace", "T", "--at", "1", "--screen", "hanheld", "--out", "f.png"], "did you mean 'handheld'?"),
    (["frame", "P", "--trace", "T", "--at", "1", "--screen", "9x9", "--out", "f.png"], "neither a size nor a screen"),
    (["frame", "P", "--trace", "T", "--at", "1", "--plate", "wrek", "--out", "f.png"], "did you mean 'wreck'?"),
    (["trace", "info", "P"], "'.avrin' is not a trace format"),
    (["open", "none.avrin"], "none.avrin: cannot be read"),
]


@pytest.mark.parametrize(("arguments", "words"), FAULTS, ids=lambda v: " ".join(v)[:40] if isinstance(v, list) else "")
def test_faults_are_one_line_and_status_two(
    demo: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], arguments: list[str], words: str
) -> None:
    monkeypatch.delenv("QT_QPA_PLATFORM")
    known = {"T": str(demo.parent / "traces/leaky-dive.csv"), "P": str(demo)}
    status, _, err = run(capsys, *(known.get(part, part) for part in arguments))
    assert status == 2
    assert words in err
    assert err.startswith("avrin: ")
    assert err.count("\n") == 1


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        (
            '"kind": "bar"',
            '"kind": "bars"',
            "p.avrin, widget 'hull_bar', kind: unknown kind 'bars': did you mean 'bar'?",
        ),
        ('"value": "hull"', '"value": "hul"', "p.avrin, widget 'hull_bar', input 'value', column 1: no variable `hul`"),
        ("max(quota - scrap, 0)", "to_go + 1", "derived value 'to_go', column 1: the derived value needs itself"),
        ("plates/shelf.svg", "../../shelf.svg", "leaves the project's folder"),
        (
            '"type": "float"',
            '"type": 3',
            "variable 'hull', type: expected one of bool, float, int, text, got a whole number",
        ),
        ("avrin/1", "avrin/9", "written by a newer Avrin"),
    ],
)
def test_faulty_projects_are_reported_with_their_place(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], old: str, new: str, words: str
) -> None:
    path = faulty(demo, tmp_path, old, new)
    status, _, err = run(capsys, "track", path, "--trace", str(demo.parent / "traces/calm-dive.csv"))
    assert status == 2
    assert words in err
    assert err.count("\n") == 1


def test_usage_errors_are_one_line_too() -> None:
    done = subprocess.run([sys.executable, "-m", "avrin", "eval"], capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "--help" in done.stderr


def test_the_core_runs_where_qt_cannot_be_imported(demo: Path, tmp_path: Path) -> None:
    code = (
        "import sys; sys.modules['PySide6'] = None\n"
        "from avrin.cli import main\n"
        f"sys.exit(main(['track', {str(demo)!r}, '--trace', {str(demo.parent / 'traces/calm-dive.csv')!r}, '--out', 'x.csv']))"
    )
    done = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, env=os.environ, capture_output=True, check=False)
    assert done.returncode == 0, done.stderr


def test_several_moments_in_one_call_are_a_picture_each(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    base = ["frame", str(demo), "--trace", str(demo.parent / "traces/calm-dive.csv"), "--screen", "160x90"]
    assert run(capsys, *base, "--at", "0,12.5,60", "--out", "f.svg") == (0, "", "")
    assert sorted(p.name for p in tmp_path.glob("f*.svg")) == ["f-00000.000.svg", "f-00012.500.svg", "f-00060.000.svg"]
    assert 'width="160" height="90"' in (tmp_path / "f-00000.000.svg").read_text()
    assert run(capsys, *base, "--moments", "--out", "m.svg")[0] == 0
    assert len(list(tmp_path.glob("m-*.svg"))) > 5
    for wrong, words in ((["--at", "soon"], "'soon' is not a number of seconds"), ([], "is empty")):
        status, _, err = run(capsys, *base, *wrong, "--out", "f.svg")
        assert status == 2
        assert words in err


def started(*arguments: str, **more: object) -> subprocess.Popen[bytes]:
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    return subprocess.Popen(  # type: ignore[call-overload,no-any-return]
        [sys.executable, "-m", "avrin", *arguments], stderr=subprocess.PIPE, env=environment, **more
    )


def test_an_interrupt_is_one_line_and_status_2(demo: Path, tmp_path: Path) -> None:
    arguments = ["frame", str(demo), "--trace", str(demo.parent / "traces/calm-dive.csv"), "--moments"]
    with started(*arguments, "--out", str(tmp_path / "m.svg")) as process:
        assert process.stderr is not None
        while not list(tmp_path.glob("m-*.svg")):  # one picture is written: it is in the middle of its work
            assert process.poll() is None
            time.sleep(0.005)
        process.send_signal(signal.SIGINT)
        said = process.stderr.read()
    assert (process.returncode, said) == (2, b"avrin: stopped\n")


@pytest.mark.parametrize("command", ["schema", "check"])
def test_a_full_disk_under_standard_output_is_one_line(command: str, brief: Path) -> None:
    arguments = [command] if command == "schema" else [command, str(brief)]
    with Path("/dev/full").open("wb") as full, started(*arguments, stdout=full) as process:
        assert process.stderr is not None
        said = process.stderr.read().replace(b"\r", b"\n").splitlines()
    assert process.returncode == 2
    assert said[-1] == b"avrin: standard output cannot be written (no space left on device)"


def test_closed_standard_output_is_no_fault() -> None:
    closed = ["sh", "-c", f"'{sys.executable}' -m avrin schema >&-"]
    done = subprocess.run(closed, capture_output=True, check=False)
    assert (done.returncode, done.stderr) == (0, b"")


def test_findings_tell_two_recordings_of_one_file_name_apart(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for folder, part in (("calm", "calm-dive"), ("rough", "leaky-dive")):
        (tmp_path / folder).mkdir()
        for end in (".csv", ".events.jsonl"):
            content = (demo.parent / f"traces/{part}{end}").read_bytes()
            (tmp_path / folder / f"dive{end}").write_bytes(content)
    calm, rough = (str(tmp_path / folder / "dive.csv") for folder in ("calm", "rough"))
    _, out, _ = run(capsys, "check", str(demo), "--trace", calm, "--trace", rough, "--format", "json")
    told = {finding["trace"] for finding in json.loads(out) if finding.get("trace")}
    assert "rough/dive.csv" in told
    assert told <= {"calm/dive.csv", "rough/dive.csv"}


COMMANDS = [
    "", "demo", "open", "new", "eval", "track", "frame", "check", "ladder", "screens", "diff", "merge", "tune", "sweep",
    "texts extract", "texts update", "texts check", "trace info", "trace convert", "trace cut", "trace make", "schema",
]  # fmt: skip


@pytest.mark.parametrize("command", COMMANDS)
def test_every_command_tells_how_it_is_used(command: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as ended:
        main([*command.split(), "--help"])
    assert ended.value.code == 0
    told = capsys.readouterr().out
    assert told.startswith(f"usage: avrin {command}".rstrip())
    assert "--verbose" in told


def test_no_command_is_left_out_above(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        main(["--help"])
    listed = re.findall(r"^    ([a-z]+) ", capsys.readouterr().out, re.MULTILINE)
    assert listed == list(dict.fromkeys(name.split()[0] for name in COMMANDS if name))


def test_a_command_waits_for_nothing_that_it_does_not_need() -> None:
    done = subprocess.run(
        [
            sys.executable, "-c",
            "import sys\nfrom avrin.cli import main\nprint(main(['open', 'nowhere.csv']))\n"
            "print(sorted({'numpy', 'logging.handlers', 'avrin.commands.check', 'avrin.commands.many'} & {*sys.modules}))",
        ],
        capture_output=True, text=True, check=True, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert done.stdout == "2\n[]\n"
    assert "nowhere.csv" in done.stderr


def test_nothing_that_a_window_can_show_names_an_option_of_a_command() -> None:
    """Advice for the command line is an error's `command`; all else may be read in the window."""
    source = Path(avrin.__file__).parent
    found = []
    option = re.compile(r"(^|[\s'\"`(])--[a-z]", re.MULTILINE)
    for path in sorted(source.rglob("*.py")):
        text = path.read_text(encoding="utf-8")
        if path.relative_to(source).parts[0] in ("commands", "cli.py", "__main__.py") or not option.search(text):
            continue
        tree = ast.parse(text)
        commands = {
            id(part) for call in ast.walk(tree) if isinstance(call, ast.keyword) and call.arg == "command"
            for part in ast.walk(call)
        }  # fmt: skip
        docstrings = {
            id(node.body[0].value) for node in ast.walk(tree)
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef) and isinstance(node.body[0], ast.Expr)
        }  # fmt: skip
        found += [
            f"{path.name}: {node.value}" for node in ast.walk(tree)
            if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in commands | docstrings
            and option.search(node.value) and " " in node.value
        ]  # fmt: skip
    assert found == []
