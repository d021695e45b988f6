"""`new`, `open` and `trace info` with a user's own recordings, as typed."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from avrin.cli import main
from avrin.demo.elsewhere import record_elsewhere
from avrin.storage.files import load
from avrin.trace.store import open_listed


def run(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, str, str]:
    status = main(list(arguments))
    out, err = capsys.readouterr()
    return status, out, err


@pytest.fixture(scope="module")
def dive(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A recording with names of its own, somewhere else."""
    return record_elsewhere(tmp_path_factory.mktemp("elsewhere"))


def test_a_project_is_written_over_a_recording(dive: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "game" / "dive.avrin"
    status, out, err = run(capsys, "new", str(path), "--trace", str(dive), "--first-hud")
    assert (status, err) == (0, "")
    assert out == f"{path}: 17 variables, roster diver of 4, 6 widgets\n"
    project, warnings = load(path)
    assert warnings == []
    assert project.title == "dive"
    listed = project.traces[0]
    assert listed.path == "traces/abyss-run-041.csv"
    assert listed.names["diver1_scrap"] == "diver[0].scrap"
    trace = open_listed(path.parent / listed.path, project.all_variables(), listed)
    assert len(trace.run_starts) == 3
    assert "diver[3].name" in trace.columns
    assert run(capsys, "check", str(path), "--fail-on", "warning")[0] == 0
    again = run(capsys, "new", str(path), "--trace", str(dive))
    assert again == (2, "", f"avrin: {path}: already exists. Choose another name, or open it\n")


def test_recordings_inside_the_folder_stay_where_they_are(
    dive: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    inside = tmp_path / "recorded" / "a.csv"
    inside.parent.mkdir()
    shutil.copy(dive, inside)
    (tmp_path / "recorded" / "a.events.jsonl").write_text('{"t": 3, "event": "hit"}\n')
    (tmp_path / "b").mkdir()
    shutil.copy(dive, tmp_path / "b" / "a.csv")
    other = tmp_path / "p"
    other.mkdir()
    assert run(capsys, "new", str(tmp_path / "x.avrin"), "--trace", str(inside), "--title", "Deep")[0] == 0
    project, _ = load(tmp_path / "x.avrin")
    assert (project.title, [one.path for one in project.traces]) == ("Deep", ["recorded/a.csv"])
    assert not (tmp_path / "traces").exists()
    both = ("--trace", str(inside), "--trace", str(tmp_path / "b/a.csv"))
    assert run(capsys, "new", str(other / "y.avrin"), *both)[0] == 0
    assert [one.path for one in load(other / "y.avrin")[0].traces] == ["traces/recorded-a.csv", "traces/b-a.csv"]
    assert (other / "traces/recorded-a.events.jsonl").exists()


def test_what_is_said_of_the_time_and_the_runs_is_kept(
    dive: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "x.avrin"
    assert (
        run(capsys, "new", str(path), "--trace", str(dive), "--time", "frame_id", "--rate", "20", "--run", "none")[0]
        == 0
    )
    (listed,) = load(path)[0].traces
    assert (listed.time, listed.rate, listed.run) == ("frame_id", 20.0, "none")


REFUSED = [
    (("new", "x.txt"), "x.txt' is not a project file name"),
    (("new", "x.avrin", "--first-hud"), "a first HUD needs a recording"),
    (("new", "x.avrin", "--trace", "gone.csv"), "gone.csv"),
    (("new", "x.avrin", "--trace", "a.csv", "--trace", "a.csv"), "named twice"),
    (("new", "x.avrin", "--trace", "a.txt"), "is not a trace format"),
    (("open", "a.avrin", "b.csv"), "only one project can be opened"),
]


@pytest.mark.parametrize(("arguments", "reported"), REFUSED)
def test_what_cannot_be_is_one_line_and_nothing_is_written(
    arguments: tuple[str, ...],
    reported: str,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.chdir(tmp_path)
    Path("a.csv").write_text("t,hull\n0,1\n1,2\n")
    Path("a.txt").write_text("t,hull\n0,1\n1,2\n")
    status, out, err = run(capsys, *arguments)
    assert (status, out) == (2, "")
    assert reported in err
    assert err.count("\n") == 1
    assert not Path("x.avrin").exists()


def test_without_a_display_what_needs_none_is_named(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert run(capsys) == (
        2,
        "",
        "avrin: cannot open a window: no display found. Run `avrin --help` for commands that need no display\n",
    )
    status, _, err = run(capsys, "open", "game.csv")
    assert status == 2
    assert "new to begin one" in err


def test_trace_info_says_what_was_understood_and_fits_the_terminal(
    dive: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("COLUMNS", "72")
    long = tmp_path / "long.csv"
    life = [1 + at // 50 for at in range(200)]
    rows = [f"{at},{'a very long story ' * 9},{life[at]},{at % 50},{100 - at % 50},{at % 50 // 3}" for at in range(200)]
    long.write_text("time,Some Long Text,life_no,x,hp,n\n" + "\n".join(rows) + "\n")
    status, out, _ = run(capsys, "trace", "info", str(dive))
    assert status == 0
    assert "runs by 'episode'" in out
    assert "roster diver: 4 × name, scrap, from diver1_name … diver4_scrap" in out
    status, out, _ = run(capsys, "trace", "info", str(long))
    assert max(map(len, out.splitlines())) <= 72
    assert "Some Long Text is some_long_text" in out
    assert "--run life_no" in out
    assert "…" in out
