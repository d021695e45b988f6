"""Simulate colour vision deficiencies on a picture, pixel by pixel in linear light."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QImage

from avrin.render.colour import picture_seen_by

__all__ = ["as_seen_with"]


def as_seen_with(image: QImage, eyes: str) -> QImage:
    """Return an opaque picture as seen with a deficiency."""
    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    width, height, line = plain.width(), plain.height(), plain.bytesPerLine()
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(height, line)
    pixels = rows[:, : 3 * width].reshape(height, width, 3)
    turned = np.ascontiguousarray(picture_seen_by(pixels, eyes))
    made = QImage(turned.data, width, height, 3 * width, QImage.Format.Format_RGB888)
    return made.copy()  # the array's memory is freed when this function returns
