"""Deliverables for the game's programmers. Knows no Qt."""

from avrin.handoff.table import at_changes

__all__ = ["at_changes"]
