"""Causes of findings: of findings with a common cause the cause is reported, with the others below it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence

from msgspec.structs import replace

from avrin.binding.bound import Bound
from avrin.findings.finding import SEVERITIES, Check, Finding, Shared
from avrin.project.project import Project

__all__ = ["caused", "with_rest"]

SLOT_PATTERN = re.compile(r"\[\d+\]")
Holds = Callable[[Bound, Finding, Finding], bool]


def caused(checks: Sequence[Check], findings: Sequence[Finding], bound: Bound) -> list[Finding]:
    """Return the same findings in order, each with the key of its cause, None for a cause."""
    follows = {check.code: check.follows for check in checks}
    by_code: dict[str, list[int]] = {}
    for number, finding in enumerate(findings):
        by_code.setdefault(finding.code, []).append(number)
    roots = list(range(len(findings)))  # for each finding the index of its cause, finally its own
    for number, finding in enumerate(findings):
        candidates = (
            other
            for code, shared in follows.get(finding.code, ())
            for other in by_code.get(code, ())
            if (other < number if code == finding.code else _as_bad(findings[other], finding))
            and _HOLDS[shared](bound, finding, findings[other])
        )
        roots[number] = next(candidates, number)
    return [
        replace(finding, cause=None if root == number else findings[root].key)
        for number, finding in enumerate(findings) for root in [_root(roots, number)]
    ]  # fmt: skip


def with_rest(findings: Iterable[Finding]) -> list[tuple[Finding, list[Finding]]]:
    """Return causes in order, each with its consequences. A finding whose cause is absent is a cause."""
    every = list(findings)
    first: dict[tuple[str, str, str], Finding] = {}
    for finding in every:
        if finding.cause is None:
            first.setdefault(finding.key, finding)
    rest: dict[int, list[Finding]] = {}
    causes: list[Finding] = []
    for finding in every:
        cause = first.get(finding.cause) if finding.cause is not None else None
        if cause is None:
            causes.append(finding)
        else:
            rest.setdefault(id(cause), []).append(finding)
    return [(cause, rest.get(id(cause), [])) for cause in causes]


def _root(roots: Sequence[int], number: int) -> int:
    """Return the start of a chain of causes; the table of checks is acyclic."""
    while roots[number] != number:
        number = roots[number]
    return number


def _as_bad(cause: Finding, finding: Finding) -> bool:
    """Return whether a cause is at least as severe as the finding."""
    return SEVERITIES.index(cause.severity) <= SEVERITIES.index(finding.severity)


def _fed_by(bound: Bound, finding: Finding, cause: Finding) -> bool:
    """Return whether a finding is about the cause's variable or a widget that uses it."""
    if not cause.variable:
        return False
    if finding.variable == cause.variable:
        return True
    widget = bound.widgets.get(finding.widget)
    return widget is not None and any(cause.variable in step.sources() for step in widget.steps())


def _in_group(bound: Bound, finding: Finding, cause: Finding) -> bool:
    """Return whether a finding is about a widget inside the group that the cause is about."""
    return any(w.id == finding.widget and cause.about in _groups(bound.project, w.group) for w in bound.project.widgets)


def _groups(project: Project, ident: str) -> list[str]:
    """Return a group and its ancestors."""
    above = {group.id: group.group for group in project.groups}
    found: list[str] = []
    while ident and ident not in found:
        found.append(ident)
        ident = above.get(ident, "")
    return found


def _same(*fields: str) -> Holds:
    return lambda _bound, finding, cause: all(getattr(finding, one) == getattr(cause, one) for one in fields)


def _same_field(_bound: Bound, finding: Finding, cause: Finding) -> bool:
    """Return whether two findings are about one roster field in different slots."""
    bare, found = SLOT_PATTERN.subn("", finding.variable)
    return found > 0 and bare == SLOT_PATTERN.sub("", cause.variable)


_HOLDS: Mapping[Shared, Holds] = {
    "widget": _same("widget"),
    "about": _same("widget", "about"),
    "input": _same("widget", "input"),
    "words": _same("short"),
    "variable": _fed_by,
    "group": _in_group,
    "field": _same_field,
}
