"""Edit a widget's id, title and group."""

from __future__ import annotations

import re
from collections.abc import Collection

from msgspec.structs import replace

from avrin.edits.naming import typed_id
from avrin.edits.placing import shifted
from avrin.errors import AvrinError
from avrin.project.project import Group, Project, Widget

__all__ = ["grouped", "id_like", "renamed_widget", "titled", "ungrouped"]

LONGEST_TITLE = 120


def renamed_widget(project: Project, ident: str, new: str) -> Project:
    """Return the project with a widget's id changed, including its ignored findings. Raises AvrinError."""
    plain = typed_id(new, {widget.id for widget in project.widgets} - {ident}, "widget")
    if plain == ident:
        return project
    hush = tuple({**one, "of": plain} if one.get("of") == ident else one for one in project.hush)
    widgets = tuple(replace(widget, id=plain) if widget.id == ident else widget for widget in project.widgets)
    comments = tuple(replace(one, widget=plain) if one.widget == ident else one for one in project.comments)
    return replace(project, widgets=widgets, hush=hush, comments=comments)


def titled(project: Project, ident: str, title: str) -> Project:
    """Return the project with a widget's title changed; "" derives it from the id. Raises AvrinError if it is too long."""
    widget, plain = project.widget(ident), " ".join(title.split())
    if len(plain) > LONGEST_TITLE:
        raise AvrinError(
            f"a title of {len(plain):,} letters is longer than any lane", advice=f"{LONGEST_TITLE} letters at most"
        )
    return project.with_widget(replace(widget, own_title="" if plain == widget.id_title else plain))


def id_like(project: Project, ident: str) -> str:
    """Return an unused id made from a widget's title; its own id if that fits already."""
    plain = re.sub(r"[^\w-]+", "_", project.widget(ident).title.lower()).strip("_")[:70] or ident
    taken, number, found = {widget.id for widget in project.widgets} - {ident}, 2, plain
    while found in taken:
        found, number = f"{plain}_{number}", number + 1
    return found


def grouped(project: Project, idents: Collection[str], wanted: str = "group") -> tuple[Project, str]:
    """Return the project with some widgets in a new group within their common one; and its id."""
    chosen = [widget for widget in project.widgets if widget.id in idents]
    taken, number, ident = {group.id for group in project.groups}, 2, wanted
    while ident in taken:
        ident, number = f"{wanted}_{number}", number + 1
    outer = {widget.group for widget in chosen}
    group = Group(id=ident, group=outer.pop() if len(outer) == 1 else "")
    widgets = tuple(replace(w, group=ident) if w.id in idents else w for w in project.widgets)
    return replace(project, groups=(*project.groups, group), widgets=widgets), ident


def ungrouped(project: Project, idents: Collection[str]) -> Project:
    """Return the project with some widgets moved out of their group; empty groups are removed.

    Widgets keep their position; the group's condition and opacity are dropped.
    """
    groups = {group.id: group for group in project.groups}

    def freed(widget: Widget) -> Widget:
        group = groups.get(widget.group) if widget.id in idents else None
        if group is None:
            return widget
        return replace(widget, group=group.group, place=shifted(widget.place, *group.offset))

    widgets = tuple(map(freed, project.widgets))
    left = {group.id for group in project.groups}
    emptied = {project.widget(ident).group for ident in idents} - {""}
    while gone := {
        ident for ident in emptied & left
        if all(w.group != ident for w in widgets) and all(groups[one].group != ident for one in left)
    }:  # fmt: skip
        left -= gone
        emptied |= {groups[ident].group for ident in gone}
    return replace(project, widgets=widgets, groups=tuple(group for group in project.groups if group.id in left))
