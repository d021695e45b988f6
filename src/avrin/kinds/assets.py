"""Assets: built-in icons by name, pictures by path in the project's folder. A missing asset draws a clear placeholder."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Annotated

from msgspec import Meta

from avrin.errors import AvrinError
from avrin.kinds.icons import ICONS, icon
from avrin.kinds.shapes import Box, Picture, Shape, TextRun
from avrin.kinds.shapes import Path as Lines
from avrin.storage.files import inside

__all__ = ["Asset", "asset_file", "asset_shapes", "icon_name"]

Asset = Annotated[str, Meta(max_length=400, description="an icon's name or a picture's path")]


def icon_name(asset: str) -> str | None:
    """Return the icon an asset names, or None if it names a file."""
    return asset if asset in ICONS else None


def asset_file(asset: str, folder: Path) -> Path | None:
    """Return the file of an asset, or None if it is missing or outside the project's folder."""
    try:
        path = inside(folder, asset)
    except AvrinError:
        return None
    return path if os.path.isfile(path) else None  # noqa: PTH113  (asked on each frame: pathlib takes twice as long)


def asset_shapes(
    asset: str, folder: Path, x: float, y: float, width: float, height: float, tint: str = ""
) -> tuple[Shape, ...]:
    """Return the shapes of an asset in a box. tint: an icon's colour, or the colour a picture is multiplied by."""
    if not asset:
        return ()
    if asset in ICONS:
        side = min(width, height)
        return (icon(asset, x + (width - side) / 2, y + (height - side) / 2, side, side, tint or "#ffffff"),)
    path = asset_file(asset, folder)
    if path is not None:
        return (Picture(x, y, width, height, str(path), tint),)
    size = max(8.0, min(width, height) * 0.16)
    cross = (("M", x, y), ("L", x + width, y + height), ("M", x + width, y), ("L", x, y + height))
    name = asset.rsplit("/", 1)[-1]
    return (
        Box(x, y, width, height, "#3a1014c0", 0, "#ff6b78", 2),
        Lines(cross, edge="#ff6b78", edge_width=2),
        TextRun(x + width / 2, y + height / 2 + size * 0.35, f"no {name}", size, "#ffffff", False, "center"),
    )
