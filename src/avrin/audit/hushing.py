"""Findings that somebody has looked at and decided to live with: kept in the project, with the reason."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from avrin.audit.finding import Finding
from avrin.model import Project

__all__ = ["hush", "hushed", "unhush"]

FIELDS = ("code", "of", "about")


def hush(project: Project, finding: Finding, reason: str) -> Project:
    """The project in which a finding is hushed. reason: why, in words people will read later."""
    entry = {**dict(zip(FIELDS, finding.key, strict=True)), "reason": reason}
    return replace(project, hush=(*unhush(project, finding).hush, entry))


def unhush(project: Project, finding: Finding) -> Project:
    """The project in which it is told again."""
    return replace(project, hush=tuple(entry for entry in project.hush if _key(entry) != finding.key))


def hushed(project: Project, found: Iterable[Finding]) -> dict[Finding, str]:
    """Those of the findings that are hushed, with the reason of each: its own, or that of what it follows from."""
    reasons: dict[tuple[str, ...] | None, str] = {_key(entry): str(entry.get("reason", "")) for entry in project.hush}
    keys = ((finding, next((key for key in (finding.key, finding.cause) if key in reasons), None)) for finding in found)
    return {finding: reasons[key] for finding, key in keys if key is not None}


def _key(entry: dict[str, object]) -> tuple[str, ...]:
    return tuple(str(entry.get(field, "")) for field in FIELDS)
