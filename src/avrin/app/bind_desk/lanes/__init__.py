"""The lanes: variables and widgets over a common time axis."""

from avrin.app.bind_desk.lanes.scale import TimeScale
from avrin.app.bind_desk.lanes.view import LaneView

__all__ = ["LaneView", "TimeScale"]
