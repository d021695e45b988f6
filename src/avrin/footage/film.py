"""A film read from its file: the picture it shows at a second, exactly, or the nearest one that stands for itself, at once.

Pictures are decoded in order from such a key picture on; what lies far from one takes long to reach (see `copying`).
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.model import AvrinError

if TYPE_CHECKING:
    import av

__all__ = ["LARGEST", "Film", "Footage", "Still", "reason"]

Pixels = NDArray[np.uint8]
LARGEST = 8192  # pixels of a side
AHEAD = 24  # pictures further on that are reached by decoding on, and not by a jump to a key picture


class Still(Struct, frozen=True, eq=False):
    """One picture of a film. pixels: sRGB, uint8, shape (height, width, 3). second: of the film at which it begins.

    until: the second at which the next one begins; where nobody knows, `second`; infinite for the last one.
    """

    pixels: Pixels
    second: float
    until: float


class Footage(Protocol):
    """Pictures in time. size: in pixels. seconds: how long it runs. rate: pictures a second, on the whole."""

    size: tuple[int, int]
    seconds: float
    rate: float

    def at(self, second: float, wide: int = 0) -> Still:
        """What it shows at a second: the last picture that has begun by then, the first or the last one beyond its ends.

        wide: pixels that the picture is at most wide, 0 for as it is. Raises AvrinError where it cannot be decoded.
        """
        ...

    def near(self, second: float, wide: int = 0) -> Still:
        """A picture close before a second that can be had at once."""
        ...

    def reaches(self, second: float) -> bool:
        """Whether `at` is as quick as `near`: it is decoded soon from where it stands."""
        ...

    def small(self, wide: int, high: int) -> Iterator[tuple[Pixels, float]]:
        """All its pictures in order, shrunk to a few pixels by their means, shape (high, wide, 3), each with its second."""
        ...

    def close(self) -> None:
        """Let go of the file."""
        ...


def reason(error: Exception) -> str:
    """What the decoder says, in a few words."""
    said = str(getattr(error, "strerror", "") or error).split("\n")[0]
    return said[:80].lower() or type(error).__name__


class Film:
    """A film file. Raises AvrinError where it is none, or none that can be decoded."""

    def __init__(self, path: Path) -> None:
        import av

        self._path = path
        self._broken: tuple[type[Exception], ...] = (av.error.FFmpegError, ValueError, OSError)
        try:
            self._file = av.open(str(path), mode="r", metadata_errors="replace")
        except self._broken as error:
            raise AvrinError(
                f"cannot be read as a film ({reason(error)})",
                place=(path.name,),
                advice="Choose a film, such as an .mp4",
            ) from None
        if not self._file.streams.video:
            self._file.close()
            raise AvrinError("holds no pictures", place=(path.name,), advice="Choose a film, such as an .mp4")
        self._stream = stream = self._file.streams.video[0]
        if getattr(stream, "codec_context", None) is None:  # such a stream has no size either
            self._file.close()
            raise AvrinError(
                "is coded in a way that is not known here", place=(path.name,), advice="Save it as an .mp4"
            )
        stream.thread_type = "AUTO"
        self.size = (stream.width, stream.height)
        self.rate = float(stream.average_rate or stream.guessed_rate or 25)
        self._tick = stream.time_base or Fraction(1, 1000)
        self._first = stream.start_time or 0  # until the first picture says its own
        ticks = stream.duration
        whole = float(ticks * self._tick) if ticks else float(self._file.duration or 0) / 1_000_000
        self.seconds = whole
        self._frames: Iterator[av.VideoFrame] | None = None
        self._now: av.VideoFrame | None = None
        self._next: av.VideoFrame | None = None
        try:
            if not all(0 < side <= LARGEST for side in self.size):
                raise AvrinError(
                    f"is {self.size[0]} × {self.size[1]} pixels large", place=(path.name,),
                    advice=f"Up to {LARGEST:,} a side can be drawn",
                )  # fmt: skip
            self._jump(0.0)
            if self._next is None or self._next.pts is None:
                raise AvrinError(
                    "does not tell when its pictures are shown", place=(path.name,), advice="Save it as an .mp4"
                )
        except AvrinError:
            self._file.close()
            raise
        self._first = self._next.pts
        self.seconds = self._length(whole) or whole

    def at(self, second: float, wide: int = 0) -> Still:
        """As `Footage.at`. Raises AvrinError."""
        goal = self._goal(second)
        if not self._within_reach(goal):
            self._jump(second)
        while self._next is not None and (self._now is None or (self._next.pts or 0) <= goal):
            self._now, self._next = self._next, self._decoded()
        if self._now is None:
            raise AvrinError("no picture of it can be decoded", place=(self._path.name,), advice="Save the film anew")
        nothing_more = self._next is None or self._next.pts is None
        until = float("inf") if nothing_more else self._second(self._next)
        return self._still(self._now, wide, until)

    def reaches(self, second: float) -> bool:
        """As `Footage.reaches`."""
        return self._within_reach(self._goal(second))

    def near(self, second: float, wide: int = 0) -> Still:
        """As `Footage.near`: the key picture before it."""
        self._jump(max(0.0, second))
        if self._next is None:
            return self.at(second, wide)
        return self._still(self._next, wide, self._second(self._next))

    def pictures(self) -> Iterator[tuple[av.VideoFrame, float]]:
        """All its pictures in order, as the decoder gives them, each with its second."""
        self._jump(0.0)
        while self._next is not None:
            frame = self._next
            yield frame, self._second(frame)
            self._next = self._decoded()

    def small(self, wide: int, high: int) -> Iterator[tuple[Pixels, float]]:
        """As `Footage.small`: of shape (high, wide, 3)."""
        for frame, second in self.pictures():
            shrunk: Any = frame.reformat(width=wide, height=high, format="rgb24", interpolation="AREA").to_ndarray()
            yield shrunk, second

    def keys(self) -> float:
        """The longest stretch between two key pictures, in seconds; told from the packets, without decoding."""
        times = [0.0]
        try:
            self._file.seek(0)
            times += [
                float((packet.pts - self._first) * self._tick)
                for packet in self._file.demux(self._stream) if packet.is_keyframe and packet.pts is not None
            ]  # fmt: skip
        except self._broken:
            pass  # what follows cannot be read: told when it is looked at
        self._frames = self._now = self._next = None
        return float(np.max(np.diff([*sorted(times), self.seconds]), initial=0.0))

    def close(self) -> None:
        """As `Footage.close`."""
        self._frames = self._now = self._next = None
        self._file.close()

    # -- decoding -----------------------------------------------------------------------------------------------------

    def _goal(self, second: float) -> int:
        """A second in the stream's own ticks. A picture that begins within a thousandth of a tick has begun."""
        return self._first + int(np.floor(max(0.0, second) / float(self._tick) + 1e-3))

    def _second(self, frame: av.VideoFrame | None) -> float:
        assert frame is not None
        return float(((frame.pts or 0) - self._first) * self._tick)

    def _within_reach(self, goal: int) -> bool:
        """Whether a moment is reached by going on from where the decoder stands."""
        if self._now is None or self._now.pts is None or goal < self._now.pts:
            return False
        return self._next is None or (goal - self._now.pts) * self._tick * Fraction(self.rate) <= AHEAD

    def _jump(self, second: float) -> None:
        """Go to the key picture at or before a second."""
        try:
            self._file.seek(self._goal(second), stream=self._stream, backward=True)
        except self._broken:
            self._file.seek(0)
        self._frames = self._file.decode(self._stream)
        self._now, self._next = None, self._decoded()

    def _decoded(self) -> av.VideoFrame | None:
        """The next picture, None behind the last one; what is torn is passed over, and ends the film where nothing follows."""
        for _ in range(64):
            if self._frames is None:
                return None
            try:
                frame = next(self._frames, None)
            except self._broken:
                self._frames = self._file.decode(self._stream)
                continue
            if frame is None or frame.pts is not None:
                return frame
        return None

    def _length(self, told: float) -> float:
        """When its last picture ends, looked for from close before the end that it tells; 0 where nobody knows."""
        last = 0.0
        with contextlib.suppress(*self._broken):
            self._file.seek(self._goal(max(0.0, told - 1)), stream=self._stream, backward=True)
            for packet in self._file.demux(self._stream):
                if packet.pts is not None:
                    last = max(last, float((packet.pts - self._first) * self._tick) + 1 / self.rate)
        self._frames = self._now = self._next = None
        return last

    def _still(self, frame: av.VideoFrame, wide: int, until: float) -> Still:
        width, height = frame.width, frame.height
        if wide and width > wide:
            width, height = wide, max(1, round(height * wide / width))
        made: Any = frame.reformat(width=width, height=height, format="rgb24").to_ndarray()
        return Still(made, self._second(frame), until)
