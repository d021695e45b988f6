"""Paint into a picture of its own, closing the painter on any error: Qt requires that."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtGui import QPaintDevice, QPainter

__all__ = ["painting"]


@contextmanager
def painting(device: QPaintDevice) -> Iterator[QPainter]:
    """Yield a painter on a picture or a widget."""
    painter = QPainter(device)
    try:
        yield painter
    finally:
        painter.end()
