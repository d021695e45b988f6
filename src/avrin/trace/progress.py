"""How far a long reading has come: heard by who asked for it, who may also stop it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["hearing", "tell"]

Heard = Callable[[float], None]  # a share, from 0 to 1; whatever it raises ends the reading

_heard: ContextVar[Heard | None] = ContextVar("heard", default=None)


@contextmanager
def hearing(told: Heard) -> Iterator[None]:
    """Meanwhile whatever is read on this thread tells how far it is."""
    before = _heard.set(told)
    try:
        yield
    finally:
        _heard.reset(before)


def tell(share: float) -> None:
    """So much is done. Nothing where nobody listens."""
    told = _heard.get()
    if told is not None:
        told(share)
