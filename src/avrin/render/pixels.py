"""Pixels of picture files at a given size, for measurements: PNG and SVG."""

from __future__ import annotations

import functools
import hashlib
import io

import numpy as np

from avrin.errors import AvrinError
from avrin.render.artwork import artwork, picture_mark
from avrin.render.sandbox import Confined
from avrin.storage.cache import cache_get, cache_put, code_stamp
from avrin.storage.folders import cache_folder
from avrin.storage.reading import DAMAGED_PICTURE
from avrin.trace.frames import FloatArray

__all__ = ["pixels", "undrawable"]

_svg = Confined("avrin.render.resvg_process")


@functools.lru_cache(maxsize=32)
def pixels(source: str, width: int, height: int) -> FloatArray | None:
    """Return a picture file scaled to a size: sRGB over black, 0–1, shape (height, width, 3); None if it cannot be read."""
    content = artwork(source)
    if content is None:
        return None
    from PIL import Image  # late: 12 ms

    try:
        if source.lower().endswith(".svg"):
            content = _svg.drawn(content, width, height) or b""
        with Image.open(io.BytesIO(content)) as image:
            whole = image.convert("RGBA").resize((width, height), Image.Resampling.BOX)
    except (*DAMAGED_PICTURE, Image.DecompressionBombError, AvrinError):
        return None
    data = np.asarray(whole, np.float64) / 255
    made: FloatArray = data[..., :3] * data[..., 3:]
    return made


def undrawable(source: str, width: int, height: int) -> str:
    """Return why a picture file that `artwork` accepts still cannot be drawn at a size in pixels; "" if it can."""
    return _why_undrawable(source, picture_mark(source), width, height)


@functools.lru_cache(maxsize=256)
def _why_undrawable(source: str, _mark: tuple[int, int] | None, width: int, height: int) -> str:
    content = artwork(source)
    if content is None or not source.lower().endswith(".svg"):
        return "" if content is None or pixels(source, 8, 8) is not None else "is damaged"
    name = hashlib.blake2b(content + f"{width} {height} {code_stamp('render/sandbox.py')}".encode(), digest_size=16)
    file = (
        cache_folder() / "drawings" / name.hexdigest()
    )  # drawing it to find out takes up to a second, so the answer is cached
    if (known := cache_get(file)) is not None:
        return known.decode("utf-8", "replace")
    try:
        why = "" if _svg.drawn(content, width, height) is not None else "cannot be drawn"
    except AvrinError as error:
        why = error.problem
    cache_put(file, why.encode())
    return why
