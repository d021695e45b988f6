"""Pictures as pixels, for who measures them: PNG and SVG files, at a size."""

from __future__ import annotations

import functools
import io

import numpy as np

from avrin.render.artwork import artwork
from avrin.trace import FloatArray

__all__ = ["pixels"]


@functools.lru_cache(maxsize=32)
def pixels(source: str, width: int, height: int) -> FloatArray | None:
    """A picture file stretched to a size: sRGB over black, 0–1, shape (height, width, 3); None if it cannot be read."""
    content = artwork(source)
    if content is None:
        return None
    from PIL import Image

    try:
        if source.lower().endswith(".svg"):
            import resvg_py

            content = bytes(resvg_py.svg_to_bytes(svg_string=content.decode("utf-8"), width=width, height=height))
        with Image.open(io.BytesIO(content)) as image:
            whole = image.convert("RGBA").resize((width, height), Image.Resampling.BOX)
    except (OSError, ValueError, SyntaxError):
        return None
    data = np.asarray(whole, np.float64) / 255
    made: FloatArray = data[..., :3] * data[..., 3:]
    return made
