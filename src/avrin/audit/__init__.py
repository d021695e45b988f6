"""Findings: what is probably wrong with a project over a trace. A new check is one module and one entry here."""

from avrin.audit import never_reached, too_short
from avrin.audit.finding import Check, Finding, Severity
from avrin.widgets import Tracks

__all__ = ["CHECKS", "Check", "Finding", "Severity", "findings"]

CHECKS: tuple[Check, ...] = (too_short.check, never_reached.check)


def findings(tracks: Tracks) -> list[Finding]:
    """All that the checks find over one trace, in the order of the checks."""
    return [finding for check in CHECKS for finding in check(tracks)]
