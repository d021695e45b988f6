"""Collect drawing errors for commands: without a window the placeholder goes unnoticed."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["drawing_faults", "note_fault"]

_noted: ContextVar[list[str] | None] = ContextVar("_noted", default=None)


@contextmanager
def drawing_faults() -> Iterator[list[str]]:
    """Collect each drawing error once while the context is active."""
    noted: list[str] = []
    token = _noted.set(noted)
    try:
        yield noted
    finally:
        _noted.reset(token)


def note_fault(what: str) -> None:
    """Record that something could not be drawn, as a sentence without a full stop."""
    noted = _noted.get()
    if noted is not None and what not in noted:
        noted.append(what)
