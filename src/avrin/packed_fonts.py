"""The fonts that come with the program, packed in a dependency; unpacking takes a start's tenth, so a copy is kept."""

from __future__ import annotations

import functools
import importlib

from avrin.model import cache_folder, code_stamp, keep, kept

__all__ = ["BOLD", "MONO", "PACKED", "REGULAR", "packed_font"]

REGULAR, BOLD, MONO = "FiraGO_Regular", "FiraGO_Bold", "FiraMono_Regular"
PACKED = {REGULAR: "figo", BOLD: "figbo", MONO: "fimo"}  # as the dependency calls them


@functools.cache
def packed_font(name: str) -> bytes:
    """The file of one of them. Raises KeyError for a name that none has."""
    copy = cache_folder() / "fonts" / f"{name}-{code_stamp('packed_fonts.py')}.ttf"
    if (known := kept(copy)) is not None:
        return known
    data: bytes = importlib.import_module("pymupdf_fonts").myfont(PACKED[name])
    keep(copy, data, f"{name}-*.ttf")
    return data
