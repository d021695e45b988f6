"""Films made for tests: each picture says its own number, in twelve bars along its upper edge."""

from __future__ import annotations

import functools
import io
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray
from PIL import Image

__all__ = ["film", "number_of", "pictures"]

BITS = 12
TICK = Fraction(1, 30_000)
FORMATS = {".mp4": "mp4", ".webm": "webm", ".mkv": "matroska"}


def _picture(number: int, size: tuple[int, int]) -> NDArray[np.uint8]:
    pixels = np.full((size[1], size[0], 3), ((number * 37) % 200, (number * 11) % 200, (number * 5) % 200), np.uint8)
    bar = size[0] // BITS
    for bit in range(BITS):
        pixels[: size[1] // 2, bit * bar : (bit + 1) * bar] = 255 if number >> bit & 1 else 0
    return pixels


def number_of(pixels: NDArray[np.uint8]) -> int:
    """Which picture of a film it is."""
    height, width = pixels.shape[:2]
    bar = width / BITS
    row = pixels[height // 4, :, :3].mean(axis=1)
    return sum(1 << bit for bit in range(BITS) if row[int((bit + 0.5) * bar)] > 128)


def film(path: Path, seconds: Sequence[float], *, keys: int = 60, codec: str = "libx264") -> Path:
    """A film whose pictures begin at these seconds. keys: pictures between two key frames."""
    path.write_bytes(_encoded(tuple(seconds), keys, codec, path.suffix))
    return path


@functools.cache
def _encoded(seconds: tuple[float, ...], keys: int, codec: str, end: str) -> bytes:
    size = (240, 136)
    file = io.BytesIO()
    with av.open(file, mode="w", format=FORMATS[end]) as out:
        stream: Any = out.add_stream(codec, rate=30)
        stream.width, stream.height, stream.pix_fmt, stream.gop_size = *size, "yuv420p", keys
        stream.codec_context.time_base = TICK
        if codec == "libx264":
            stream.options = {"sc_threshold": "0"}  # no other key pictures
        for number, second in enumerate(seconds):
            frame = av.VideoFrame.from_ndarray(_picture(number, size), format="rgb24")
            frame.pts, frame.time_base = round(second / TICK), TICK
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return file.getvalue()


def pictures(folder: Path, numbers: Sequence[int], name: str = "shot_{:04d}.png") -> list[Path]:
    """Numbered pictures that show the numbers of their names."""
    folder.mkdir(parents=True, exist_ok=True)
    made = []
    for number in numbers:
        made.append(folder / name.format(number))
        Image.fromarray(_picture(number, (120, 68))).save(made[-1])
    return made
