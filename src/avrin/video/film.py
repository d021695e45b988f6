"""Decode a film file: the exact frame at a time, or immediately the nearest key frame.

Frames are decoded in order from a key frame on; frames far from one take long (see `copying`).
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

from avrin.errors import AvrinError, reason_of

if TYPE_CHECKING:
    import av

__all__ = ["LARGEST", "Film", "Footage", "Still"]

Pixels = NDArray[np.uint8]
LARGEST = 8192  # pixels of a side
AHEAD = 24  # frames up to which decoding forward beats seeking to a key frame


class Still(Struct, frozen=True, eq=False):
    """One frame of a film. pixels: sRGB, uint8, shape (height, width, 3). second: its start time.

    until: the start time of the next frame; equal to `second` if unknown; infinite for the last one.
    """

    pixels: Pixels
    second: float
    until: float


class Footage(Protocol):
    """Frames in time. size: in pixels. seconds: the duration. rate: mean frames per second."""

    size: tuple[int, int]
    seconds: float
    rate: float

    def at(self, second: float, wide: int = 0) -> Still:
        """Return the frame at a time: the last one that has started; clamped to the first and the last.

        wide: maximal width in pixels, 0 for unscaled. Raises AvrinError if it cannot be decoded.
        """
        ...

    def near(self, second: float, wide: int = 0) -> Still:
        """Return a frame shortly before a time that needs no long decoding."""
        ...

    def reaches(self, second: float) -> bool:
        """Return whether `at` is as fast as `near`, because the decoder is shortly before that time."""
        ...

    def small(self, wide: int, high: int) -> Iterator[tuple[Pixels, float]]:
        """Yield all frames in order, downscaled by averaging to shape (high, wide, 3), each with its start time."""
        ...

    def close(self) -> None:
        """Close the file."""
        ...


class Film:
    """A film file. Raises AvrinError if it cannot be decoded."""

    def __init__(self, path: Path) -> None:
        import av  # late: 55 ms

        self._path = path
        self._broken: tuple[type[Exception], ...] = (av.error.FFmpegError, ValueError, OSError)
        try:
            self._file = av.open(str(path), mode="r", metadata_errors="replace")
        except self._broken as error:
            raise AvrinError(
                f"cannot be read as a film ({reason_of(error)})",
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
        self._first = stream.start_time or 0  # until the first frame's own time is known
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
                raise AvrinError("has no timestamps", place=(path.name,), advice="Save it as an .mp4")
        except AvrinError:
            self._file.close()
            raise
        self._first = self._next.pts
        self.seconds = self._length(whole) or whole

    def at(self, second: float, wide: int = 0) -> Still:
        """Implement `Footage.at`. Raises AvrinError."""
        goal = self._goal(second)
        if not self._within_reach(goal):
            self._jump(second)
        while self._next is not None and (self._now is None or (self._next.pts or 0) <= goal):
            self._now, self._next = self._next, self._decoded()
        if self._now is None:
            raise AvrinError(
                "none of its frames can be decoded", place=(self._path.name,), advice="Save the film again"
            )
        nothing_more = self._next is None or self._next.pts is None
        until = float("inf") if nothing_more else self._second(self._next)
        return self._still(self._now, wide, until)

    def reaches(self, second: float) -> bool:
        """Implement `Footage.reaches`."""
        return self._within_reach(self._goal(second))

    def near(self, second: float, wide: int = 0) -> Still:
        """Implement `Footage.near`: the preceding key frame."""
        self._jump(max(0.0, second))
        if self._next is None:
            return self.at(second, wide)
        return self._still(self._next, wide, self._second(self._next))

    def pictures(self) -> Iterator[tuple[av.VideoFrame, float]]:
        """Yield all decoded frames in order, with their start times."""
        self._jump(0.0)
        while self._next is not None:
            frame = self._next
            yield frame, self._second(frame)
            self._next = self._decoded()

    def small(self, wide: int, high: int) -> Iterator[tuple[Pixels, float]]:
        """Implement `Footage.small`: shape (high, wide, 3)."""
        for frame, second in self.pictures():
            shrunk: Any = frame.reformat(width=wide, height=high, format="rgb24", interpolation="AREA").to_ndarray()
            yield shrunk, second

    def keys(self) -> float:
        """Return the longest interval between two key frames, in seconds; read from packets without decoding."""
        times = [0.0]
        try:
            self._file.seek(0)
            times += [
                float((packet.pts - self._first) * self._tick)
                for packet in self._file.demux(self._stream) if packet.is_keyframe and packet.pts is not None
            ]  # fmt: skip
        except self._broken:
            pass  # the rest is unreadable, which is reported when it is viewed
        self._frames = self._now = self._next = None
        return float(np.max(np.diff([*sorted(times), self.seconds]), initial=0.0))

    def close(self) -> None:
        """Implement `Footage.close`."""
        self._frames = self._now = self._next = None
        self._file.close()

    # -- decoding -----------------------------------------------------------------------------------------------------

    def _goal(self, second: float) -> int:
        """Return a time in the stream's time base. A frame that starts within a thousandth of a tick counts as started."""
        return self._first + int(np.floor(max(0.0, second) / float(self._tick) + 1e-3))

    def _second(self, frame: av.VideoFrame | None) -> float:
        assert frame is not None
        return float(((frame.pts or 0) - self._first) * self._tick)

    def _within_reach(self, goal: int) -> bool:
        """Return whether decoding forward reaches a time."""
        if self._now is None or self._now.pts is None or goal < self._now.pts:
            return False
        return self._next is None or (goal - self._now.pts) * self._tick * Fraction(self.rate) <= AHEAD

    def _jump(self, second: float) -> None:
        """Seek to the key frame at or before a time."""
        try:
            self._file.seek(self._goal(second), stream=self._stream, backward=True)
        except self._broken:
            self._file.seek(0)
        self._frames = self._file.decode(self._stream)
        self._now, self._next = None, self._decoded()

    def _decoded(self) -> av.VideoFrame | None:
        """Return the next frame, None at the end; damaged frames are skipped, and end the film if nothing follows."""
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

    def _length(self, declared: float) -> float:
        """Return the end of the last frame, searched from shortly before the declared end; 0 if unknown."""
        last = 0.0
        with contextlib.suppress(*self._broken):
            self._file.seek(self._goal(max(0.0, declared - 1)), stream=self._stream, backward=True)
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
