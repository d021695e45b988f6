"""Functions that any worker can load; some of them end the worker."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

from avrin.errors import AvrinError

__all__ = ["doubled", "ends_at", "faulty", "slowly"]


def doubled(_given: object, part: int) -> int:
    return 2 * part


def ends_at(given: tuple[int, ...], part: int) -> int:
    """Twice a number, unless that is one that ends the process."""
    if part in given:
        os.kill(os.getpid(), signal.SIGKILL)
    return 2 * part


def faulty(_given: object, part: int) -> int:
    if part == 3:
        raise AvrinError("is three", place=("here",), advice="Choose another")
    if part == 30:
        raise FileNotFoundError(2, "No such file", "art.png")
    return part


def slowly(given: str, part: int) -> tuple[int, int]:
    """Leave a note that it was begun; then which process did it."""
    (Path(given) / f"{part}-{os.getpid()}").touch()
    time.sleep(0.15)
    return part, os.getpid()
