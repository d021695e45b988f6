"""Glyph sheets: characters from a picture, one cell each, instead of a font."""

from pathlib import Path
from typing import Annotated

from msgspec import Meta, Struct

from avrin.kinds.assets import Asset, asset_file, asset_shapes
from avrin.kinds.shapes import Align, Box, Group, Picture, Shape
from avrin.kinds.shapes import Path as Lines

__all__ = ["GlyphSheet", "written"]


class GlyphSheet(Struct, frozen=True, kw_only=True):
    """picture: a PNG file. cell: width and height of a character in its pixels. characters: row by row.

    per_row: cells per row, 0 for all in one row.
    """

    picture: Asset
    cell: tuple[Annotated[float, Meta(gt=0, le=4096)], Annotated[float, Meta(gt=0, le=4096)]]
    characters: Annotated[str, Meta(min_length=1, max_length=400)]
    per_row: Annotated[int, Meta(ge=0, le=400)] = 0


def written(
    sheet: GlyphSheet, folder: Path, text: str, x: float, base: float, height: float, align: Align, tint: str = ""
) -> tuple[Shape, ...]:
    """Return the shapes of a text, each character `height` high with its lower edge on `base`.

    A character missing from the sheet draws a visible placeholder.
    """
    wide = height * sheet.cell[0] / sheet.cell[1]
    left = x - wide * len(text) * {"left": 0.0, "center": 0.5, "right": 1.0}[align]
    path = asset_file(sheet.picture, folder)
    if path is None:
        return asset_shapes(sheet.picture or "sheet", folder, left, base - height, max(wide, wide * len(text)), height)
    per_row = sheet.per_row or len(sheet.characters)
    drawn: list[Shape] = []
    for number, character in enumerate(text):
        at = (left + number * wide, base - height, wide, height)
        index = sheet.characters.find(character)
        if index >= 0:
            row, column = divmod(index, per_row)
            part = (column * sheet.cell[0], row * sheet.cell[1], *sheet.cell)
            drawn.append(Picture(*at, str(path), tint, part))
        elif character != " ":
            drawn += _unknown(*at)
    return (Group(tuple(drawn), unmirrored=True),)


def _unknown(x: float, y: float, width: float, height: float) -> tuple[Shape, ...]:
    cross = (("M", x, y), ("L", x + width, y + height), ("M", x + width, y), ("L", x, y + height))
    return Box(x, y, width, height, "#3a1014c0", 0, "#ff6b78", 2), Lines(cross, edge="#ff6b78", edge_width=2)
