"""Edit the drawing order: later widgets are drawn over earlier ones."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal, get_args

from msgspec.structs import replace

from avrin.project.project import Project

__all__ = ["STEPS", "Step", "ordered"]

Step = Literal["to the front", "forward", "backward", "to the back"]
STEPS: tuple[Step, ...] = get_args(Step)


def ordered(project: Project, idents: Collection[str], step: Step) -> Project:
    """Return the project with some widgets moved forward or backward, keeping their relative order."""
    mine = [widget for widget in project.widgets if widget.id in idents]
    rest = [widget for widget in project.widgets if widget.id not in idents]
    if not mine:
        return project
    if step == "to the front":
        return replace(project, widgets=(*rest, *mine))
    if step == "to the back":
        return replace(project, widgets=(*mine, *rest))
    widgets = list(project.widgets)
    places = range(len(widgets) - 2, -1, -1) if step == "forward" else range(1, len(widgets))
    for at in places:
        other = at + 1 if step == "forward" else at - 1
        if widgets[at].id in idents and widgets[other].id not in idents:
            widgets[at], widgets[other] = widgets[other], widgets[at]
    return replace(project, widgets=tuple(widgets))
