"""Ladders: every widget just below, at and just above each of its edges. Knows no Qt."""

from avrin.ladder.making import made_for
from avrin.ladder.rungs import Climb, Rung, climbing, rungs

__all__ = ["Climb", "Rung", "climbing", "made_for", "rungs"]
