"""What is found, as texts for people and build servers; over many recordings as over one."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path

import junitparser
import pytest
from msgspec.structs import replace
from sarif_pydantic import Sarif

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.execution.executor import executor
from avrin.execution.locations import Location
from avrin.execution.task import task
from avrin.findings.batch import inspect_all
from avrin.findings.finding import Finding, Severity
from avrin.findings.inspector import Inspector
from avrin.findings.merging import merged
from avrin.findings.registry import CHECKS
from avrin.findings.reports import REPORTS, Report
from avrin.storage.files import load, save
from avrin.trace.frames import Event, Trace, events_of
from avrin.trace.store import open_trace, save_trace

FOUND = [
    Finding("hull_bar", "full is its own value", "Hull bar compares `hull` with itself", "Bind the maximum",
            about="full", input="full", code="full-is-value", severity="error"),
    Finding("tide", "0:00 too early", "Tide shows 0:00 while there are still 0.40 s left", "Round it up", about="text",
            trace="dive", start=30, end=40, screen="desk", code="zero-early", severity="warning"),
    Finding("tide", "never low", "Tide is never low", "Play on", about="low", code="never-reached"),
]  # fmt: skip
QUIET = {
    Finding(
        "log", "stays", "Log keeps each line", "Keep", about="keep", code="feed-stays", severity="warning"
    ): "so be it"
}


def report(kind: str, fail_on: Severity | None = "warning") -> str:
    lines = ["{", ' "id": "hull_bar",', ' "id": "tide",', "}"]
    made = Report("Dive", "dive.avrin", lines, CHECKS, FOUND, QUIET, fail_on, lambda _trace, frame: frame / 10)
    return REPORTS[kind](made)


def test_text_tells_what_where_and_what_to_do() -> None:
    lines = report("text").splitlines()
    assert lines[0] == "error   full-is-value       Hull bar compares `hull` with itself"
    assert lines[3] == " " * 28 + "at 0:03.00 in dive, on desk · Round it up"
    assert lines[-1] == "Dive: 1 error, 1 warning, 1 hint; 1 ignored"


def test_json_has_every_finding_and_why_some_are_ignored() -> None:
    found = json.loads(report("json"))
    assert [one["code"] for one in found] == ["full-is-value", "zero-early", "never-reached", "feed-stays"]
    assert found[1]["frames"] == [30, 40]
    assert found[1]["seconds"] == 3.0
    assert found[3]["hushed"] == "so be it"


def test_sarif_fits_the_standard_and_points_into_the_file() -> None:
    log = Sarif.model_validate_json(report("sarif"))
    (run,) = log.runs
    assert run.results is not None
    assert {rule.id for rule in run.tool.driver.rules or []} == {check.code for check in CHECKS}
    raw = json.loads(report("sarif"))["runs"][0]["results"]
    assert [result["level"] for result in raw] == ["error", "warning", "note", "warning"]
    assert [r["locations"][0]["physicalLocation"]["region"]["startLine"] for r in raw] == [2, 3, 3, 1]
    assert raw[3]["suppressions"] == [{"kind": "inSource", "justification": "so be it"}]
    assert all(CHECKS[result["ruleIndex"]].code == result["ruleId"] for result in raw)


@pytest.mark.parametrize(("fail_on", "failures"), [("error", 1), ("warning", 2), ("hint", 3), (None, 0)])
def test_junit_fails_where_it_is_bad_enough(fail_on: Severity | None, failures: int) -> None:
    suites = junitparser.JUnitXml.fromstring(report("junit", fail_on=fail_on).encode())
    assert (suites.tests, suites.failures) == (len(CHECKS), failures)


@pytest.fixture
def troubled(demo: Path, tmp_path: Path) -> Path:
    """The sample project with a bar that is always full, and five recordings of which one has more scrap."""
    project, _ = load(demo)
    bar = project.widget("hull_bar")
    project = project.with_widget(replace(bar, inputs={**bar.inputs, "full": "hull"}))
    for number in range(5):
        name = "rich-haul" if number == 3 else "calm-dive"
        trace = open_trace(demo.parent / f"traces/{name}.csv", project.all_variables())
        columns = {name: replace(column, data=column.data[::20]) for name, column in trace.columns.items()}
        part = Trace.make(f"{number}", trace.t[::20], columns, trace.run[::20].tolist())
        save_trace(part, tmp_path / f"{number}.csv")
    save(replace(project, traces=()), tmp_path / "troubled.avrin")
    return tmp_path / "troubled.avrin"


def looked_at(
    path: Path, files: list[Path], jobs: int, reported: Callable[[int, int], None] = lambda _done, _of: None
) -> list[Finding]:
    given = task(load(path)[0], path.parent, {}, far=False, copied=True)
    with executor(jobs) as who:
        found = inspect_all(CHECKS, given, [Location.at(file, file.stem) for file in files], who, reported)
    assert not found.faults
    return found.findings


def test_several_processes_find_what_one_look_at_all_finds(troubled: Path) -> None:
    files = sorted(troubled.parent.glob("*.csv"))
    reported: list[tuple[int, int]] = []
    apart = looked_at(troubled, files, 2, lambda done, of: reported.append((done, of)))
    project, _ = load(troubled)
    traces = [open_trace(file, project.all_variables()) for file in files]
    seen = events_of(traces)
    bound = bind(project, events=seen, folder=troubled.parent)
    together = Inspector(CHECKS).inspect(bound, [Tracks(bound, trace) for trace in traces])
    assert {(f.key, f.why, f.trace, f.start) for f in apart} == {(f.key, f.why, f.trace, f.start) for f in together}
    assert reported[0] in [(4, 5), (1, 5)]
    assert reported[1:] == [(5, 5)]
    assert "full-is-value" in {f.code for f in apart}


def test_what_holds_everywhere_must_be_found_everywhere() -> None:
    never, other = FOUND[2], FOUND[1]
    assert merged(CHECKS, [[never], [never]]) == [never]
    assert merged(CHECKS, [[never], []]) == []
    assert merged(CHECKS, [[], [other]]) == [other]


def test_the_command_fails_for_what_it_is_reported_to(troubled: Path, capsys: pytest.CaptureFixture[str]) -> None:
    arguments = ["check", str(troubled), "--trace", str(troubled.parent), "--jobs", "1"]
    assert main(arguments) == 1
    assert "full-is-value" in capsys.readouterr().out
    assert main([*arguments, "--fail-on", "never", "--format", "sarif", "--out", str(troubled.parent / "o.sarif")]) == 0
    Sarif.model_validate_json((troubled.parent / "o.sarif").read_text())
    capsys.readouterr()
    assert main(["check", str(troubled), "--trace", str(troubled.parent / "none.csv")]) == 2
    assert "none.csv" in capsys.readouterr().err


def test_the_demo_is_clean(demo: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["check", str(demo)]) == 0
    said = capsys.readouterr().out.rstrip().splitlines()[-1]
    assert re.fullmatch(r"Brinehook: 0 errors, 0 warnings, [1-9]\d* hints", said)


def test_what_happens_in_one_recording_alone_is_known_to_rules_over_all(troubled: Path) -> None:
    project, _ = load(troubled)
    bell = project.widget("bell")
    save(project.with_widget(replace(bell, inputs={"visible": 'events("gong") > 0'})), troubled)
    last = open_trace(troubled.parent / "4.csv", project.all_variables())
    save_trace(replace(last, events=(Event(1.0, "gong", {}),)), troubled.parent / "4.csv")
    files = sorted(troubled.parent.glob("?.csv"))
    for jobs in (1, 2):
        assert "unknown-name" not in {finding.code for finding in looked_at(troubled, files, jobs)}
    assert "unknown-name" in {finding.code for finding in looked_at(troubled, files[:4], 1)}
