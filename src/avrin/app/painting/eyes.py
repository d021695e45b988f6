"""Pictures as other eyes see them: painted apart, and turned pixel by pixel in linear light."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QImage

from avrin.render import picture_seen_by

__all__ = ["seen"]


def seen(image: QImage, eyes: str) -> QImage:
    """What eyes see of an opaque picture."""
    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    width, height, line = plain.width(), plain.height(), plain.bytesPerLine()
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(height, line)
    pixels = rows[:, : 3 * width].reshape(height, width, 3)
    turned = np.ascontiguousarray(picture_seen_by(pixels, eyes))
    made = QImage(turned.data, width, height, 3 * width, QImage.Format.Format_RGB888)
    return made.copy()  # of its own: the array goes with this call
