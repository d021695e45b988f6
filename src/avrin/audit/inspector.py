"""Runs checks over a project, and again after an edit only those that look at what it touched."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from avrin.audit.case import Case, Memory
from avrin.audit.causes import caused
from avrin.audit.finding import SEVERITIES, Check, Finding
from avrin.trace import Trace
from avrin.widgets import Bound, BoundWidget, Tracks

__all__ = ["Inspector"]

Known = tuple[BoundWidget, tuple[object, ...], tuple[Finding, ...]]


class Inspector:
    """Remembers what it found of each widget. One at a time may use it."""

    def __init__(self, checks: Sequence[Check]) -> None:
        self._checks = checks
        self._known: dict[tuple[str, str], Known] = {}
        self._memory = Memory()
        self._under: tuple[object, ...] = ()
        self._traces: list[Trace] = []

    def inspect(
        self, bound: Bound, tracks: Sequence[Tracks], breathe: Callable[[], None] = lambda: None
    ) -> list[Finding]:
        """All findings, errors first, then in the order of checks and widgets; hushed ones too.

        breathe: called every few milliseconds; it may wait, or raise to give the work up.
        """
        self._memory.breathe = breathe
        under = _under(bound)
        traces = [one.trace for one in tracks]
        if len(traces) != len(self._traces) or any(a is not b for a, b in zip(traces, self._traces, strict=True)):
            self._known.clear()
            self._memory.clear()
        if under != self._under:
            self._memory.clear()
        self._traces, self._under = traces, under
        case = Case(bound, tuple(tracks), self._memory)
        found: list[Finding] = []
        for check in self._checks:
            if check.project is not None:
                breathe()
                found += [_signed(check, finding) for finding in check.project(case)]
            if check.widget is not None:
                for ident, widget in bound.widgets.items():
                    if ident not in case.faulty:
                        breathe()
                        found += self._of_widget(check, case, ident, widget, under)
        self._known = {key: known for key, known in self._known.items() if key[1] in bound.widgets}
        self._memory.keep(bound.widgets.values())
        return caused(self._checks, sorted(found, key=lambda finding: SEVERITIES.index(finding.severity)), bound)

    def _of_widget(
        self, check: Check, case: Case, ident: str, widget: BoundWidget, under: tuple[object, ...]
    ) -> tuple[Finding, ...]:
        key = (check.code, ident)
        known = self._known.get(key)
        if known is None or known[0] is not widget or known[1] != under:
            found = tuple(_signed(check, finding) for finding in _of_copies(check, case, widget))
            known = self._known[key] = (widget, under, found)
        return known[2]


def _under(bound: Bound) -> tuple[object, ...]:
    """All that what is said of one sound widget depends on besides itself and the recordings."""
    project = bound.project
    return (
        project.variables, project.rosters, project.groups, project.screens, project.plates, project.reference,
        project.fit, project.placeholder, bound.folder,
    )  # fmt: skip


def _of_copies(check: Check, case: Case, widget: BoundWidget) -> list[Finding]:
    """What a check finds of a widget, or of any copy of a repeated one; where it must hold everywhere, of all copies."""
    assert check.widget is not None
    each = [list(check.widget(case, copy)) for copy in widget.each()]
    if len(each) == 1:
        return each[0]
    found = {finding.key: finding for copy in reversed(each) for finding in copy}  # of several the first copy's is told
    if check.everywhere:
        found = {key: one for key, one in found.items() if all(any(f.key == key for f in copy) for copy in each)}
    return [finding for copy in each for finding in copy if check.many or found.get(finding.key) is finding]


def _signed(check: Check, finding: Finding) -> Finding:
    return replace(finding, code=check.code, severity=check.severity)
