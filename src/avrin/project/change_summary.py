"""A short summary of what differs between two states of a project."""

from __future__ import annotations

from msgspec.structs import fields

from avrin.project.numbers import counted
from avrin.project.project import Project

__all__ = ["change_summary"]

MAX_NAMES = 3  # names listed per group


def change_summary(before: Project, after: Project) -> str:
    """Return for example "2 widgets changed (hull_bar, scrap), 1 added (depth), plates", or "" if nothing differs."""
    there, here = ({widget.id: widget for widget in one.widgets} for one in (before, after))
    changed = [ident for ident in here if ident in there and there[ident] != here[ident]]
    added = [ident for ident in here if ident not in there]
    gone = [ident for ident in there if ident not in here]
    found = [
        f"{counted(len(names), 'widget') if at == 0 else len(names)} {word} ({_list_names(names)})"
        for at, (names, word) in enumerate(
            (names, word) for names, word in ((changed, "changed"), (added, "added"), (gone, "gone")) if names
        )
    ]
    if not found and [*there] != [*here]:
        found.append("the order of widgets")
    told = {"traces": "recordings"}
    found += [
        told.get(one.name, one.name) for one in fields(Project)
        if one.name != "widgets" and getattr(before, one.name) != getattr(after, one.name)
    ]  # fmt: skip
    return ", ".join(found)


def _list_names(names: list[str]) -> str:
    more = f" and {len(names) - MAX_NAMES} more" if len(names) > MAX_NAMES else ""
    return ", ".join(names[:MAX_NAMES]) + more
