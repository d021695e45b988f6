"""What columns are made of."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Array", "FloatArray"]

Array = NDArray[Any]  # of whichever type a column's kind is held in
FloatArray = NDArray[np.float64]
