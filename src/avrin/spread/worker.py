"""What runs where the work is done. Loaded there first: an interrupt at the terminal is for who began it."""

from __future__ import annotations

import signal
from collections.abc import Callable
from typing import Any

from avrin.model import AvrinError
from avrin.spread.bundle import program

__all__ = ["dask_setup", "done", "same"]


def dask_setup(_worker: object) -> None:
    """Called by the library when a process that works begins."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def same(given: object) -> object:
    """What was given, as an answer that others can be made of."""
    return given


def done(version: tuple[str, str], task: Callable[[Any, Any], bytes], given: object, part: object) -> bytes:
    """A part's answer. version: of who asks. Raises AvrinError where this is another program."""
    if tuple(version) != program():
        raise AvrinError(
            f"who works runs another Avrin ({program()[0]}) than who asks ({version[0]})", advice="Install the same"
        )
    return task(given, part)
