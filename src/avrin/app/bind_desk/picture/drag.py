"""A drag in the picture."""

from __future__ import annotations

from PySide6.QtCore import QPointF

from avrin.project.project import Project, Widget

__all__ = ["Drag"]


class Drag:
    """A drag: its start, the project and the selected widget at that time, and the dragged corner, if any.

    picks: the widget to select alone if the button is released without a move, "" for none.
    """

    def __init__(self, start: QPointF, project: Project, widget: Widget, corner: int | None, picks: str = "") -> None:
        self.start = start
        self.project = project
        self.widget = widget
        self.corner = corner
        self.picks = picks
        self.moving = False
