"""The demo's film of the game without its HUD: the boat in a recorded dive, painted from the recorded values.

The boat sinks and rises with the recorded depth, shakes when a rock hits it, and trails bubbles while the seam leaks.
"""

from __future__ import annotations

import io
import math
import random
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import resvg_py

from avrin.demo.plates import boat, far_sea, near_ground
from avrin.trace.frames import TRUE, Trace

if TYPE_CHECKING:
    from PIL import Image

__all__ = ["BEGINS", "film_of"]

BEGINS, LASTS = 90.0, 24.0  # seconds of the recording
RATE = 16
WIDE, HIGH = 720, 404
FAR, NEAR = (1170, 644), (1800, 1004)  # pixels of the layers, which scroll at different speeds
DEEPEST = 50.0
SWIMS = 30.0  # pixels the near layer scrolls per second
SHAKEN = 0.5  # seconds


def film_of(trace: Trace, path: Path) -> None:
    """Film a dive from `BEGINS` on. Raises OSError if the file cannot be written."""
    import av  # late: 55 ms

    far, near = (_painted(paint(), size).convert(mode) for paint, size, mode in
                 ((far_sea, FAR, "RGB"), (near_ground, NEAR, "RGBA")))  # fmt: skip
    vessel = _painted(boat(), (390, 166))
    bubble = _bubble()
    begun = path.with_suffix(".part.mp4")
    with av.open(str(begun), mode="w") as out:
        stream: Any = out.add_stream("libx264" if "libx264" in av.codecs_available else "mpeg4", rate=RATE)
        stream.width, stream.height, stream.pix_fmt = WIDE, HIGH, "yuv420p"
        stream.gop_size = RATE * 5
        stream.options = {"preset": "ultrafast", "crf": "25"}
        stream.codec_context.time_base = Fraction(1, RATE)
        for number, picture in enumerate(_pictures(trace, far, near, vessel, bubble)):
            frame = av.VideoFrame.from_ndarray(np.asarray(picture), format="rgb24")
            frame.pts, frame.time_base = number, Fraction(1, RATE)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    begun.replace(path)


def _pictures(
    trace: Trace, far: Image.Image, near: Image.Image, vessel: Image.Image, bubble: Image.Image
) -> Iterator[Image.Image]:
    from PIL.Image import Resampling  # late: 13 ms

    bubbles = {size: bubble.resize((size, size)) for size in range(4, 11)}
    tilts = {by: vessel.rotate(by, Resampling.BILINEAR, center=(112, 83)) for by in range(-9, 10)}
    dice = random.Random(4)
    hits = np.array([event.t for event in trace.events if event.name == "rock"])
    depth, leak = trace.columns["depth"].data, trace.columns["leak"].data
    rising: list[tuple[float, float, int]] = []  # bubbles: horizontal, vertical, size
    for number in range(round(LASTS * RATE)):
        second = BEGINS + number / RATE
        frame = trace.frame_at(second)
        down = min(1.0, float(depth[frame]) / DEEPEST)
        climbs = float(depth[min(frame + 6, len(depth) - 1)] - depth[frame])
        across = SWIMS * number / RATE
        since = np.min(np.where(second >= hits, second - hits, np.inf), initial=np.inf)
        shaken = 7 * math.exp(-since / SHAKEN * 3) * math.sin(since * 70) if since < SHAKEN else 0.0
        picture = far.crop(_view(across * 0.4, down, FAR, shaken * 0.4))
        ground = near.crop(_view(across, down, NEAR, shaken))
        picture.paste(ground, (0, 0), ground)
        x, y = 296.0, 187 + 5 * math.sin(second * 1.3) - shaken
        if leak[frame] == TRUE and number % 2 == 0:
            rising.append((x + dice.uniform(-68, -30), y + dice.uniform(-5, 14), dice.randrange(4, 11)))
        rising = [(a - 2.4 + dice.uniform(-0.8, 0.8), b - 3.1, size) for a, b, size in rising if b > -20]
        tilted = tilts[round(max(-9.0, min(9.0, -climbs * 9)))]
        picture.paste(tilted, (round(x - 112), round(y - 83)), tilted)
        for a, b, size in rising:
            picture.paste(bubbles[size], (round(a), round(b)), bubbles[size])
        yield picture


def _view(across: float, down: float, size: tuple[int, int], shaken: float) -> tuple[int, int, int, int]:
    """Return the visible part of a layer."""
    left = min(size[0] - WIDE, round(across))
    top = max(0, min(size[1] - HIGH, round(down * (size[1] - HIGH) + shaken)))
    return left, top, left + WIDE, top + HIGH


def _painted(svg: str, size: tuple[int, int]) -> Image.Image:
    from PIL import Image  # late: 12 ms

    data = bytes(resvg_py.svg_to_bytes(svg_string=svg, width=size[0], height=size[1]))
    with Image.open(io.BytesIO(data)) as image:
        return image.convert("RGBA")


def _bubble() -> Image.Image:
    return _painted(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 20"><circle cx="10" cy="10" r="8.5" fill="#dff5f2"'
        ' fill-opacity="0.22" stroke="#f2fffd" stroke-opacity="0.8" stroke-width="1.6"/></svg>', (20, 20),
    )  # fmt: skip
