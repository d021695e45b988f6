"""Edit groups: their fields, their parents and their ids."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.edits.naming import typed_id
from avrin.errors import AvrinError
from avrin.project.project import Project

__all__ = ["group_changed", "group_holds", "group_renamed"]


def group_changed(project: Project, ident: str, **fields: object) -> Project:
    """Return the project with a group's fields changed. Raises AvrinError if it would contain itself."""
    outer = fields.get("group", "")
    if isinstance(outer, str) and outer and group_holds(project, ident, outer):
        raise AvrinError(f"group '{outer}' is inside '{ident}'", advice="Take it out of there first")
    return replace(project, groups=tuple(replace(g, **fields) if g.id == ident else g for g in project.groups))


def group_holds(project: Project, ident: str, other: str) -> bool:
    """Return whether two ids are the same group, or the first contains the second at any depth."""
    groups = {group.id: group.group for group in project.groups}
    while other:
        if other == ident:
            return True
        other = groups.get(other, "")
    return False


def group_renamed(project: Project, ident: str, new: str) -> Project:
    """Return the project with a group's id changed, in all its members. Raises AvrinError."""
    plain = typed_id(new, {group.id for group in project.groups} - {ident}, "group")

    def renamed(name: str) -> str:
        return plain if name == ident else name

    groups = tuple(replace(g, id=renamed(g.id), group=renamed(g.group)) for g in project.groups)
    widgets = tuple(replace(w, group=renamed(w.group)) for w in project.widgets)
    return replace(project, groups=groups, widgets=widgets)
