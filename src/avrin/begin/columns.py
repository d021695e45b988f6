"""Tables that are made with columns as wide as what was recorded needs."""

from __future__ import annotations

from pathlib import Path

from avrin.model import Project, Widget
from avrin.render import columns_fitted
from avrin.trace import Trace
from avrin.widgets import KINDS, Bound, Tracks, bind

__all__ = ["with_columns"]


def with_columns(
    project: Project, widget: Widget, trace: Trace, before: Bound | None = None, folder: Path = Path()
) -> Widget:
    """Return a widget whose columns, if it has any, have room for every text over a recording.

    project: the one it is made for. before, folder: as of `bind`.
    """
    kind = KINDS.get(widget.kind)
    if kind is None or not kind.has_columns:
        return widget
    bound = bind(project.with_widget(widget), before, trace.event_kinds, folder)
    made = bound.widgets.get(widget.id)
    return columns_fitted([Tracks(bound, trace, only=[made])], made) if made is not None else widget
