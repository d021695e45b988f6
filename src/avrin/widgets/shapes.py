"""The display list: plain immutable shapes that every painter draws alike.

Lengths are reference pixels in the coordinates of the enclosing group, y down. Colours are "#rrggbb" or "#rrggbbaa";
"" is none. Two equal lists are the same picture.
"""

from __future__ import annotations

from typing import Literal, Protocol

from msgspec import Struct

__all__ = [
    "Align",
    "Box",
    "Clip",
    "Font",
    "Group",
    "Measure",
    "NineSlice",
    "Path",
    "Picture",
    "Shape",
    "TextRun",
    "hatched",
]

Align = Literal["left", "center", "right"]


class Box(Struct, frozen=True, tag=True):
    """A rectangle with round corners. The edge is drawn inside it."""

    x: float
    y: float
    width: float
    height: float
    fill: str = ""
    radius: float = 0.0
    edge: str = ""
    edge_width: float = 0.0


class Path(Struct, frozen=True, tag=True):
    """Straight and curved lines. commands: ("M", x, y), ("L", x, y), ("C", x1, y1, x2, y2, x, y), ("Z",)."""

    commands: tuple[tuple[str | float, ...], ...]
    fill: str = ""
    edge: str = ""
    edge_width: float = 0.0


class Font(Struct, frozen=True):
    """Letters of one shape. file: a font's path, or the name of one that comes along. index: which of several in it.

    weight: of a font whose weight can be set, 0 for its own. even: figures are all as wide as the widest.
    """

    file: str
    index: int = 0
    weight: int = 0
    even: bool = True


class TextRun(Struct, frozen=True, tag=True):
    """One line of text. x: its left end, middle or right end, as `align` says; y: its baseline. size: pixels an em.

    edge: an outline around the letters, `edge_width` wide, under them. font: None for the one that comes along.
    """

    x: float
    y: float
    text: str
    size: float
    fill: str
    bold: bool = False
    align: Align = "left"
    edge: str = ""
    edge_width: float = 0.0
    font: Font | None = None


class Picture(Struct, frozen=True, tag=True):
    """A picture file, stretched to the rectangle. tint: what its colours are multiplied by, "" for nothing.

    part: of the file, x, y, width and height in its own pixels; None for all of it.
    """

    x: float
    y: float
    width: float
    height: float
    source: str
    tint: str = ""
    part: tuple[float, float, float, float] | None = None


class NineSlice(Struct, frozen=True, tag=True):
    """A picture file in a rectangle: its corners keep their size, the rest is stretched.

    border: left, top, right and bottom, in the picture's pixels.
    """

    x: float
    y: float
    width: float
    height: float
    source: str
    border: tuple[float, float, float, float]


class Clip(Struct, frozen=True, tag=True):
    """Only what falls into a rectangle with round corners is drawn."""

    x: float
    y: float
    width: float
    height: float
    radius: float = 0.0


class Group(Struct, frozen=True, tag=True):
    """Shapes moved, then scaled; drawn together at an opacity of 0–1. name: the widget's id, or "".

    whole: it keeps its order where the HUD stands the other way round. eyes: by which it is looked at, one of
    `avrin.render.colour.EYES`; "" for full colour. Such a group has a clip, and covers it.
    """

    shapes: tuple[Shape, ...]
    dx: float = 0.0
    dy: float = 0.0
    scale: float = 1.0
    opacity: float = 1.0
    clip: Clip | None = None
    name: str = ""
    eyes: str = ""
    whole: bool = False


Shape = Box | Path | TextRun | Picture | NineSlice | Group


class Measure(Protocol):
    """What a kind may ask about text before drawing it."""

    def width(self, text: str, size: float, bold: bool = False) -> float:
        """Advance width of one line in the unit of `size`."""
        ...

    def cap_height(self, size: float, bold: bool = False) -> float:
        """Height of a capital letter over the baseline."""
        ...


MISSING_BACK, MISSING_LINE = "#efebe2", "#b8b1a3"


def hatched(x: float, y: float, width: float, height: float, radius: float = 3.0) -> Group:
    """The mark of a missing value, which nobody takes for live data: a pale box with slanted lines."""
    step = max(8.0, min(width, height) / 2)
    lines: list[tuple[str | float, ...]] = []
    left = x - height
    while left < x + width:
        lines += [("M", left, y + height), ("L", left + height, y)]
        left += step
    return Group(
        (Box(x, y, width, height, MISSING_BACK), Path(tuple(lines), edge=MISSING_LINE, edge_width=step / 3.5)),
        clip=Clip(x, y, width, height, radius),
    )
