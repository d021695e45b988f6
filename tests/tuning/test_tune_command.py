"""`avrin tune`: the table is the engine's, to the last digit; what cannot be asked is one line."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.project.project import Band, Project, Recording, Variable, Widget
from avrin.storage.files import save
from avrin.trace.frames import Column, Trace
from avrin.trace.store import open_trace, save_trace
from avrin.tuning.curves import COLUMNS, curves
from avrin.tuning.signals import asked, signals
from avrin.tuning.values import stepped

HULL = [100.0, 60.0, 45.0, 30.0, 10.0, 0.0, 0.0, 100.0, 40.0, 80.0]


@pytest.fixture
def project(tmp_path: Path) -> Path:
    band = Band(name="low", below="50%", back="55%")
    widget = Widget(id="hull", kind="bar", inputs={"value": "hull", "full": "100"}, bands=(band,))
    made = Project(
        variables=(Variable(name="hull", type="float"),), widgets=(widget,), traces=(Recording(path="dive.csv"),)
    )
    save(made, tmp_path / "p.avrin")
    known = {"hull": Column.of([*HULL])}
    save_trace(Trace.make("dive", [2.0 * i for i in range(10)], known, [1] * 7 + [2] * 3), tmp_path / "dive.csv")
    return tmp_path / "p.avrin"


def asked_for(project: Path, *more: str) -> list[str]:
    out = str(project.parent / "tune.csv")
    return ["tune", str(project), "--widget", "hull", "--band", "low", "--before", "hull <= 0", "--out", out, *more]


def test_the_table_is_the_engines(project: Path) -> None:
    assert main(asked_for(project, "--values", "0%:60%:7.5%", "--lead", "4")) == 0
    with (project.parent / "tune.csv").open() as file:
        head, *rows = list(csv.reader(file))
    assert tuple(head) == COLUMNS
    from avrin.storage.files import load
    from avrin.tuning.curves import Terms

    trace = open_trace(project.parent / "dive.csv", load(project)[0].all_variables())
    every = [Tracks(bind(load(project)[0]), trace)]
    question = asked(every[0].bound, "hull", "low", "hull <= 0")
    found = curves(signals(every, question), question, stepped("0%:60%:7.5%"), Terms(lead=4.0))
    for at, row in enumerate(rows):
        for name, cell in zip(head, row, strict=True):
            value = float(getattr(found, name)[at])
            assert (cell == "" and value != value) or float(cell) == value
    assert [row[0] for row in rows] == ["0", "0.075", "0.15", "0.225", "0.3", "0.375", "0.45", "0.525", "0.6"]
    by_value = {row[0]: dict(zip(head, row, strict=True)) for row in rows}
    assert by_value["0"]["lead_median"] == ""
    assert by_value["0.525"]["lead_median"] == "6", "on from 4 s on, lost at 10 s"


def test_unsaid_the_values_are_the_recordeds_and_recordings_the_projects(project: Path) -> None:
    assert main(asked_for(project)) == 0
    rows = (project.parent / "tune.csv").read_text().splitlines()
    assert "0.5," in "".join(row for row in rows if row.startswith("0.5,"))
    assert len(rows) > 40


@pytest.mark.parametrize(
    ("more", "text"),
    [
        (["--values", "60%:0%:1%"], "'60%:0%:1%' has no values: its end is before its start"),
        (["--values", "0:1:1e-9"], "1,000,000,001 values"),
        (["--lead", "-1"], "--lead -1 is not a number of seconds"),
        (["--within", "nan"], "--within nan is not a number of seconds"),
        (["--band", "lwo"], "hull has no band 'lwo': did you mean 'low'?"),
        (["--before", "hul <= 0"], "no variable `hul`: did you mean `hull`?"),
        (["--out", "tune.txt"], "--out 'tune.txt' is not a table"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_is_one_line(
    project: Path, capsys: pytest.CaptureFixture[str], more: list[str], text: str
) -> None:
    assert main(asked_for(project, *more)) == 2
    told = capsys.readouterr().err
    assert text in told
    assert told.count("\n") == 1


def test_a_project_without_recordings_says_so(project: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from avrin.storage.files import load

    save(replace(load(project)[0], traces=()), project)
    assert main(asked_for(project)) == 2
    assert "the project has no recordings. Name one with --trace" in capsys.readouterr().err
