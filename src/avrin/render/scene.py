"""The display list of a whole screen at one frame: each visible widget's shapes, placed and in drawing order."""

from __future__ import annotations

import functools
import logging
import math
from collections.abc import Mapping
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.kinds.kind import Cell, Drawing, Grip, State
from avrin.kinds.look import Look, seconds
from avrin.kinds.shapes import Box, Group, Measure, Shape, TextRun
from avrin.kinds.shapes import Path as Lines
from avrin.project.project import Project, Screen, Widget
from avrin.render.bounds import bounds
from avrin.render.drawing_errors import note_fault
from avrin.render.fonts import TextMeasure, typeface
from avrin.render.inline_icons import with_icons
from avrin.render.layout import Rect, following, held_inside, placed, safe_area, screen_fit, screen_scale
from avrin.render.mirroring import mirrored, mirrored_rect
from avrin.render.transitions import in_motion
from avrin.rules.template import ICON_MARK
from avrin.trace.frames import Value

__all__ = [
    "DIMMED",
    "Placed",
    "cells",
    "drawn_widget",
    "grips",
    "is_drawn",
    "scene",
    "widget_rect",
    "widget_shapes",
]

log = logging.getLogger(__name__)
DIMMED = 0.3  # opacity of the second half of each flash
_PLAIN = TextMeasure()


class _Fonts(NamedTuple):
    """Fonts that a look's letters are measured and drawn in; there: whether the named font exists."""

    measure: TextMeasure
    there: bool = True


class Placed(Struct, dict=True):
    """A widget on the screen: its box in pixels, and its shapes. slot: of a repeated widget."""

    ident: str
    rect: Rect
    group: Group
    slot: int = 0

    @cached_property
    def reach(self) -> Rect:
        """The rectangle of the screen, in pixels, that its shapes cover; it may exceed its box."""
        return bounds((self.group,))


def scene(tracks: Tracks, frame: int, screen: Screen, hot: Mapping[str, str] | None = None) -> list[Placed]:
    """Return all visible widgets at a frame, in drawing order, in the screen's pixels.

    hot: "hover" or "held" by the id of the widget under a pointer.
    """
    clock = float(tracks.trace.t[frame]) if len(tracks.trace) else 0.0
    found = []
    for ident, whole in tracks.bound.widgets.items():
        for widget in whole.each():
            state = tracks.state(widget, frame)
            if is_drawn(widget, state):
                found.append(drawn_widget(widget, state, clock, tracks.bound, screen, (hot or {}).get(ident, "")))
    return found


def is_drawn(widget: BoundWidget, state: State) -> bool:
    """Return whether a widget is drawn: visible or leaving, and the position it follows exists."""
    return bool(state["visible"] or state.get("presence")) and (
        widget.widget.place.follow is None or None not in (state["follow_x"], state["follow_y"])
    )


def drawn_widget(
    widget: BoundWidget,
    state: State,
    clock: float,
    bound: Bound,
    screen: Screen,
    hot: str = "",
    rect: Rect | None = None,
    *,
    still: bool = False,
) -> Placed:
    """Return one widget on a screen, regardless of `visible`. hot: see `Drawing`. rect: its box, if it does not move.

    still: without transitions, pops and flashing.
    """
    scale = screen_scale(bound.project, screen)
    away = None
    if rect is None:
        rect, away = _rect_at(bound, widget, state, screen)
    plain = mirrored_rect(rect, screen.size[0]) if _is_mirrored(bound) else rect
    area = ((-plain.x) / scale, (-plain.y) / scale, screen.size[0] / scale, screen.size[1] / scale)
    inner = widget_shapes(widget, state, clock, bound, area, hot, still=still)
    shapes = inner.shapes
    if away is not None:
        shapes = (*shapes, _arrow(rect, away, scale, widget.looks[""].text))
    group = Group(shapes, rect.x, rect.y, scale, inner.opacity, name=widget.widget.id)
    if not still and (widget.widget.pop or widget.widget.enter or widget.widget.leave):
        group = in_motion(group, widget.widget, state, rect, screen.size)
    return Placed(widget.widget.id, rect, group, widget.slot)


def moved_widget(last: Placed, widget: BoundWidget, bound: Bound, screen: Screen) -> Placed:
    """Return an unchanged widget moved on the same screen; it must not follow anything."""
    rect, _ = _rect_at(bound, widget, {}, screen)
    dx, dy = rect.x - last.rect.x, rect.y - last.rect.y
    made = Placed(last.ident, rect, replace(last.group, dx=last.group.dx + dx, dy=last.group.dy + dy), last.slot)
    reach = last.reach
    made.__dict__["reach"] = Rect(reach.x + dx, reach.y + dy, reach.width, reach.height)
    return made


def _is_mirrored(bound: Bound) -> bool:
    return bound.language is not None and bound.language.mirrored


def _rect_at(
    bound: Bound, widget: BoundWidget, state: State, screen: Screen
) -> tuple[Rect, tuple[float, float] | None]:
    """Return a widget's current box in pixels, and the position it follows if it was held back and shows an arrow.

    A followed position is not mirrored with the HUD.
    """
    project = bound.project
    place = widget.widget.place
    step = (place.step[0] * widget.slot, place.step[1] * widget.slot)
    x, y = state.get("follow_x"), state.get("follow_y")
    if place.follow is None or not isinstance(x, float) or not isinstance(y, float):
        shift = _shift(project, widget.widget)
        moved = (shift[0] + step[0], shift[1] + step[1])
        rect = placed(place, safe_area(screen), screen_scale(project, screen), moved)
        return (mirrored_rect(rect, screen.size[0]) if _is_mirrored(bound) else rect), None
    fit, scale = screen_fit(project, screen), screen_scale(project, screen)
    rect = following(place, (x * fit + step[0] * scale, y * fit + step[1] * scale), scale)
    if not place.follow.hold:
        return rect, None
    held = held_inside(rect, safe_area(screen))
    return held, (x * fit, y * fit) if place.follow.arrow and held != rect else None


def _arrow(rect: Rect, thing: tuple[float, float], scale: float, colour: str) -> Group:
    """Return an arrow next to a widget's box, in its own coordinates, pointing at a position."""
    size = 22.0
    width, height = rect.width / scale, rect.height / scale
    dx, dy = (thing[0] - rect.center[0]) / scale, (thing[1] - rect.center[1]) / scale
    length = math.hypot(dx, dy) or 1.0
    dx, dy = dx / length, dy / length
    # From the centre to the box's edge, and slightly further.
    reach = min((width / 2) / abs(dx) if dx else math.inf, (height / 2) / abs(dy) if dy else math.inf) + size * 0.8
    x, y = width / 2 + dx * reach, height / 2 + dy * reach
    tip, left, right = (1.0, 0.0), (-0.6, -0.75), (-0.6, 0.75)
    points = [
        (x + size / 2 * (a * dx - b * dy), y + size / 2 * (a * dy + b * dx)) for a, b in (tip, left, (-0.2, 0.0), right)
    ]
    first, *rest = points
    return Group((Lines((("M", *first), *(("L", *p) for p in rest), ("Z",)), colour),))


def widget_rect(project: Project, widget: Widget, screen: Screen) -> Rect:
    """Return the widget's box on the screen, in pixels."""
    return placed(widget.place, safe_area(screen), screen_scale(project, screen), _shift(project, widget))


def widget_shapes(
    widget: BoundWidget,
    state: State,
    clock: float,
    bound: Bound,
    screen: tuple[float, float, float, float] | None = None,
    hot: str = "",
    *,
    still: bool = False,
) -> Group:
    """Return a widget's shapes relative to its upper left corner, in reference pixels, at its opacity. still: not flashing."""
    drawing, fonts = _drawing(widget, state, clock, bound, screen, hot)
    look, measure, folder = drawing.look, drawing.measure, bound.folder
    try:
        shapes = widget.kind.shapes(drawing)
    except Exception:  # an error in one kind must not hide the rest of the HUD
        log.exception("%s could not be drawn", widget.widget.id)
        note_fault(f"{widget.widget.id} could not be drawn: an internal error")
        shapes = (Box(0, 0, drawing.width, drawing.height, "#3a1014c0", 0, "#ff6b78", 2),)
    if _is_mirrored(bound):
        shapes = mirrored(shapes, drawing.width)
    if widget.has_icons:
        shapes = tuple(part for shape in shapes for part in _iconed(shape, measure, folder))
    if look.outline or look.shadow or fonts is not None:
        shapes = tuple(part for shape in shapes for part in _lettered(shape, look, fonts))
    opacity = _opacity(state)
    period = seconds(look.flash)
    if period and not still and clock % period >= period / 2:
        opacity *= DIMMED
    return Group(shapes, opacity=opacity, name=widget.widget.id)


def _drawing(
    widget: BoundWidget,
    state: State,
    clock: float,
    bound: Bound,
    screen: tuple[float, float, float, float] | None = None,
    hot: str = "",
) -> tuple[Drawing, _Fonts | None]:
    """Return the input for drawing a widget, and the fonts its look names."""
    look = widget.looks.get(str(state["band"] or ""), widget.looks[""])
    spare = bound.language.font if bound.language is not None else ""
    fonts = _fonts(look.font, look.figures == "even", bound.folder, spare)
    measure = _PLAIN if fonts is None else fonts.measure
    options, placeholder = widget.options, bound.project.placeholder
    drawn = (state, *widget.widget.place.size, options, look, measure, placeholder, clock, bound.folder, screen, hot)
    return Drawing(*drawn), fonts


def grips(widget: BoundWidget, state: State, bound: Bound) -> tuple[Grip, ...]:
    """Return the handles of a widget as drawn in a state."""
    return tuple(widget.kind.grips(_drawing(widget, state, 0.0, bound)[0]))


def cells(widget: BoundWidget, state: State, bound: Bound) -> tuple[tuple[Cell, float], ...]:
    """Return the widget's texts in columns as drawn in a state, each with its width in reference pixels."""
    drawing, _ = _drawing(widget, state, 0.0, bound)
    return tuple((cell, drawing.measure.width(cell.text, cell.size, cell.bold)) for cell in widget.kind.cells(drawing))


def _fonts(name: str, even: bool, folder: Path, spare: str) -> _Fonts | None:
    """Return the fonts of a look and a language; None for the bundled ones."""
    if not name and even and not spare:
        return None
    plain, bold = (typeface(name, folder, bold=heavy, even=even) for heavy in (False, True))
    if plain is None or bold is None:
        return _Fonts(_PLAIN, there=False)
    more = [typeface(spare, folder, bold=heavy, even=even) for heavy in (False, True)] if spare else []
    found = tuple(font for font in more if font is not None)
    return _Fonts(_measure(plain, bold, (found[0], found[1]) if len(found) == 2 else None))


_measure = functools.lru_cache(maxsize=64)(TextMeasure)


def _iconed(shape: Shape, measure: Measure, folder: Path) -> tuple[Shape, ...]:
    """Return a shape with the icons named in its texts, at any depth."""
    if isinstance(shape, Group):
        return (replace(shape, shapes=tuple(part for one in shape.shapes for part in _iconed(one, measure, folder))),)
    if isinstance(shape, TextRun) and ICON_MARK in shape.text:
        return tuple(with_icons(shape, measure, folder))
    return (shape,)


def _lettered(shape: Shape, look: Look, fonts: _Fonts | None) -> tuple[Shape, ...]:
    """Return a shape with the look's font, outline and shadow on its letters, at any depth."""
    if isinstance(shape, Group):
        inner = tuple(part for one in shape.shapes for part in _lettered(one, look, fonts))
        return (replace(shape, shapes=inner),)
    if not isinstance(shape, TextRun):
        return (shape,)
    if fonts is not None:
        if not fonts.there and shape.text:
            reach = bounds((shape,))
            return Box(*reach, "#3a1014c0", 0, "#ff6b78", 2), shape
        if fonts.there:
            shape = replace(shape, font=fonts.measure.font(shape.text, shape.bold))
    edge = look.outline_width if look.outline else 0.0
    run = replace(shape, edge=look.outline, edge_width=edge) if edge else shape
    if not look.shadow:
        return (run,)
    dx, dy = look.shadow_at
    under = replace(
        shape, x=shape.x + dx, y=shape.y + dy, fill=look.shadow, edge=look.shadow if edge else "", edge_width=edge
    )
    return (under, run)


def _opacity(state: Mapping[str, Value]) -> float:
    value = state.get("opacity")
    return min(1.0, max(0.0, float(value))) if isinstance(value, float) else 1.0


def _shift(project: Project, widget: Widget) -> tuple[float, float]:
    """Return the sum of the offsets of a widget's groups."""
    x, y, ident = 0.0, 0.0, widget.group
    groups = {group.id: group for group in project.groups} if ident else {}
    while ident in groups:
        x, y = x + groups[ident].offset[0], y + groups[ident].offset[1]
        ident = groups[ident].group
    return (x, y)
