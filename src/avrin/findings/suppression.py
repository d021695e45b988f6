"""Suppressed findings: ignored by the user, stored in the project with a reason."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from avrin.findings.finding import Finding
from avrin.project.project import Project

__all__ = ["suppress", "suppressed", "unsuppress"]

FIELDS = ("code", "of", "about")


def suppress(project: Project, finding: Finding, reason: str) -> Project:
    """Return the project with a finding suppressed. reason: why, for later readers."""
    entry = {**dict(zip(FIELDS, finding.key, strict=True)), "reason": reason}
    return replace(project, hush=(*unsuppress(project, finding).hush, entry))


def unsuppress(project: Project, finding: Finding) -> Project:
    """Return the project with a finding reported again."""
    return replace(project, hush=tuple(entry for entry in project.hush if _key(entry) != finding.key))


def suppressed(project: Project, findings: Iterable[Finding]) -> dict[Finding, str]:
    """Return the suppressed findings, each with its own reason or that of its cause."""
    reasons: dict[tuple[str, ...] | None, str] = {_key(entry): str(entry.get("reason", "")) for entry in project.hush}
    keys = (
        (finding, next((key for key in (finding.key, finding.cause) if key in reasons), None)) for finding in findings
    )
    return {finding: reasons[key] for finding, key in keys if key is not None}


def _key(entry: dict[str, object]) -> tuple[str, ...]:
    return tuple(str(entry.get(field, "")) for field in FIELDS)
