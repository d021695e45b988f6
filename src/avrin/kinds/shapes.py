"""The display list: immutable shapes that every painter draws alike.

Lengths are reference pixels in the coordinates of the enclosing group, y down. Colours are "#rrggbb" or "#rrggbbaa";
"" is no colour. Equal lists give equal pictures.
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
    """A rectangle with rounded corners. The edge is drawn inside it."""

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
    """A font. file: a path, or the name of a bundled one. index: of a font in a collection.

    weight: for a variable font, 0 for its default. even: tabular digits.
    """

    file: str
    index: int = 0
    weight: int = 0
    even: bool = True


class TextRun(Struct, frozen=True, tag=True):
    """One line of text. x: its left end, centre or right end, by `align`; y: its baseline. size: pixels per em.

    edge: an outline below the letters, `edge_width` wide. font: None for the bundled one.
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
    """A picture file, stretched to the rectangle. tint: multiplied with its colours, "" for none.

    part: of the file: x, y, width and height in its own pixels; None for all of it.
    """

    x: float
    y: float
    width: float
    height: float
    source: str
    tint: str = ""
    part: tuple[float, float, float, float] | None = None


class NineSlice(Struct, frozen=True, tag=True):
    """A picture file in a rectangle: the corners keep their size, the rest is stretched.

    border: left, top, right and bottom, in the picture's pixels.
    """

    x: float
    y: float
    width: float
    height: float
    source: str
    border: tuple[float, float, float, float]


class Clip(Struct, frozen=True, tag=True):
    """A rectangle with rounded corners that clips its shapes."""

    x: float
    y: float
    width: float
    height: float
    radius: float = 0.0


class Group(Struct, frozen=True, tag=True):
    """Shapes moved, then scaled, and drawn together at an opacity of 0–1. name: the widget's id, or "".

    unmirrored: not mirrored when the HUD is. eyes: a colour vision deficiency to simulate, one of
    `avrin.render.colour.EYES`; "" for normal vision. Such a group has a clip and fills it.
    """

    shapes: tuple[Shape, ...]
    dx: float = 0.0
    dy: float = 0.0
    scale: float = 1.0
    opacity: float = 1.0
    clip: Clip | None = None
    name: str = ""
    eyes: str = ""
    unmirrored: bool = False


Shape = Box | Path | TextRun | Picture | NineSlice | Group


class Measure(Protocol):
    """Text measurements available to kinds before drawing."""

    def width(self, text: str, size: float, bold: bool = False) -> float:
        """Return the advance width of one line in the unit of `size`."""
        ...

    def cap_height(self, size: float, bold: bool = False) -> float:
        """Return the height of a capital letter above the baseline."""
        ...


MISSING_BACK, MISSING_LINE = "#efebe2", "#b8b1a3"


def hatched(x: float, y: float, width: float, height: float, radius: float = 3.0) -> Group:
    """Return the mark of a missing value, which cannot be mistaken for live data: a pale box with diagonal lines."""
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
