"""Colour science: luminance, contrast, colour difference and colour vision deficiencies.

Colours are arrays of gamma-encoded sRGB, 0–1, shape (..., 3); leading axes broadcast.
"""

from __future__ import annotations

import functools

import numpy as np

from avrin.trace.frames import Array, FloatArray

__all__ = ["EYES", "VISIONS", "contrast_ratio", "delta_e", "over", "parsed", "picture_seen_by", "seen_by"]

# Machado, Oliveira and Fernandes 2009, "A physiologically-based model for simulation of color vision deficiency",
# table of severity 1.0; rows give linear red, green and blue.
VISIONS: dict[str, FloatArray] = {
    "full colour": np.eye(3),
    "no red cones": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "no green cones": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
    ),
    "no blue cones": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
    ),
}
STEPS = 16_384  # of linear light: near black one of the 255 values spans four of them
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
EYES: dict[str, FloatArray] = {
    **VISIONS,
    "no colour": np.tile(LUMINANCE, (3, 1)),
}  # deficiencies a picture can be simulated with
TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
WHITE = TO_XYZ @ np.ones(3)  # D65


def parsed(text: str) -> tuple[FloatArray, float]:
    """Return a display list colour, "#rrggbb" or "#rrggbbaa", as sRGB of shape (3,) and its alpha, 0–1."""
    parts = [int(text[i : i + 2], 16) / 255 for i in range(1, len(text), 2)]
    return np.array(parts[:3]), parts[3] if len(parts) > 3 else 1.0


def over(front: FloatArray, alpha: float, back: FloatArray) -> FloatArray:
    """Return a colour with alpha over another, blended like the painters do: in gamma-encoded sRGB.

    front, back: 0–1, shape (..., 3), leading axes broadcast. alpha: 0–1, of the front.
    """
    return front * alpha + back * (1 - alpha)


def _linear(colours: FloatArray) -> FloatArray:
    # IEC 61966-2-1, the definition of sRGB.
    return np.where(colours <= 0.04045, colours / 12.92, ((colours + 0.055) / 1.055) ** 2.4)


def _encoded(linear: FloatArray) -> FloatArray:
    kept = np.clip(linear, 0, 1)
    return np.where(kept <= 0.0031308, kept * 12.92, 1.055 * kept ** (1 / 2.4) - 0.055)


def contrast_ratio(first: FloatArray, second: FloatArray) -> FloatArray:
    """Return the contrast ratio of two colours: 1–21, symmetric, of the broadcast leading shape.

    Source: WCAG 2.2, "contrast ratio" and "relative luminance".

    >>> float(contrast_ratio(np.ones(3), np.full(3, 0.5)).round(2))
    3.98
    """
    first, second = (_linear(np.asarray(colour)) @ LUMINANCE for colour in (first, second))
    ratio: Array = (np.maximum(first, second) + 0.05) / (np.minimum(first, second) + 0.05)
    return ratio


def seen_by(colours: FloatArray, vision: str) -> FloatArray:
    """Return how colours appear with one of `EYES`; the same shape."""
    return _encoded(_linear(np.asarray(colours)) @ EYES[vision].T)


@functools.cache
def _tables() -> tuple[FloatArray, Array]:
    """Return the linear light of each of 256 values, shape (256,), and the inverse table, shape (16384,)."""
    values = np.arange(256) / 255
    light = np.arange(STEPS) / (STEPS - 1)
    return _linear(values).astype(np.float32), np.round(_encoded(light) * 255).astype(np.uint8)


def picture_seen_by(pixels: Array, vision: str) -> Array:
    """Return how a picture appears with one of `EYES`: bytes, shape (height, width, 3), exact to one value in 255."""
    linear, encoded = _tables()
    seen = linear[pixels] @ EYES[vision].T.astype(np.float32)
    found: Array = encoded[np.clip(seen * (STEPS - 1) + 0.5, 0, STEPS - 1).astype(np.int16)]
    return found


def delta_e(first: FloatArray, second: FloatArray) -> FloatArray:
    """Return the difference of two colours (ΔE*ab), of the broadcast leading shape: about 2 is just noticeable.

    Source: CIE 1976 L*a*b*, Euclidean distance, illuminant D65.
    """
    gap: FloatArray = np.linalg.norm(_lab(np.asarray(first)) - _lab(np.asarray(second)), axis=-1)
    return gap


def _lab(colours: FloatArray) -> FloatArray:
    share = _linear(colours) @ TO_XYZ.T / WHITE
    edge = (6 / 29) ** 3
    f = np.where(share > edge, np.cbrt(share), share / (3 * (6 / 29) ** 2) + 4 / 29)
    x, y, z = f[..., 0], f[..., 1], f[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)
