"""Edit positions of several widgets: move, align, distribute, resize. Lengths in reference pixels."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Literal, get_args

from msgspec.structs import replace

from avrin.project.project import Anchor, Place, Project, Screen, Widget
from avrin.render.layout import Rect, safe_area, screen_scale
from avrin.render.scene import widget_rect

__all__ = ["WAYS", "Way", "aligned", "in_grid", "moved", "only_moved", "put_at", "same_size", "shifted", "spread"]

Way = Literal["left", "middle", "right", "top", "centre", "bottom"]
WAYS: tuple[Way, ...] = get_args(Way)
FURTHEST = 100_000.0  # of an offset
LEAST, MOST = 1.0, 100_000.0  # of a size


def moved(project: Project, idents: Collection[str], dx: float, dy: float) -> Project:
    """Return the project with some widgets moved."""
    return _placed(project, dict.fromkeys(idents, (dx, dy)))


def only_moved(before: Project, after: Project) -> bool:
    """Return whether two projects differ only in offsets of widgets."""
    if len(before.widgets) != len(after.widgets) or replace(before, widgets=after.widgets) != after:
        return False
    return all(
        one is other or replace(one, place=replace(one.place, offset=other.place.offset)) == other
        for one, other in zip(before.widgets, after.widgets, strict=True)
    )


def aligned(project: Project, idents: Sequence[str], way: Way, screen: Screen) -> Project:
    """Return the project with some widgets aligned to their outermost edge or common centre.

    A single one is aligned to the screen's safe area.
    """
    rects = _rects(project, idents, screen)
    if not rects:
        return project
    whole = _around(list(rects.values())) if len(rects) > 1 else safe_area(screen)
    scale = screen_scale(project, screen)
    edge: Callable[[Rect], float] = {
        "left": lambda r: r.x, "middle": lambda r: r.x + r.width / 2, "right": lambda r: r.x + r.width,
        "top": lambda r: r.y, "centre": lambda r: r.y + r.height / 2, "bottom": lambda r: r.y + r.height,
    }[way]  # fmt: skip
    across = way in ("left", "middle", "right")
    shifts = {ident: (edge(whole) - edge(rect)) / scale for ident, rect in rects.items()}
    return _placed(project, {ident: (by, 0.0) if across else (0.0, by) for ident, by in shifts.items()})


def spread(project: Project, idents: Sequence[str], across: bool, screen: Screen) -> Project:
    """Return the project with equal gaps between some widgets; the outer two stay. Needs at least three."""
    rects = _rects(project, idents, screen)
    if len(rects) < 3:
        return project
    scale = screen_scale(project, screen)

    def start(rect: Rect) -> float:
        return rect.x if across else rect.y

    def long(rect: Rect) -> float:
        return rect.width if across else rect.height

    order = sorted(rects, key=lambda ident: (start(rects[ident]), start(rects[ident]) + long(rects[ident])))
    first, last = rects[order[0]], rects[order[-1]]
    free = start(last) + long(last) - start(first) - sum(long(rect) for rect in rects.values())
    gap, at, shifts = free / (len(order) - 1), start(first), dict[str, tuple[float, float]]()
    for ident in order:
        by = (at - start(rects[ident])) / scale
        shifts[ident] = (by, 0.0) if across else (0.0, by)
        at += long(rects[ident]) + gap
    return _placed(project, shifts)


def same_size(project: Project, idents: Sequence[str], *, wide: bool = False, high: bool = False) -> Project:
    """Return the project with some widgets as wide, or as high, as the first of them."""
    if not idents:
        return project
    model = project.widget(idents[0]).place.size
    chosen = set(idents)

    def sized(widget: Widget) -> Widget:
        size = (model[0] if wide else widget.place.size[0], model[1] if high else widget.place.size[1])
        return replace(widget, place=replace(widget.place, size=size))

    return replace(project, widgets=tuple(sized(w) if w.id in chosen else w for w in project.widgets))


def in_grid(project: Project, idents: Sequence[str], columns: int, gap: float, screen: Screen) -> Project:
    """Return the project with some widgets in rows of `columns`, from the first one's corner, `gap` apart."""
    rects = _rects(project, idents, screen)
    if not rects or columns < 1:
        return project
    scale = screen_scale(project, screen)
    first = rects[idents[0]]
    wide = max(rect.width for rect in rects.values()) + gap * scale
    high = max(rect.height for rect in rects.values()) + gap * scale
    shifts = {}
    for number, ident in enumerate(rects):
        row, column = divmod(number, columns)
        rect = rects[ident]
        shifts[ident] = ((first.x + column * wide - rect.x) / scale, (first.y + row * high - rect.y) / scale)
    return _placed(project, shifts)


def put_at(
    project: Project,
    ident: str,
    screen: Screen,
    *,
    anchor: Anchor | None = None,
    pivot: Anchor | None = None,
    x: float | None = None,
    y: float | None = None,
    wide: float | None = None,
    high: float | None = None,
) -> Project:
    """Return the project with one widget at an exact position. x, y: its offset; wide, high: its size.

    anchor, pivot: with a new one its upper left corner stays where it is on this screen unless an offset is given.
    """  # fmt: skip
    widget = project.widget(ident)
    before = widget_rect(project, widget, screen)
    place = replace(
        widget.place, anchor=anchor or widget.place.anchor, pivot=pivot or widget.place.pivot,
        size=(_within(wide, widget.place.size[0]), _within(high, widget.place.size[1])),
    )  # fmt: skip
    if (anchor or pivot) and x is None and y is None:
        scale = screen_scale(project, screen)
        now = widget_rect(project, replace(widget, place=place), screen)
        x0, y0 = place.offset
        offset = (x0 + (before.x - now.x) / scale, y0 + (before.y - now.y) / scale)
        place = replace(place, offset=(_near(offset[0]), _near(offset[1])))
    place = replace(
        place, offset=(place.offset[0] if x is None else _near(x), place.offset[1] if y is None else _near(y))
    )
    return project.with_widget(replace(widget, place=place))


def shifted(place: Place, dx: float, dy: float) -> Place:
    """Return a place moved right and down, within the limits of a project file."""
    x, y = place.offset
    return replace(place, offset=(_near(x + dx), _near(y + dy)))


def _within(size: float | None, current: float) -> float:
    return current if size is None else min(max(LEAST, size), MOST)


def _near(offset: float) -> float:
    return float(round(min(max(-FURTHEST, offset), FURTHEST), 2))


def _rects(project: Project, idents: Sequence[str], screen: Screen) -> dict[str, Rect]:
    """Return the boxes of those that follow nothing, in order."""
    known = {widget.id: widget for widget in project.widgets}
    found = (known[ident] for ident in idents if ident in known and known[ident].place.follow is None)
    return {widget.id: widget_rect(project, widget, screen) for widget in found}


def _around(rects: Sequence[Rect]) -> Rect:
    left, top = min(r.x for r in rects), min(r.y for r in rects)
    right, bottom = max(r.x + r.width for r in rects), max(r.y + r.height for r in rects)
    return Rect(left, top, right - left, bottom - top)


def _placed(project: Project, shifts: Mapping[str, tuple[float, float]]) -> Project:
    def at_place(widget: Widget) -> Widget:
        place = shifted(widget.place, *shifts.get(widget.id, (0.0, 0.0)))
        return widget if place == widget.place else replace(widget, place=place)

    return replace(project, widgets=tuple(map(at_place, project.widgets)))
