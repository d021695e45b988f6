"""The visible time range, shared by ruler, lanes and ribbons. Seconds on the trace's axis, pixels horizontally."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from avrin.trace.frames import FloatArray

__all__ = ["HEAD", "TAIL", "TimeScale"]

HEAD = 236  # pixels of the lane heads at the left
TAIL = 20  # pixels of the margin at the right
INSET = 8  # pixels between the heads and the first frame
CLOSEST = 0.05  # seconds: the shortest visible range


class TimeScale(QObject):
    """The visible range: `span` seconds from `start`, of `length` in total."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.start = 0.0
        self.span = 1.0
        self.length = 1.0
        self.width = 100.0

    @property
    def left(self) -> float:
        """The x position of the first visible second, in pixels."""
        return float(HEAD + INSET)

    @property
    def per_pixel(self) -> float:
        """Seconds per pixel."""
        return self.span / max(1.0, self.width)

    def set_width(self, width: int) -> None:
        """Set the view's width in pixels, head and margin included."""
        self.width = max(1.0, width - self.left - TAIL)
        self.changed.emit()

    def show_all(self, length: float) -> None:
        """Show a whole trace of `length` seconds."""
        self.length = max(length, CLOSEST)
        self.start, self.span = 0.0, self.length
        self.changed.emit()

    def grow(self, length: float) -> None:
        """Handle a longer trace: if all of it was visible, keep all of it visible."""
        whole = self.span >= self.length
        self.length = max(length, CLOSEST)
        if whole:
            self.start, self.span = 0.0, self.length
        self.changed.emit()

    def x(self, seconds: float) -> float:
        """Return the x position of a time."""
        return self.left + (seconds - self.start) / self.span * self.width

    def xs(self, seconds: FloatArray) -> FloatArray:
        """Return the x positions of times, shape (n,)."""
        return self.left + (seconds - self.start) / self.span * self.width

    def seconds(self, x: float) -> float:
        """Return the time at an x position."""
        return self.start + (x - self.left) / self.width * self.span

    def zoom(self, factor: float, about: float) -> None:
        """Show `factor` times as much, with the time `about` fixed."""
        span = min(self.length, max(CLOSEST, self.span * factor))
        share = (about - self.start) / self.span
        self._set(about - share * span, span)

    def pan(self, seconds: float) -> None:
        """Show later (earlier) times."""
        self._set(self.start + seconds, self.span)

    def bring(self, seconds: float) -> None:
        """Make a time visible, by turning the page if necessary."""
        if self.start <= seconds <= self.start + self.span:
            return
        self._set(seconds - self.span * 0.1, self.span)

    def _set(self, start: float, span: float) -> None:
        start = min(max(0.0, start), max(0.0, self.length - span))
        if (start, span) != (self.start, self.span):
            self.start, self.span = start, span
            self.changed.emit()
