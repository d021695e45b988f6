"""Minimum and maximum of a signal at several resolutions, so that drawing at any zoom reads a few numbers per pixel."""

from __future__ import annotations

import numpy as np

from avrin.trace.frames import FloatArray

__all__ = ["Pyramid"]

STEP = 4


class Pyramid:
    """Built once from a signal of shape (T,); NaN is missing and ignored. An entry of level k covers STEP**k samples."""

    def __init__(self, values: FloatArray) -> None:
        self.low: list[FloatArray] = [values]
        self.high: list[FloatArray] = [values]
        while len(self.low[-1]) > 2 * STEP:
            self.low.append(_grouped(self.low[-1], np.fmin))
            self.high.append(_grouped(self.high[-1], np.fmax))

    def level(self, samples_per_pixel: float) -> int:
        """Return the coarsest level with at least two entries per pixel; 0 for the signal itself."""
        depth = int(np.log(max(samples_per_pixel / 2, 1)) / np.log(STEP))
        return min(depth, len(self.low) - 1)

    def extremes(self) -> tuple[float, float]:
        """Return the minimum and maximum; both NaN if everything is missing."""
        if not len(self.low[0]):
            return (float("nan"), float("nan"))
        return float(np.fmin.reduce(self.low[-1])), float(np.fmax.reduce(self.high[-1]))


def _grouped(values: FloatArray, pick: np.ufunc) -> FloatArray:
    whole = len(values) // STEP * STEP
    groups = pick.reduce(values[:whole].reshape(-1, STEP), axis=1)
    return np.append(groups, pick.reduce(values[whole:])) if whole < len(values) else groups
