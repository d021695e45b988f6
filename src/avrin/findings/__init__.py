"""Findings: probable problems of a project over its recordings. A family of checks is one module and one entry here."""

from avrin.findings import (
    bindings,
    chattering,
    copies,
    films,
    fitting,
    inspector,
    languages,
    legibility,
    numbers,
    perception,
    proportions,
    ranges,
    restarts,
    rules,
    screens,
    thresholds,
    visibility,
    warnings,
    zones,
)
from avrin.findings.case import Case
from avrin.findings.causes import with_rest
from avrin.findings.finding import SEVERITIES, Check, Finding, Fix, Severity
from avrin.findings.inspector import Inspector
from avrin.findings.suppression import suppress, suppressed, unsuppress
from avrin.findings.views import View

__all__ = [
    "CHECKS",
    "FAMILIES",
    "SEVERITIES",
    "Case",
    "Check",
    "Finding",
    "Fix",
    "Inspector",
    "Severity",
    "View",
    "suppress",
    "suppressed",
    "unsuppress",
    "with_rest",
]

FAMILIES = (
    rules, bindings, ranges, numbers, thresholds, chattering, warnings, restarts, fitting, screens, zones, films, languages,
    visibility, copies, perception, proportions, legibility, inspector,
)  # fmt: skip
CHECKS: tuple[Check, ...] = tuple(check for family in FAMILIES for check in family.CHECKS)
