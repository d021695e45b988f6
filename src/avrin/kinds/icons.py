"""Built-in vector icons for pips, pictures and keys: outlines in a unit square."""

from __future__ import annotations

import functools
import math

from avrin.kinds.shapes import Box, Clip, Group, Path, Shape

__all__ = ["ICONS", "icon", "partly"]

Commands = tuple[tuple[str | float, ...], ...]


def _polygon(points: list[tuple[float, float]]) -> Commands:
    first, *rest = points
    return (("M", *first), *(("L", *p) for p in rest), ("Z",))


def _circle(x: float, y: float, r: float) -> Commands:
    k = 0.5523 * r
    return (
        ("M", x + r, y), ("C", x + r, y + k, x + k, y + r, x, y + r), ("C", x - k, y + r, x - r, y + k, x - r, y),
        ("C", x - r, y - k, x - k, y - r, x, y - r), ("C", x + k, y - r, x + r, y - k, x + r, y), ("Z",),
    )  # fmt: skip


def _star() -> Commands:
    points = []
    for i in range(10):
        r = 0.48 if i % 2 == 0 else 0.21
        angle = math.pi * (i / 5 - 0.5)
        points.append((0.5 + r * math.cos(angle), 0.53 + r * math.sin(angle)))
    return _polygon(points)


def _hexagon() -> Commands:
    return _polygon([(0.5 + 0.46 * math.cos(a), 0.5 + 0.46 * math.sin(a)) for a in (math.pi * i / 3 for i in range(6))])


ICONS: dict[str, Commands] = {
    "disc": _circle(0.5, 0.5, 0.45),
    "square": (("M", 0.08, 0.08), ("L", 0.92, 0.08), ("L", 0.92, 0.92), ("L", 0.08, 0.92), ("Z",)),
    "heart": (
        ("M", 0.5, 0.92), ("C", 0.16, 0.66, 0.04, 0.5, 0.04, 0.32), ("C", 0.04, 0.17, 0.15, 0.08, 0.28, 0.08),
        ("C", 0.38, 0.08, 0.46, 0.14, 0.5, 0.23), ("C", 0.54, 0.14, 0.62, 0.08, 0.72, 0.08),
        ("C", 0.85, 0.08, 0.96, 0.17, 0.96, 0.32), ("C", 0.96, 0.5, 0.84, 0.66, 0.5, 0.92), ("Z",),
    ),
    "drop": (
        ("M", 0.5, 0.03), ("C", 0.62, 0.26, 0.84, 0.44, 0.84, 0.65), ("C", 0.84, 0.84, 0.69, 0.97, 0.5, 0.97),
        ("C", 0.31, 0.97, 0.16, 0.84, 0.16, 0.65), ("C", 0.16, 0.44, 0.38, 0.26, 0.5, 0.03), ("Z",),
    ),
    "cell": (
        ("M", 0.38, 0.03), ("L", 0.62, 0.03), ("L", 0.62, 0.11), ("L", 0.7, 0.11), ("C", 0.77, 0.11, 0.8, 0.15, 0.8, 0.21),
        ("L", 0.8, 0.87), ("C", 0.8, 0.93, 0.77, 0.97, 0.7, 0.97), ("L", 0.3, 0.97), ("C", 0.23, 0.97, 0.2, 0.93, 0.2, 0.87),
        ("L", 0.2, 0.21), ("C", 0.2, 0.15, 0.23, 0.11, 0.3, 0.11), ("L", 0.38, 0.11), ("Z",),
    ),
    "coin": (*_circle(0.5, 0.5, 0.46), ("M", 0.4, 0.26), ("L", 0.4, 0.74), ("L", 0.6, 0.74), ("L", 0.6, 0.26), ("Z",)),
    "star": _star(),
    "nut": (*_hexagon(), ("M", 0.68, 0.5), ("C", 0.68, 0.4, 0.6, 0.32, 0.5, 0.32),
            ("C", 0.4, 0.32, 0.32, 0.4, 0.32, 0.5), ("C", 0.32, 0.6, 0.4, 0.68, 0.5, 0.68),
            ("C", 0.6, 0.68, 0.68, 0.6, 0.68, 0.5), ("Z",)),
    "skull": (
        ("M", 0.5, 0.05), ("C", 0.76, 0.05, 0.93, 0.22, 0.93, 0.45), ("C", 0.93, 0.6, 0.86, 0.7, 0.77, 0.76), ("L", 0.77, 0.92),
        ("L", 0.23, 0.92), ("L", 0.23, 0.76), ("C", 0.14, 0.7, 0.07, 0.6, 0.07, 0.45), ("C", 0.07, 0.22, 0.24, 0.05, 0.5, 0.05),
        ("Z",), ("M", 0.44, 0.5), ("C", 0.44, 0.42, 0.39, 0.37, 0.32, 0.37), ("C", 0.25, 0.37, 0.2, 0.42, 0.2, 0.5),
        ("C", 0.2, 0.58, 0.25, 0.62, 0.32, 0.62), ("C", 0.39, 0.62, 0.44, 0.58, 0.44, 0.5), ("Z",), ("M", 0.8, 0.5),
        ("C", 0.8, 0.42, 0.75, 0.37, 0.68, 0.37), ("C", 0.61, 0.37, 0.56, 0.42, 0.56, 0.5),
        ("C", 0.56, 0.58, 0.61, 0.62, 0.68, 0.62), ("C", 0.75, 0.62, 0.8, 0.58, 0.8, 0.5), ("Z",),
    ),
    "anchor": (
        ("M", 0.44, 0.3), ("L", 0.44, 0.35), ("L", 0.28, 0.35), ("L", 0.28, 0.45), ("L", 0.44, 0.45), ("L", 0.44, 0.84),
        ("C", 0.3, 0.81, 0.19, 0.72, 0.15, 0.6), ("L", 0.23, 0.62), ("L", 0.1, 0.42),
        ("L", 0.03, 0.65), ("L", 0.08, 0.63), ("C", 0.14, 0.84, 0.31, 0.96, 0.5, 0.96), ("C", 0.69, 0.96, 0.86, 0.84, 0.92, 0.63),
        ("L", 0.97, 0.65), ("L", 0.9, 0.42), ("L", 0.77, 0.62), ("L", 0.85, 0.6), ("C", 0.81, 0.72, 0.7, 0.81, 0.56, 0.84),
        ("L", 0.56, 0.45), ("L", 0.72, 0.45), ("L", 0.72, 0.35), ("L", 0.56, 0.35), ("L", 0.56, 0.3),
        ("C", 0.63, 0.28, 0.66, 0.23, 0.66, 0.18), ("C", 0.66, 0.09, 0.59, 0.03, 0.5, 0.03),
        ("C", 0.41, 0.03, 0.34, 0.09, 0.34, 0.18), ("C", 0.34, 0.23, 0.37, 0.28, 0.44, 0.3), ("Z",),
    ),
    "arrow": _polygon([(0.5, 0.06), (0.94, 0.5), (0.68, 0.5), (0.68, 0.94), (0.32, 0.94), (0.32, 0.5), (0.06, 0.5)]),
    "bolt": _polygon([(0.6, 0.03), (0.16, 0.56), (0.46, 0.56), (0.38, 0.97), (0.84, 0.4), (0.54, 0.4)]),
    "bell": (
        ("M", 0.5, 0.04), ("C", 0.55, 0.04, 0.58, 0.08, 0.58, 0.13), ("C", 0.75, 0.17, 0.82, 0.32, 0.82, 0.5),
        ("L", 0.82, 0.68), ("L", 0.92, 0.8), ("L", 0.08, 0.8), ("L", 0.18, 0.68), ("L", 0.18, 0.5),
        ("C", 0.18, 0.32, 0.25, 0.17, 0.42, 0.13), ("C", 0.42, 0.08, 0.45, 0.04, 0.5, 0.04), ("Z",), ("M", 0.38, 0.85),
        ("L", 0.62, 0.85), ("C", 0.61, 0.92, 0.57, 0.96, 0.5, 0.96), ("C", 0.43, 0.96, 0.39, 0.92, 0.38, 0.85), ("Z",),
    ),
}  # fmt: skip


@functools.lru_cache(maxsize=4096)
def _placed(name: str, x: float, y: float, width: float, height: float) -> Commands:
    return tuple(
        (command[0], *(float(part) * (width, height)[i % 2] + (x, y)[i % 2] for i, part in enumerate(command[1:])))
        for command in ICONS[name]
    )


def icon(
    name: str, x: float, y: float, width: float, height: float, fill: str, edge: str = "", edge_width: float = 0.0
) -> Path:
    """Return one of `ICONS` in a box. Raises KeyError for an unknown name."""
    return Path(_placed(name, x, y, width, height), fill, edge, edge_width)


def partly(
    name: str, x: float, y: float, size: float, share: float, fill: str, back: str, edge: str, edge_width: float
) -> tuple[Shape, ...]:
    """Return an icon filled from the left to a share of its width, 0–1; the rest in `back`."""
    shapes: list[Shape] = []
    if share < 1:
        shapes.append(icon(name, x, y, size, size, back))
    if share >= 1:
        shapes.append(icon(name, x, y, size, size, fill))
    elif share > 0:
        shapes.append(Group((icon(name, x, y, size, size, fill),), clip=Clip(x, y, size * share, size)))
    if edge and edge_width:
        shapes.append(icon(name, x, y, size, size, "", edge, edge_width))
    return tuple(shapes)


def key_cap(x: float, y: float, height: float, width: float, back: str, edge: str) -> Box:
    """Return the shape of a key cap."""
    return Box(x, y, width, height, back, height * 0.2, edge, max(1.0, height * 0.05))
