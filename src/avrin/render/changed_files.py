"""What is cached of picture and font files without their stamps, dropped when one of them changes on disk."""

from __future__ import annotations

from avrin.render import fonts, pixels

__all__ = ["drop_files"]


def drop_files() -> None:
    """Drop everything read from picture and font files; it is read again when it is next drawn."""
    pixels.pixels.cache_clear()
    fonts.drop_fonts()
