"""Ladders: every widget just below, at and just above each of its edges. Knows no Qt."""

from avrin.ladder.rungs import Rung, rungs

__all__ = ["Rung", "rungs"]
