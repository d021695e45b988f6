"""The code of the project's own language, the one without a catalogue."""

from __future__ import annotations

__all__ = ["OWN"]

OWN = "own"  # the project's own
