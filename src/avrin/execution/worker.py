"""Functions that run in the workers of a scheduler."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

from avrin.errors import AvrinError
from avrin.execution.bundle import program

__all__ = ["done", "other_program", "quiet", "same"]


def quiet() -> None:
    """Silence the library's own output; errors are reported in one line."""
    for name in ("distributed", "tornado", "asyncio", *logging.root.manager.loggerDict):
        if name.partition(".")[0] in ("distributed", "tornado", "asyncio"):
            logging.getLogger(name).setLevel(logging.CRITICAL + 1)


def other_program(who: str, theirs: str, ours: str) -> str:
    """Return the message for a worker with another version of the program."""
    if theirs == ours:
        return f"{who} runs Avrin {theirs}, but from different files than here"
    return f"{who} runs Avrin {theirs}; this machine runs {ours}"


def same(given: object) -> object:
    """Return the argument, as a future that others can depend on."""
    return given


def done(version: tuple[str, str], task: Callable[[Any, Any], Any], given: object, part: object) -> Any:  # noqa: ANN401  (the task's result type)
    """Return a part's result. version: of the client. Raises AvrinError if this program differs."""
    if tuple(version) != program():
        raise AvrinError(other_program("who works", program()[0], version[0]), advice="Install the same")
    return task(given, part)
