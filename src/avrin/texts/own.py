"""The language that has no catalogue."""

from __future__ import annotations

__all__ = ["OWN"]

OWN = "own"  # the project's own
