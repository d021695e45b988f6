"""Draw a widget as a thumbnail: its own proportions, scaled as a whole."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.kinds.kind import State
from avrin.kinds.shapes import Clip, Group, Path, Shape
from avrin.render.layout import Rect
from avrin.render.lettering import flat_shapes
from avrin.render.scene import widget_shapes
from avrin.render.transitions import in_motion
from avrin.trace.frames import Value

__all__ = ["LEAST", "changing_over", "changing_part", "thumbnail"]

LEAST = 12.0  # pixels: a lower thumbnail is magnified to this height and cropped
LOOKED_AT = 9  # sampled frames of a recording
TOOTH = 3.0  # pixels of the teeth of a torn edge

Part = Callable[[], tuple[float, float]]


def thumbnail(
    widget: BoundWidget,
    state: State,
    clock: float,
    bound: Bound,
    size: tuple[float, float],
    *,
    part: Part = lambda: (0.0, 0.0),
    ground: str = "",
    moving: bool = False,
) -> Group:
    """Return a widget's shapes scaled into a box of `size` pixels, in its middle.

    A thumbnail lower than `LEAST` is magnified and cropped to the start of its changing part. part: returns
    that part along its width, in reference pixels. ground: the background colour, "#rrggbb",
    in which the torn edges are drawn. moving: with transitions and pops.
    """
    width, height = size
    own_width, own_height = widget.widget.place.size
    group = widget_shapes(widget, state, clock, bound)
    scale = min(width / own_width, height / own_height)
    seen = own_width
    left = 0.0
    if own_height * scale < min(LEAST, height):
        scale = min(LEAST, height) / own_height
        seen = min(own_width, width / scale)
        first, last = part()
        left = min(max(0.0, (first + last - seen) / 2 if last - first < seen else first), own_width - seen)
    x = (width - seen * scale) / 2
    small = Group(
        group.shapes, x - left * scale, (height - own_height * scale) / 2, scale, group.opacity, name=group.name
    )
    if moving:
        small = in_motion(small, widget.widget, state, Rect(0, 0, width, height), (width, height))
    if seen == own_width:
        return small
    torn = [*(_torn(0.0, height, 1.0, ground) if left > 0 else ())]
    torn += _torn(width, height, -1.0, ground) if left + seen < own_width else ()
    return Group((small, *torn), clip=Clip(0, 0, width, height, 0))


def _torn(x: float, height: float, inwards: float, ground: str) -> tuple[Shape, ...]:
    """Return teeth in the background colour along a vertical edge."""
    points: list[tuple[str | float, ...]] = [("M", x, 0.0)]
    y, tooth = 0.0, False
    while y < height:
        y, tooth = min(height, y + TOOTH), not tooth
        points.append(("L", x + (inwards * TOOTH if tooth else 0.0), y))
    return (Path((*points, ("L", x, height), ("Z",)), ground or "#000000"),)


def changing_part(
    widget: BoundWidget, states: Sequence[dict[str, Value]], clock: float, bound: Bound
) -> tuple[float, float]:
    """Return the part of a widget's width that differs between some states, in reference pixels."""
    drawn = [
        {
            repr((shape, rect)): rect
            for shape, rect, _ in flat_shapes((widget_shapes(widget, state, clock, bound),), 0, 0, 1, 1)
        }
        for state in states
        if state["visible"]
    ]
    if not drawn:
        return 0.0, 0.0
    common = set(drawn[0]).intersection(*drawn[1:])
    changing = [rect for shapes in drawn for name, rect in shapes.items() if name not in common]
    ends = [(rect.x, rect.x + rect.width) for rect in changing]
    return (min(end[0] for end in ends), max(end[1] for end in ends)) if ends else (0.0, 0.0)


def changing_over(tracks: Tracks, widget: BoundWidget) -> tuple[float, float]:
    """Return the same over a recording, from evenly sampled frames."""
    count = len(tracks.trace)
    frames = sorted({i * max(0, count - 1) // (LOOKED_AT - 1) for i in range(LOOKED_AT)}) if count else []
    states = [tracks.state_apart(widget, frame) for frame in frames]
    return changing_part(widget, states, 0.0, tracks.bound)
