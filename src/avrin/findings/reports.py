"""Reports of findings for people, programs and build servers: text, JSON, SARIF 2.1.0 and JUnit XML."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from msgspec import Struct, field

from avrin import __version__
from avrin.findings.causes import with_rest
from avrin.findings.finding import SEVERITIES, Check, Finding, Severity
from avrin.printable import encodable, printable
from avrin.project.numbers import counted
from avrin.storage.junit import JunitCase, junit_xml

__all__ = ["REPORTS", "Report"]

SARIF = "https://json.schemastore.org/sarif-2.1.0.json"
LEVELS = {"error": "error", "warning": "warning", "hint": "note"}


class Report(Struct, frozen=True):
    """The content of a report. file: the project's, as given; lines: of its text.

    quiet: suppressed findings with reasons. times: a frame's seconds, by the recording's name.
    fail_on: the least severity that counts as a failure; None for none.
    """

    title: str
    file: str
    lines: Sequence[str]
    checks: Sequence[Check]
    findings: Sequence[Finding]
    quiet: Mapping[Finding, str]
    fail_on: Severity | None = "warning"
    times: Callable[[str, int], float | None] = field(default=lambda _trace, _frame: None)

    def fails(self, finding: Finding) -> bool:
        """Return whether a finding counts as a failure."""
        return self.fail_on is not None and SEVERITIES.index(finding.severity) <= SEVERITIES.index(self.fail_on)

    def seconds(self, finding: Finding) -> float | None:
        """Return when a finding begins, on its recording's axis; None if it concerns no moment."""
        return None if finding.start is None else self.times(finding.trace, finding.start)

    def line(self, finding: Finding) -> int:
        """Return the line in the project's file, from 1, at which the finding's widget begins."""
        wanted = f'"id": {json.dumps(finding.widget, ensure_ascii=False)}'
        return next((i for i, text in enumerate(self.lines, 1) if finding.widget and wanted in text), 1)


def _where(report: Report, finding: Finding) -> str:
    """Return when and on what it occurs, in words, or ""."""
    at = report.seconds(finding)
    minutes, rest = divmod(at or 0.0, 60)
    parts = [f"at {minutes:.0f}:{rest:05.2f} in {finding.trace}" if at is not None else "",
             f"on {finding.screen}" if finding.screen else "", f"over {finding.plate}" if finding.plate else "",
             f"in {finding.language}" if finding.language else ""]  # fmt: skip
    return ", ".join(part for part in parts if part)


def _counted(findings: Sequence[Finding]) -> str:
    counts = {name: sum(one.severity == name for one in findings) for name in SEVERITIES}
    return ", ".join(counted(count, name) for name, count in counts.items())


def text(report: Report) -> str:
    """Return lines for people: what and why, then where and what to do, and a final count."""
    lines = []
    parts = with_rest(report.findings)
    for finding, rest in parts:
        lines.append(f"{finding.severity:<8}{finding.code:<20}{finding.why}")
        where = _where(report, finding)
        lines.append(" " * 28 + " · ".join(part for part in (where, finding.advice) if part))
        for one in rest:
            where = _where(report, one)
            lines.append(" " * 28 + f"so {one.code}: {one.why}{f' · {where}' if where else ''}")
    quiet = f"; {len(report.quiet)} ignored" if report.quiet else ""
    causes = [finding for finding, _ in parts]
    following = len(report.findings) - len(causes)
    more = f", and {following} that follow{'s' if following == 1 else ''} from these" if following else ""
    return printable(
        "\n".join([*map(_in_a_line, lines), f"{_in_a_line(report.title)}: {_counted(causes)}{more}{quiet}", ""])
    )


def _in_a_line(text: str) -> str:
    return text.replace("\n", "\\n")


def as_json(report: Report) -> str:
    """Return a list of objects, one per finding; suppressed ones have a reason."""
    told = [(finding, None) for finding in report.findings] + list(report.quiet.items())
    return (
        encodable(
            json.dumps([_object(report, finding, reason) for finding, reason in told], indent=1, ensure_ascii=False)
        )
        + "\n"
    )


def _object(report: Report, finding: Finding, reason: str | None) -> dict[str, Any]:
    fields = (
        "code",
        "severity",
        "widget",
        "input",
        "variable",
        "about",
        "why",
        "advice",
        "trace",
        "screen",
        "plate",
        "language",
    )
    made: dict[str, Any] = {name: getattr(finding, name) for name in fields if getattr(finding, name)}
    if finding.start is not None:
        made["frames"] = [finding.start, finding.end]
        made["seconds"] = report.seconds(finding)
    if finding.cause is not None:
        made["follows"] = dict(zip(("code", "of", "about"), finding.cause, strict=True))
    return made if reason is None else {**made, "hushed": reason}


def sarif(report: Report) -> str:
    """Return a SARIF 2.1.0 log, the open standard for static analysis results."""
    rules = [{"id": check.code, "shortDescription": {"text": check.help},
              "defaultConfiguration": {"level": LEVELS[check.severity]}} for check in report.checks]  # fmt: skip
    numbers = {check.code: number for number, check in enumerate(report.checks)}
    results = [_result(report, numbers, finding, None) for finding in report.findings]
    results += [_result(report, numbers, finding, reason) for finding, reason in report.quiet.items()]
    driver = {"name": "Avrin", "version": __version__, "rules": rules}
    log = {"$schema": SARIF, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}
    return encodable(json.dumps(log, indent=1, ensure_ascii=False)) + "\n"


def _result(report: Report, numbers: Mapping[str, int], finding: Finding, reason: str | None) -> dict[str, Any]:
    where = _where(report, finding)
    place: dict[str, Any] = {
        "physicalLocation": {"artifactLocation": {"uri": report.file}, "region": {"startLine": report.line(finding)}}
    }
    if finding.widget:
        place["logicalLocations"] = [{"name": finding.widget, "kind": "object"}]
    made: dict[str, Any] = {
        "ruleId": finding.code, "ruleIndex": numbers[finding.code], "level": LEVELS[finding.severity],
        "message": {"text": f"{finding.why}{f' ({where})' if where else ''}. {finding.advice}."},
        "locations": [place], "partialFingerprints": {"avrin/1": "/".join(finding.key)},
    }  # fmt: skip
    if finding.cause is not None:
        made["properties"] = {"follows": "/".join(finding.cause)}
    if reason is not None:
        made["suppressions"] = [{"kind": "inSource", "justification": reason}]
    return made


def junit(report: Report) -> str:
    """Return JUnit XML: a test case per check, which fails for sufficiently severe findings."""
    return junit_xml(report.title, [_junit_case(report, check) for check in report.checks])


def _junit_case(report: Report, check: Check) -> JunitCase:
    mine = [finding for finding in report.findings if finding.code == check.code]
    failures = tuple(
        ("\n".join(filter(None, (finding.why, _where(report, finding), finding.advice))), finding.severity)
        for finding in mine if report.fails(finding)
    )  # fmt: skip
    told = [f"{one.severity}: {one.why}" for one in mine if not report.fails(one)]
    told += [f"ignored: {one.why} ({why})" for one, why in report.quiet.items() if one.code == check.code]
    return JunitCase(check.code, failures, "\n".join(told))


REPORTS: dict[str, Callable[[Report], str]] = {"text": text, "json": as_json, "sarif": sarif, "junit": junit}
