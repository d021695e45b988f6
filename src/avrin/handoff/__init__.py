"""What the game's programmers build from. Knows no Qt."""

from avrin.handoff.table import at_changes

__all__ = ["at_changes"]
