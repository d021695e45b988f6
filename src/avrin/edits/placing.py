"""Edit positions of several widgets: move, align, distribute, resize. Lengths in reference pixels."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Literal, get_args

from msgspec.structs import replace

from avrin.project.project import Anchor, Place, Project, Screen, Widget
from avrin.render.layout import Rect, anchor_point, safe_area, screen_scale
from avrin.render.scene import widget_rect

__all__ = [
    "WAYS",
    "Way",
    "aligned",
    "anchored_there",
    "in_grid",
    "moved",
    "only_moved",
    "put_at",
    "same_size",
    "shifted",
    "spread",
]

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


def anchored_there(project: Project, idents: Sequence[str], screen: Screen) -> Project:
    """Return the project with some widgets anchored to the corner, edge or middle nearest to their common box.

    None moves on this screen. Widgets that follow something and repeated ones keep their anchors; a pivot that equals the
    anchor goes with it.
    """
    free = [ident for ident in idents if not project.widget(ident).repeat]
    rects = _rects(project, free, screen)
    if not rects:
        return project
    anchor = _nearest_anchor(
        _around(list(rects.values())), safe_area(screen), project.widget(next(iter(rects))).place.anchor
    )
    for ident in rects:
        place = project.widget(ident).place
        if place.anchor != anchor:
            pivot = anchor if place.pivot == place.anchor else place.pivot
            project = put_at(project, ident, screen, anchor=anchor, pivot=pivot)
    return project


def _nearest_anchor(box: Rect, area: Rect, current: Anchor) -> Anchor:
    """Return the anchor whose edges or middle lines of the area are nearest to those of the box; among equals the current one."""
    x, y = anchor_point(current)
    across = _nearest(box.x, box.width, area.x, area.width, x)
    down = _nearest(box.y, box.height, area.y, area.height, y)
    return next(one for one in get_args(Anchor) if anchor_point(one) == (across, down))


def _nearest(start: float, length: float, low: float, room: float, current: float) -> float:
    """Return 0, 0.5 or 1: whether starts, middles or ends are nearest to each other along one axis."""
    away = {share: abs(start + share * length - (low + share * room)) for share in (0.0, 0.5, 1.0)}
    return min(away, key=lambda share: (round(away[share], 1), share != current))


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
