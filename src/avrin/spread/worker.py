"""What runs in the processes that work for a scheduler."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

from avrin.model import AvrinError
from avrin.spread.bundle import program

__all__ = ["done", "other_program", "quiet", "same"]


def quiet() -> None:
    """What the library would say on the terminal is nobody's business: we tell what matters, in one line."""
    for name in ("distributed", "tornado", "asyncio", *logging.root.manager.loggerDict):
        if name.partition(".")[0] in ("distributed", "tornado", "asyncio"):
            logging.getLogger(name).setLevel(logging.CRITICAL + 1)


def other_program(who: str, theirs: str, ours: str) -> str:
    """That somebody runs another program than here."""
    if theirs == ours:
        return f"{who} runs Avrin {theirs}, but not the very same files of it as here"
    return f"{who} runs another Avrin ({theirs}) than here ({ours})"


def same(given: object) -> object:
    """What was given, as an answer that others can be made of."""
    return given


def done(version: tuple[str, str], task: Callable[[Any, Any], Any], given: object, part: object) -> Any:  # noqa: ANN401  (whatever the task says)
    """A part's answer. version: of who asks. Raises AvrinError where this is another program."""
    if tuple(version) != program():
        raise AvrinError(other_program("who works", program()[0], version[0]), advice="Install the same")
    return task(given, part)
