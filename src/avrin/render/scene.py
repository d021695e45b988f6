"""The display list of a whole screen at one moment: each visible widget's shapes, placed and in drawing order."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from avrin.model import Project, Screen, Widget
from avrin.model import replace as with_field
from avrin.render.bounds import bounds
from avrin.render.fonts import TextMeasure
from avrin.render.layout import Rect, placed, safe_area, screen_scale
from avrin.trace import Value
from avrin.widgets import Bound, BoundWidget, Drawing, Group, State, Tracks, seconds

__all__ = ["DIMMED", "Placed", "drawn_widget", "scene", "widget_rect", "widget_shapes", "widget_small"]

DIMMED = 0.3  # opacity of the second half of each flash
_MEASURE = TextMeasure()


@dataclass(frozen=True, slots=True)
class Placed:
    """A widget on the screen: its box in pixels, and its shapes."""

    ident: str
    rect: Rect
    group: Group


def scene(tracks: Tracks, frame: int, screen: Screen) -> list[Placed]:
    """All visible widgets at a frame, in drawing order. Coordinates in the screen's pixels."""
    clock = float(tracks.trace.t[frame]) if len(tracks.trace) else 0.0
    found = []
    for widget in tracks.bound.widgets.values():
        state = tracks.state(widget, frame)
        if state["visible"]:
            found.append(drawn_widget(widget, state, clock, tracks.bound, screen))
    return found


def drawn_widget(
    widget: BoundWidget, state: State, clock: float, bound: Bound, screen: Screen, hot: str = ""
) -> Placed:
    """One widget on a screen, whatever its `visible` says. hot: as in `Drawing`."""
    scale = screen_scale(bound.project, screen)
    rect = widget_rect(bound.project, widget.widget, screen)
    area = ((-rect.x) / scale, (-rect.y) / scale, screen.size[0] / scale, screen.size[1] / scale)
    inner = widget_shapes(widget, state, clock, bound, area, hot)
    group = Group(inner.shapes, rect.x, rect.y, scale, inner.opacity, name=widget.widget.id)
    return Placed(widget.widget.id, rect, group)


def widget_rect(project: Project, widget: Widget, screen: Screen) -> Rect:
    """The widget's box on the screen, in pixels."""
    return placed(widget.place, safe_area(screen), screen_scale(project, screen), _shift(project, widget))


def widget_shapes(
    widget: BoundWidget,
    state: State,
    clock: float,
    bound: Bound,
    screen: tuple[float, float, float, float] | None = None,
    hot: str = "",
) -> Group:
    """One widget's shapes from its own upper left corner, in reference pixels, at its opacity."""
    look = widget.looks.get(str(state["band"] or ""), widget.looks[""])
    width, height = widget.widget.place.size
    placeholder, folder = bound.project.placeholder, bound.folder
    shapes = widget.kind.shapes(
        Drawing(state, width, height, widget.options, look, _MEASURE, placeholder, clock, folder, screen, hot)
    )
    opacity = _opacity(state)
    period = seconds(look.flash)
    if period and clock % period >= period / 2:
        opacity *= DIMMED
    return Group(shapes, opacity=opacity, name=widget.widget.id)


def widget_small(widget: BoundWidget, state: State, clock: float, bound: Bound, width: float, height: float) -> Group:
    """A widget drawn to fill a small box of width × height, without its caption, centred on the box."""
    bare = {**state, "caption": ""}
    if widget.kind.thumb is not None:
        wide, high = widget.kind.thumb
        own = widget.widget
        widget = replace(widget, widget=with_field(own, place=with_field(own.place, size=(wide, high))))
    group = widget_shapes(widget, bare, clock, bound)
    reach = bounds(group.shapes)
    if not reach.width or not reach.height:
        return group
    scale = min(width / reach.width, height / reach.height)
    x, y = reach.center
    return Group(group.shapes, width / 2 - x * scale, height / 2 - y * scale, scale, group.opacity, name=group.name)


def _opacity(state: Mapping[str, Value]) -> float:
    value = state.get("opacity")
    return min(1.0, max(0.0, float(value))) if isinstance(value, float) else 1.0


def _shift(project: Project, widget: Widget) -> tuple[float, float]:
    """The offsets of the groups a widget lies in, added up."""
    groups = {group.id: group for group in project.groups}
    x, y, ident = 0.0, 0.0, widget.group
    while ident in groups:
        x, y = x + groups[ident].offset[0], y + groups[ident].offset[1]
        ident = groups[ident].group
    return (x, y)
