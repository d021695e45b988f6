"""Painting into a picture of its own: whatever happens, its painter is closed, as the toolkit cannot do with one left open."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtGui import QPaintDevice, QPainter

__all__ = ["painting"]


@contextmanager
def painting(device: QPaintDevice) -> Iterator[QPainter]:
    """A painter on a picture or a widget."""
    painter = QPainter(device)
    try:
        yield painter
    finally:
        painter.end()
