"""Merge findings of several inspections, of different recordings or players, as if made by one."""

from __future__ import annotations

from collections.abc import Sequence

from avrin.findings.finding import SEVERITIES, Check, Finding

__all__ = ["merged"]


def merged(checks: Sequence[Check], parts: Sequence[Sequence[Finding]]) -> list[Finding]:
    """Return the findings of a single inspection, given those of its parts, in order."""
    found: list[Finding] = []
    for check in checks:
        mine = [[finding for finding in part if finding.code == check.code] for part in parts]
        if check.many:
            found += dict.fromkeys(finding for part in mine for finding in part)
            continue
        keys = dict.fromkeys(finding.key for part in mine for finding in part)
        for key in keys:
            same = [finding for part in mine for finding in part if finding.key == key]
            if not check.everywhere or len(same) == len(parts):
                found.append(max(same, key=lambda finding: finding.weight))
    return sorted(found, key=lambda finding: SEVERITIES.index(finding.severity))
