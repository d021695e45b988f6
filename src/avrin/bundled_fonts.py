"""Fonts bundled in a dependency. Unpacking takes a tenth of the start, so the unpacked files are cached."""

from __future__ import annotations

import functools
import importlib

from avrin.storage.cache import cache_get, cache_put, code_stamp
from avrin.storage.folders import cache_folder

__all__ = ["BOLD", "MONO", "PACKED", "REGULAR", "packed_font"]

REGULAR, BOLD, MONO = "FiraGO_Regular", "FiraGO_Bold", "FiraMono_Regular"
PACKED = {REGULAR: "figo", BOLD: "figbo", MONO: "fimo"}  # names in the dependency


@functools.cache
def packed_font(name: str) -> bytes:
    """Return the bytes of a font file. Raises KeyError for an unknown name."""
    copy = cache_folder() / "fonts" / f"{name}-{code_stamp('bundled_fonts.py')}.ttf"
    if (known := cache_get(copy)) is not None:
        return known
    data: bytes = importlib.import_module("pymupdf_fonts").myfont(PACKED[name])
    cache_put(copy, data, outdated=f"{name}-*.ttf")
    return data
