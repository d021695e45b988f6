"""Edit outcomes: the events a HUD warns of."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.project.project import Outcome, Project
from avrin.storage.files import check_name

__all__ = ["outcome_added", "outcome_called", "outcome_removed"]

FIRST = "lost"


def outcome_added(project: Project, rule: str, name: str = FIRST) -> tuple[Project, str]:
    """Return the project with one more outcome, and its name."""
    taken, free, number = {one.name for one in project.outcomes}, name, 2
    while free in taken:
        free, number = f"{name}_{number}", number + 1
    return replace(project, outcomes=(*project.outcomes, Outcome(name=free, rule=rule))), free


def outcome_called(project: Project, name: str, new: str) -> Project:
    """Return the project with an outcome renamed. Raises AvrinError for an invalid name."""
    plain = new.strip()
    check_name(plain, [one.name for one in project.outcomes if one.name != name])
    return replace(
        project, outcomes=tuple(replace(one, name=plain) if one.name == name else one for one in project.outcomes)
    )


def outcome_removed(project: Project, name: str) -> Project:
    """Return the project without an outcome."""
    return replace(project, outcomes=tuple(one for one in project.outcomes if one.name != name))
