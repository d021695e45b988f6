"""The fonts that come with the program, packed in a dependency; unpacked once into the user's cache."""

from __future__ import annotations

import importlib
import os
from pathlib import Path

from avrin.model import cache_folder

__all__ = ["BOLD", "MONO", "PACKED", "REGULAR", "packed_font"]

REGULAR, BOLD, MONO = "FiraGO_Regular", "FiraGO_Bold", "FiraMono_Regular"
PACKED = {REGULAR: "figo", BOLD: "figbo", MONO: "fimo"}  # as the dependency calls them


def packed_font(name: str) -> Path:
    """One of them as a file on disk. Raises KeyError for a name that none has."""
    path = cache_folder() / "fonts" / f"{name}.ttf"
    if not path.exists():
        import tempfile

        package = importlib.import_module("pymupdf_fonts")
        data: bytes = package.myfont(PACKED[name])
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        Path(temporary).replace(path)
    return path
