"""The stretch of time the lanes show, shared by ruler, lanes and ribbons. Seconds on the trace's axis, pixels across."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

__all__ = ["HEAD", "TAIL", "TimeScale"]

HEAD = 236  # pixels the lanes' heads take at the left
TAIL = 20  # pixels left free at the right
INSET = 8  # pixels between the heads and the first frame
CLOSEST = 0.05  # seconds: the shortest stretch that can be shown


class TimeScale(QObject):
    """What is shown: from `start`, `span` seconds, of `length` in all."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.start = 0.0
        self.span = 1.0
        self.length = 1.0
        self.width = 100.0

    @property
    def left(self) -> float:
        """Where the first shown second lies, in pixels."""
        return float(HEAD + INSET)

    @property
    def per_pixel(self) -> float:
        """Seconds a pixel."""
        return self.span / max(1.0, self.width)

    def set_width(self, whole: int) -> None:
        """The view is `whole` pixels wide, head and tail included."""
        self.width = max(1.0, whole - self.left - TAIL)
        self.changed.emit()

    def show_all(self, length: float) -> None:
        """Show a whole trace of `length` seconds."""
        self.length = max(length, CLOSEST)
        self.start, self.span = 0.0, self.length
        self.changed.emit()

    def grow(self, length: float) -> None:
        """The trace became longer: where all of it was shown, all of it is shown still."""
        whole = self.span >= self.length
        self.length = max(length, CLOSEST)
        if whole:
            self.start, self.span = 0.0, self.length
        self.changed.emit()

    def x(self, seconds: float) -> float:
        """Pixels of a time."""
        return self.left + (seconds - self.start) / self.span * self.width

    def seconds(self, x: float) -> float:
        """Time at a pixel."""
        return self.start + (x - self.left) / self.width * self.span

    def zoom(self, factor: float, about: float) -> None:
        """Show `factor` times as much, holding the time `about` where it is."""
        span = min(self.length, max(CLOSEST, self.span * factor))
        share = (about - self.start) / self.span
        self._set(about - share * span, span)

    def pan(self, seconds: float) -> None:
        """Show later (earlier) times."""
        self._set(self.start + seconds, self.span)

    def bring(self, seconds: float) -> None:
        """Make sure a time is shown: turn the page when it is not."""
        if self.start <= seconds <= self.start + self.span:
            return
        self._set(seconds - self.span * 0.1, self.span)

    def _set(self, start: float, span: float) -> None:
        start = min(max(0.0, start), max(0.0, self.length - span))
        if (start, span) != (self.start, self.span):
            self.start, self.span = start, span
            self.changed.emit()
