"""The Ladder desk: every widget around its thresholds, over all recordings."""

from avrin.app.ladder_desk.desk import LadderDesk

__all__ = ["LadderDesk"]
