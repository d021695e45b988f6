"""Other commands over many recordings: the same as over those recordings named one by one, with any executor."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from schedulers import Scheduler, cluster  # noqa: F401

from avrin.cli import main
from avrin.project.project import Band, Outcome, Project, Recording, Variable, Widget
from avrin.storage.files import save
from avrin.trace.frames import Column, Trace
from avrin.trace.store import save_trace

BAR = Widget(
    id="bar", kind="bar", inputs={"value": "hull", "full": "100"},
    bands=(Band(name="critical", below="10%"), Band(name="low", below="50%")),
)  # fmt: skip
PROMPT = Widget(id="seal", kind="prompt", inputs={"text": "Seal", "when": "hull < 40", "until": "hull > 80"})
PROJECT = Project(
    variables=(Variable(name="hull", type="float"),), widgets=(BAR, PROMPT),
    outcomes=(Outcome(name="lost", rule="hull <= 0"),),
)  # fmt: skip
OTHER = replace(BAR, bands=(Band(name="critical", below="10%"), Band(name="low", below="60%")))
COMMANDS = {
    "check": ["check", "p.avrin", "--fail-on", "never", "--format", "json", "--out", "{out}.json"],
    "ladder": ["ladder", "p.avrin", "--coverage", "--out", "{out}.csv"],
    "tune": ["tune", "p.avrin", "--widget", "bar", "--band", "low", "--before", "lost", "--out", "{out}.csv"],
    "prompt": ["tune", "p.avrin", "--widget", "seal", "--out", "{out}.csv"],
    "diff": ["diff", "p.avrin", "q.avrin", "--format", "json", "--out", "{out}.json"],
}
KNOWN = {"diff": 1}  # they do differ


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    dice = np.random.default_rng(4)
    for number in range(7):
        hull = np.round(60 + 70 * np.sin(np.arange(300) / (9 + number)) + dice.normal(0, 3, 300), 2)
        trace = Trace.make("r", np.arange(300) / 10, {"hull": Column("number", hull)})
        (tmp_path / "in").mkdir(exist_ok=True)
        save_trace(trace, tmp_path / f"in/play{number}.csv")
    names = [f"in/play{number}.csv" for number in range(7)]
    save(replace(PROJECT, traces=tuple(Recording(path=name) for name in names)), tmp_path / "p.avrin")
    save(replace(PROJECT, widgets=(OTHER, PROMPT)), tmp_path / "q.avrin")
    return tmp_path / "in"


def reported(name: str, out: str, *more: str) -> tuple[int, str]:
    arguments = [one.replace("{out}", out) for one in COMMANDS[name]]
    status = main([*arguments, *more])
    return status, Path(arguments[-1]).read_text()


@pytest.mark.parametrize("name", COMMANDS)
def test_a_folder_is_its_recordings_whoever_works(name: str, folder: Path) -> None:
    """Called by their files in the one, by what the project lists in the other: otherwise the same."""
    named = [part for file in sorted(folder.iterdir()) for part in ("--trace", str(file))]
    status, one_by_one = reported(name, "named", *named, "--jobs", "1")
    assert status == KNOWN.get(name, 0)
    for jobs in ("1", "2"):
        made = reported(name, f"many{jobs}", "--recordings", str(folder), "--jobs", jobs)
        assert (made[0], made[1].replace(".csv", "")) == (status, one_by_one.replace(".csv", ""))
    assert len(one_by_one.splitlines()) > 3


def test_a_scheduler_elsewhere_tells_the_same(folder: Path, cluster: Scheduler) -> None:
    with cluster.working(1) as address:
        for name in ("tune", "diff", "ladder"):
            here = reported(name, "here", "--recordings", str(folder), "--jobs", "1")
            assert reported(name, "far", "--recordings", str(folder), "--on", address) == here


@pytest.mark.parametrize("name", COMMANDS)
def test_what_cannot_be_read_is_left_out_and_reported(
    name: str, folder: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    whole = reported(name, "whole", "--recordings", str(folder), "--jobs", "1")[1]
    (folder / "torn.csv").write_text("t,hull\n0,\n\x00")
    capsys.readouterr()
    assert reported(name, "rest", "--recordings", str(folder), "--jobs", "1") == (2, whole)
    lines = capsys.readouterr().err.splitlines()
    assert len(lines) == 1
    assert lines[0].startswith("avrin: skipped torn.csv: ")
    assert (
        main([*COMMANDS[name][:-1], "x.csv" if name != "check" else "x.json", "--trace", str(folder / "torn.csv")]) == 2
    )


@pytest.mark.parametrize(
    ("arguments", "why"),
    [
        (["check", "p.avrin", "--trace", "in/play0.csv", "--recordings", "in"], "do not go together"),
        (["ladder", "p.avrin", "--recordings", "in", "--out", "l.csv"], "--recordings goes with --coverage"),
        (["tune", "p.avrin", "--widget", "bar", "--band", "low", "--out", "t.csv"], "--band and --before go together"),
        (["diff", "p.avrin", "q.avrin", "--recordings", "nowhere"], "nowhere: cannot be read"),
    ],
)
def test_what_cannot_be_asked_is_one_line(
    arguments: list[str], why: str, folder: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert folder.is_dir()
    assert main(arguments) == 2
    (line,) = capsys.readouterr().err.splitlines()
    assert why in line
