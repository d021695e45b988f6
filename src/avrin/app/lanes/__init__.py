"""The lanes: variables and widgets over a common time axis."""

from avrin.app.lanes.scale import TimeScale
from avrin.app.lanes.view import LaneView

__all__ = ["LaneView", "TimeScale"]
