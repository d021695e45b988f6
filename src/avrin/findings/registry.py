"""All checks. A family of checks is one module and one entry here."""

from avrin.findings import (
    bindings,
    chattering,
    conflicts,
    copies,
    films,
    fitting,
    happenings,
    inspector,
    languages,
    legibility,
    numbers,
    options,
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
from avrin.findings.finding import Check

__all__ = ["CHECKS", "FAMILIES"]

FAMILIES = (
    rules, bindings, happenings, ranges, numbers, thresholds, chattering, warnings, restarts, fitting, screens, zones, films,
    languages, options, visibility, conflicts, copies, perception, proportions, legibility, inspector,
)  # fmt: skip
CHECKS: tuple[Check, ...] = tuple(check for family in FAMILIES for check in family.CHECKS)
