"""What could not be drawn, for who makes pictures without a window: there nobody sees the mark in its place."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["drawing_faults", "note_fault"]

_noted: ContextVar[list[str] | None] = ContextVar("_noted", default=None)


@contextmanager
def drawing_faults() -> Iterator[list[str]]:
    """A list that everything is added to, once, which cannot be drawn while the context lasts."""
    noted: list[str] = []
    token = _noted.set(noted)
    try:
        yield noted
    finally:
        _noted.reset(token)


def note_fault(what: str) -> None:
    """Say that something could not be drawn, as a sentence without its end."""
    noted = _noted.get()
    if noted is not None and what not in noted:
        noted.append(what)
