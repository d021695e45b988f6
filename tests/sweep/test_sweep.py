"""Sweeps: the same bytes with any executor; only changed recordings are processed; faults are reported and stop nothing."""

from __future__ import annotations

import os
import shutil
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from msgspec.structs import replace
from schedulers import Scheduler, cluster  # noqa: F401

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.errors import AvrinError
from avrin.execution.retries import ENDED
from avrin.execution.task import as_listed
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import Band, Project, Recording, Variable, Widget
from avrin.storage.files import load, save
from avrin.sweep.results import FAULTS, FINDINGS, outputs
from avrin.sweep.sweeping import Progress, Summary, Wanted, sweep
from avrin.trace.frames import Column, Event, Trace
from avrin.trace.store import open_trace, save_trace

BAR = Widget(
    id="bar", kind="bar", inputs={"value": "hull", "full": "100"},
    bands=(Band(name="critical", below="10%"), Band(name="low", below="50%")),
)  # fmt: skip
PROJECT = Project(variables=(Variable(name="hull", type="float"),), widgets=(BAR,))


def record(path: Path, *hull: float, events: tuple[Event, ...] = ()) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    trace = Trace.make("r", np.arange(len(hull)) / 10, {"hull": Column.of([*hull])}, events=events)
    save_trace(trace, path)


def play(folder: Path, count: int = 9) -> Path:
    """Recordings of three formats in folders, each otherwise than the others."""
    for number in range(count):
        name = f"day{number // 4}/play{number}{('.parquet', '.csv', '.jsonl')[number % 3]}"
        record(folder / name, *(90 - 7.0 * ((frame * (number + 3)) % 13) for frame in range(40)))
    return folder


def swept(folder: Path, out: Path, project: Project = PROJECT, **more: Any) -> Summary:
    return sweep(project, out.parent, Wanted((str(folder),), out, {}, **more))


def reported(out: Path) -> tuple[bytes, ...]:
    return tuple(item.read_bytes() for item in (out, *outputs(out)))


def rows(path: Path) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = pq.read_table(path).to_pylist()
    return found


@pytest.fixture(scope="module")
def dives(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's project with parts of its dives, some that cannot be read, and one of another format."""
    folder = tmp_path_factory.mktemp("dives")
    path = shutil.copytree(demo.parent, folder / "demo") / demo.name
    project, _ = load(path)
    for number in range(6):
        trace = open_trace(path.parent / project.traces[number % 3].path, project.all_variables())
        part = slice(number * 700, number * 700 + 500)
        columns = {name: replace(column, data=column.data[part]) for name, column in trace.columns.items()}
        made = Trace.make("d", trace.t[part], columns, trace.run[part].tolist())
        end = (".parquet", ".csv")[number % 2]
        (folder / "in/more").mkdir(parents=True, exist_ok=True)
        save_trace(made, folder / "in" / ("more" if number > 3 else "") / f"dive{number}{end}")
    (folder / "in/empty.csv").write_text("")
    (folder / "in/torn.parquet").write_bytes(b"PAR1 and no more")
    os.mkfifo(folder / "in/pipe.csv")
    (folder / "in/gone.csv").symlink_to("/nowhere")
    (folder / "in/zero.csv").symlink_to("/dev/zero")
    return path


@pytest.mark.long
def test_a_loop_processes_and_a_scheduler_that_loses_a_worker_give_the_same_bytes(
    dives: Path, tmp_path: Path, cluster: Scheduler
) -> None:
    folder = str(dives.parents[1] / "in")
    ways: dict[str, list[str]] = {"loop": ["--jobs", "1"], "two": ["--jobs", "2"]}
    found = {}
    for name, way in ways.items():
        assert main(["sweep", str(dives), "--recordings", folder, "--out", f"{name}.parquet", *way]) == 1
        found[name] = reported(tmp_path / f"{name}.parquet")
    project, _ = load(dives)
    with cluster.working(2) as address:
        killed: list[int] = []

        def kill_one(now: Progress) -> None:
            if now.done >= 2 and not killed:
                killed.append(now.done)
                cluster.workers[0].kill()

        wanted = Wanted((folder,), tmp_path / "far.parquet", {}, on=address)
        done = sweep(project, dives.parent, wanted, kill_one)
    assert killed
    assert done.faults == 5
    found["far"] = reported(tmp_path / "far.parquet")
    assert found["two"] == found["loop"]
    assert found["far"] == found["loop"]
    faults = {row["recording"]: row["why"] for row in rows(tmp_path / "far.faults.parquet")}
    assert list(faults) == ["empty.csv", "gone.csv", "pipe.csv", "torn.parquet", "zero.csv"]
    for name, why in (("pipe", "is a pipe"), ("zero", "is a device"), ("empty", "is empty"), ("gone", "no such file")):
        assert why in faults[f"{name}.csv"]
    assert len({row["recording"] for row in rows(tmp_path / "far.parquet")}) == 6


def test_findings_are_those_of_each_recording_and_what_all_share_is_reported_once(dives: Path, tmp_path: Path) -> None:
    assert (
        main(["sweep", str(dives), "--recordings", str(dives.parents[1] / "in"), "--out", "F.parquet", "--jobs", "1"])
        == 1
    )
    found = rows(tmp_path / "F.findings.parquet")
    assert pq.read_schema(tmp_path / "F.findings.parquet").equals(FINDINGS)
    project, _ = load(dives)
    bound = bind(project, folder=dives.parent)
    everywhere = {check.code for check in CHECKS if check.everywhere}
    each: dict[str, list[Any]] = {}
    for file in sorted((dives.parents[1] / "in").glob("**/dive*")):
        trace = open_trace(file, project.all_variables(), name=file.relative_to(dives.parents[1] / "in").as_posix())
        each[trace.name] = Inspector(CHECKS).inspect(bound, [Tracks(bound, trace)])
    own = [
        (name, item.code, item.why) for name, findings in each.items() for item in findings
        if item.trace and item.code not in everywhere
    ]  # fmt: skip
    assert [(row["recording"], row["code"], row["sentence"]) for row in found if row["recording"]] == sorted(
        own, key=lambda item: item[0]
    )
    shared = {(row["code"], row["widget"]) for row in found if not row["recording"]}
    keys = [{(item.code, item.widget) for item in findings if item.code in everywhere} for findings in each.values()]
    assert {item for item in shared if item[0] in everywhere} == set.intersection(*keys)
    assert shared


def test_going_on_looks_only_at_what_is_new_or_changed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder, out = play(tmp_path / "in"), tmp_path / "F.parquet"
    assert swept(folder, out) == Summary(9, 0, 9)
    first = reported(out)

    def nobody(*_: object) -> None:
        raise AssertionError("no work expected")

    with monkeypatch.context() as patch:
        patch.setattr("avrin.sweep.sweeping.executor", nobody)
        assert swept(folder, out, resume=True) == Summary(9, 0, 0)
        (folder / "day0/play1.csv").touch()  # rewritten with the same content
        shutil.copy(folder / "day0/play2.jsonl", tmp_path / "copy")
        (tmp_path / "copy").replace(folder / "day0/play2.jsonl")
        assert swept(folder, out, resume=True) == Summary(9, 0, 0)
        assert reported(out) == first
        (folder / "day2/play8.jsonl").unlink()
        assert swept(folder, out, resume=True) == Summary(8, 0, 0)
        assert {row["recording"] for row in rows(out)} == {f"day{i // 4}/play{i}{e}" for i, e in enumerate(
            (".parquet", ".csv", ".jsonl") * 2 + (".parquet", ".csv"))}  # fmt: skip
    record(folder / "day0/play1.csv", 1.0, 2.0)
    record(folder / "day0/new.csv", 60.0, 2.0)
    assert swept(folder, out, resume=True) == Summary(9, 0, 2)
    assert swept(folder, tmp_path / "whole.parquet") == Summary(9, 0, 9)
    assert reported(out) == reported(tmp_path / "whole.parquet")


@pytest.mark.parametrize("change", ["project", "clock", "findings", "beside", "unsaid"])
def test_all_is_looked_at_anew_where_anything_else_is_otherwise(tmp_path: Path, change: str) -> None:
    folder, out = play(tmp_path / "in", 3), tmp_path / "F.parquet"
    swept(folder, out)
    project, listed, more, anew = PROJECT, dict[str, Recording](), dict[str, Any](resume=True), 3
    if change == "project":
        project = replace(PROJECT, widgets=(replace(BAR, bands=(Band(name="low", below="30%"),)),))
    elif change == "clock":
        listed = {"": Recording(path="", time="t", unit="ms")}
    elif change == "findings":
        more["findings"] = False
    elif change == "beside":
        (folder / "day0/play1.events.jsonl").write_text('{"t": 0.2, "event": "gong"}\n')
        anew = 1
    else:
        more = {}
    assert sweep(project, tmp_path, Wanted((str(folder),), out, listed, **more)).anew == anew


def test_what_was_begun_is_gone_on_with(tmp_path: Path) -> None:
    folder, out = play(tmp_path / "in"), tmp_path / "F.parquet"

    def stop(now: Progress) -> None:
        if now.done == 4:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        sweep(PROJECT, tmp_path, Wanted((str(folder),), out, {}), stop)
    assert not out.exists()
    assert swept(folder, out, resume=True).anew == 5
    swept(folder, tmp_path / "whole.parquet")
    assert reported(out) == reported(tmp_path / "whole.parquet")


def test_a_recording_that_ends_the_program_is_left_out_the_third_time(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder, out = play(tmp_path / "in"), tmp_path / "F.parquet"

    class Ended(BaseException):
        pass

    def read(given: Any, place: Any, path: Path) -> Trace:
        from avrin.execution.task import read as known

        if place.name.endswith("play5.jsonl"):
            raise Ended
        return known(given, place, path)

    monkeypatch.setattr("avrin.sweep.processing.read", read)
    for _ in range(2):
        with pytest.raises(Ended):
            swept(folder, out, resume=True)
    assert swept(folder, out, resume=True).faults == 1
    assert rows(tmp_path / "F.faults.parquet") == [{"recording": "day1/play5.jsonl", "why": ENDED}]
    assert len({row["recording"] for row in rows(out)}) == 8


def test_a_recording_that_ends_the_processes_that_read_it_is_left_out(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Kill any process that reads the file of this name; workers inherit this."""
    monkeypatch.setenv("AVRIN_TEST_DEADLY", "play4.csv")
    folder, out = play(tmp_path / "in"), tmp_path / "F.parquet"
    site = tmp_path / "site"
    site.mkdir()
    (site / "sitecustomize.py").write_text(DEADLY)
    monkeypatch.setenv("PYTHONPATH", f"{site}{os.pathsep}{os.environ.get('PYTHONPATH', '')}")
    done = swept(folder, out, jobs=2)
    assert (done.recordings, done.faults) == (9, 1)
    assert [row["recording"] for row in rows(tmp_path / "F.faults.parquet")] == ["day1/play4.csv"]
    assert len({row["recording"] for row in rows(out)}) == 8


DEADLY = """
import os, signal, sys
def deadly(event, args):
    if event == "open" and os.environ.get("AVRIN_TEST_DEADLY", "-") in str(args[0]) and "avrin.sweep" in sys.modules:
        os.kill(os.getpid(), signal.SIGKILL)
sys.addaudithook(deadly)
"""


def test_what_happens_in_one_recording_is_known_to_rules_over_all(tmp_path: Path) -> None:
    bell = Widget(id="bell", kind="label", inputs={"text": "Gong", "visible": 'events("gong") > 0'})
    project = replace(PROJECT, widgets=(BAR, bell))
    folder, out = play(tmp_path / "in", 5), tmp_path / "F.parquet"
    record(folder / "last.csv", 50.0, 60.0, 70.0, events=(Event(0.1, "gong", {}),))
    assert swept(folder, out, project).anew == 6
    codes = {row["code"] for row in rows(outputs(out)[0])}
    assert "unknown-name" not in codes
    shown = [row["recording"] for row in rows(out) if row["widget"] == "bell" and row["state"] == ""]
    assert shown == ["last.csv"]
    assert swept(folder, out, project, resume=True).anew == 0
    record(folder / "other.csv", 50.0, 60.0, 70.0)
    assert swept(folder, out, project, resume=True).anew == 1
    record(folder / "third.csv", 50.0, 60.0, events=(Event(0.1, "bell", {}),))
    assert swept(folder, out, project, resume=True).anew == 8, "something else happens now, which rules may name"
    (folder / "last.csv").unlink()
    (folder / "last.events.jsonl").unlink()
    swept(folder, out, project, resume=True)
    assert "unknown-name" in {row["code"] for row in rows(outputs(out)[0])}


def test_what_lies_where_it_is_to_be_written_is_not_lost(tmp_path: Path) -> None:
    folder = play(tmp_path / "in", 3)
    before = (folder / "day0/play0.parquet").read_bytes()
    with pytest.raises(AvrinError, match="was not written by a sweep and would be overwritten"):
        swept(folder, folder / "day0/play0.parquet")
    assert (folder / "day0/play0.parquet").read_bytes() == before
    out = tmp_path / "F.parquet"
    pq.write_table(pa.table({"a": [1]}), outputs(out)[1])
    with pytest.raises(AvrinError, match=r"F\.faults\.parquet: was not written by a sweep"):
        swept(folder, out)
    parts = tmp_path / "G.parquet.parts"
    parts.mkdir()
    (parts / "letter.txt").write_text("mine")
    (parts / "00000001.part").write_text("mine, too")
    swept(folder, tmp_path / "G.parquet")
    assert {item.read_text() for item in (parts / "letter.txt", parts / "00000001.part")} == {"mine", "mine, too"}


def test_a_part_that_is_cut_off_is_looked_at_anew(tmp_path: Path) -> None:
    folder, out = play(tmp_path / "in", 4), tmp_path / "F.parquet"
    swept(folder, out)
    first = reported(out)
    part = min((tmp_path / "F.parquet.parts").glob("*.part"))
    part.write_bytes(part.read_bytes()[:-20])
    assert swept(folder, out, resume=True).anew == 1
    assert reported(out) == first


def test_tables_may_lie_among_the_recordings(tmp_path: Path) -> None:
    folder = play(tmp_path / "in", 3)
    for _ in range(2):
        assert swept(folder, folder / "F.parquet") == Summary(3, 0, 3)
    assert pq.read_schema(folder / "F.faults.parquet").equals(FAULTS)


def test_a_disk_that_is_full_is_reported_in_a_line_and_what_is_done_is_kept(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    folder = play(tmp_path / "in")
    save(PROJECT, tmp_path / "p.avrin")
    from avrin.storage.atomic import atomic_write as known

    count = [0]

    def write(path: Path, data: bytes, **more: Any) -> None:
        count[0] += 1
        if count[0] > 4:
            raise OSError(28, "No space left on device", str(path))
        known(path, data, **more)

    with monkeypatch.context() as patch:
        patch.setattr("avrin.sweep.parts.atomic_write", write)
        patch.setattr("avrin.cli._write_no_more", lambda: None)  # standard output is the test's own
        arguments = ["sweep", "p.avrin", "--recordings", str(folder), "--out", "F.parquet", "--jobs", "1"]
        assert main(arguments) == 2
    told_of = capsys.readouterr().err.splitlines()
    assert len(told_of) == 1
    assert "cannot be written (no space left on device)" in told_of[0]
    assert main([*arguments, "--resume"]) == 0
    assert "9 recordings, 5 of them processed now, 0 unreadable" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("arguments", "why"),
    [
        (["--out", "F.csv"], "--out 'F.csv' is not a table of states"),
        (["--out", "F.parquet", "--on", "tcp://nobody.invalid:1"], "does not answer"),
        (["--out", "F.parquet", "--recordings", "nowhere"], "nowhere: cannot be read"),
        (["--out", "nowhere/F.parquet"], ""),
    ],
)
def test_what_cannot_be_is_one_line(
    tmp_path: Path, arguments: list[str], why: str, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("avrin.execution.cluster.PATIENCE", 1.0)
    folder = play(tmp_path / "in", 2)
    save(PROJECT, tmp_path / "p.avrin")
    status = main(["sweep", "p.avrin", "--recordings", str(folder), *arguments])
    err = capsys.readouterr().err.splitlines()
    if why:
        assert status == 2
        assert len(err) == 1
        assert why in err[0]
    else:
        assert (status, err) == (0, []), "folders that are missing are made"


def test_progress_has_the_time_that_is_left(tmp_path: Path) -> None:
    seen: list[Progress] = []
    sweep(PROJECT, tmp_path, Wanted((str(play(tmp_path / "in")),), tmp_path / "F.parquet", {}), seen.append)
    assert [item.done for item in seen] == list(range(1, 10))
    assert {item.of for item in seen} == {9}
    assert seen[-1].seconds_left == 0
    assert all(item.seconds_left is not None and item.seconds_left >= 0 for item in seen)


def test_recordings_a_project_lists_are_reported_the_time_by_as_it_says(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    for name in ("a", "b"):
        (tmp_path / f"in/{name}.csv").write_text("stamp,hull\n0,80\n1000,80\n2000,80\n")
    project = replace(PROJECT, traces=(Recording(path="in/a.csv", time="stamp", unit="ms"),))
    save(project, tmp_path / "p.avrin")
    assert (
        main(
            [
                "sweep",
                "p.avrin",
                "--recordings",
                "in",
                "--time",
                "stamp",
                "--unit",
                "s",
                "--out",
                "F.parquet",
                "--jobs",
                "1",
            ]
        )
        == 0
    )
    assert {row["recording"]: row["seconds"] for row in rows(tmp_path / "F.parquet")} == {"a.csv": 3000, "b.csv": 3000}
    wanted = Wanted((str(tmp_path / "in"),), tmp_path / "G.parquet", {
        str(tmp_path / "in/a.csv"): project.traces[0], "": Recording(path="", time="stamp", unit="s")})  # fmt: skip
    sweep(project, tmp_path, wanted)
    assert {row["recording"]: row["seconds"] for row in rows(tmp_path / "G.parquet")} == {"a.csv": 3, "b.csv": 3000}


def test_other_recordings_are_read_as_all_of_the_projects_own_are(tmp_path: Path) -> None:
    """From another game: its time has its own name and unit, its columns are called otherwise."""
    (tmp_path / "in").mkdir()
    for name in ("a", "b", "c"):
        (tmp_path / f"in/{name}.csv").write_text("Zeit,Hull-%\n0,80\n1000,5\n3000,80\n")
    own = Recording(path="in/a.csv", time="Zeit", unit="ms", names={"Hull-%": "hull"})
    wanted = Wanted((str(tmp_path / "in"),), tmp_path / "F.parquet", {})
    sweep(replace(PROJECT, traces=(own,)), tmp_path, wanted)
    found = [(row["recording"], row["state"], row["seconds"]) for row in rows(tmp_path / "F.parquet")]
    assert found == [(f"{n}.csv", state, s) for n in "abc" for state, s in (("", 3), ("critical", 2))]
    other = Recording(path="in/b.csv", time="Zeit", unit="s", names={"Hull-%": "hull"})
    assert as_listed(replace(PROJECT, traces=(own, other))) == Recording(path="recording", names={"Hull-%": "hull"})
    third = Recording(path="in/c.csv", time="Zeit", unit="ms", names={"Hull-%": "air", "x": "y"})
    assert as_listed(replace(PROJECT, traces=(own, third))) == Recording(
        path="recording", time="Zeit", unit="ms", names={"x": "y"}
    )
