"""Array types for columns."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Array", "FloatArray"]

Array = NDArray[Any]  # the element type depends on the column's kind
FloatArray = NDArray[np.float64]
