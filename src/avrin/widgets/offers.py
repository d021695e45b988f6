"""From one variable to a complete widget: what dragging a variable onto the picture makes."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.model import Place, Project, Variable, Widget
from avrin.widgets.registry import KINDS

__all__ = ["free_id", "offers", "placed_at"]


def offers(variable: Variable, project: Project) -> list[Widget]:
    """A complete widget of each kind that suits the variable, the best first, with ids that are still free."""
    found = [kind.offer(variable, project) for kind in KINDS.values()]
    return [replace(w, id=free_id(w.id, project)) for w in found if w is not None]


def free_id(wanted: str, project: Project) -> str:
    """`wanted`, or with a number where a widget has that id already."""
    taken = {widget.id for widget in project.widgets}
    number, ident = 2, wanted
    while ident in taken:
        ident, number = f"{wanted}_{number}", number + 1
    return ident


def placed_at(widget: Widget, x: float, y: float, project: Project) -> Widget:
    """The widget centred on a point of the screen (reference pixels), hanging from the corner or side nearest to it."""
    width, height = project.reference
    column = min(2, max(0, int(3 * x / width)))
    row = min(2, max(0, int(3 * y / height)))
    names = ("top-left", "top", "top-right", "left", "center", "right", "bottom-left", "bottom", "bottom-right")
    anchor = names[row * 3 + column]
    wide, high = widget.place.size
    # Anchor and pivot are the same point of screen and widget, so the offset is the distance between the two.
    left = x - wide / 2 + wide * column / 2 - width * column / 2
    top = y - high / 2 + high * row / 2 - height * row / 2
    place = Place(anchor=anchor, pivot=anchor, offset=(float(round(left)), float(round(top))), size=(wide, high))  # type: ignore[arg-type]
    return replace(widget, place=place)
