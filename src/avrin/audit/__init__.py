"""Findings: probable problems of a project over its recordings. A family of checks is one module and one entry here."""

from avrin.audit import (
    bindings,
    chattering,
    copies,
    films,
    fitting,
    inspector,
    languages,
    legible,
    looks,
    numbers,
    proportions,
    ranges,
    restarts,
    rules,
    screens,
    showing,
    thresholds,
    warnings,
    zones,
)
from avrin.audit.case import Case
from avrin.audit.causes import with_rest
from avrin.audit.finding import SEVERITIES, Check, Finding, Fix, Severity
from avrin.audit.hushing import hush, hushed, unhush
from avrin.audit.inspector import Inspector
from avrin.audit.views import View

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
    "hush",
    "hushed",
    "unhush",
    "with_rest",
]

FAMILIES = (
    rules, bindings, ranges, numbers, thresholds, chattering, warnings, restarts, fitting, screens, zones, films, languages,
    showing, copies, looks, proportions, legible, inspector,
)  # fmt: skip
CHECKS: tuple[Check, ...] = tuple(check for family in FAMILIES for check in family.CHECKS)
