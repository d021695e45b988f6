"""Groups as things of their own: what they are called, lie in, and do to what lies in them."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.arrange.naming import typed_id
from avrin.model import AvrinError, Project

__all__ = ["group_changed", "group_holds", "group_renamed"]


def group_changed(project: Project, ident: str, **said: object) -> Project:
    """The project in which a group is otherwise. Raises AvrinError where it would lie within itself."""
    outer = said.get("group", "")
    if isinstance(outer, str) and outer and group_holds(project, ident, outer):
        raise AvrinError(f"group '{outer}' lies in '{ident}' itself", advice="Take it out of there first")
    return replace(project, groups=tuple(replace(g, **said) if g.id == ident else g for g in project.groups))


def group_holds(project: Project, ident: str, other: str) -> bool:
    """Whether a group is another one, or that lies in it at any depth."""
    groups = {group.id: group.group for group in project.groups}
    while other:
        if other == ident:
            return True
        other = groups.get(other, "")
    return False


def group_renamed(project: Project, ident: str, new: str) -> Project:
    """The project in which a group has another id, and all that lies in it says so. Raises AvrinError."""
    plain = typed_id(new, {group.id for group in project.groups} - {ident}, "group")

    def named(name: str) -> str:
        return plain if name == ident else name

    groups = tuple(replace(g, id=named(g.id), group=named(g.group)) for g in project.groups)
    widgets = tuple(replace(w, group=named(w.group)) for w in project.widgets)
    return replace(project, groups=groups, widgets=widgets)
