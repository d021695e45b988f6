"""Report the progress of a long reading to the caller, who may also cancel it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["hearing", "tell"]

Heard = Callable[[float], None]  # called with a share from 0 to 1; an exception from it cancels the reading

_heard: ContextVar[Heard | None] = ContextVar("heard", default=None)


@contextmanager
def hearing(receiver: Heard) -> Iterator[None]:
    """Receive progress from everything read on this thread while the context is active."""
    before = _heard.set(receiver)
    try:
        yield
    finally:
        _heard.reset(before)


def tell(share: float) -> None:
    """Report progress. Without a receiver nothing happens."""
    told = _heard.get()
    if told is not None:
        told(share)
