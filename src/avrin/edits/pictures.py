"""Give picture widgets the size and proportions of their file."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.project.project import Project, Widget

__all__ = ["in_own_size"]

MAX_SHARE = 0.6  # of the reference's sides: a larger picture is scaled down to it


def in_own_size(project: Project, widget: Widget, size: tuple[float, float] | None) -> Widget:
    """Return a picture widget as large as its file, scaled down to 60 % of the reference, and kept in its proportions.

    size: width and height of the file in its own pixels; None if unknown, then only the proportions are set.
    """
    options = {**widget.options, "proportions": "keep"}
    if size is None:
        return replace(widget, options=options)
    width, height = project.reference
    scale = min(1.0, MAX_SHARE * width / size[0], MAX_SHARE * height / size[1])
    own = (max(1.0, round(size[0] * scale)), max(1.0, round(size[1] * scale)))
    return replace(widget, options=options, place=replace(widget.place, size=own))
