"""Copies of films with frequent key frames, so that seeking is instant.

They are cached per film and created in the background. Losing one costs time
only: a damaged copy is recreated.
"""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any, BinaryIO

from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_file
from avrin.storage.cache import cache_evict, cache_get, cache_put
from avrin.storage.folders import cache_folder
from avrin.video.film import Film

__all__ = ["MAX_WIDTH_PX", "quick_copy"]

log = logging.getLogger(__name__)
MAX_WIDTH_PX = 1280  # pixels: a copy is for viewing only
MAX_KEY_GAP_S = 0.5  # seconds between key frames up to which a film needs no copy
EVERY = 8  # frames between key frames of a copy
MAX_BYTES = 4 * 2**30  # bytes of all copies: the oldest are deleted


def _quick_file(path: Path) -> Path:
    """Return the path of a film's copy, existing or not."""
    stat = path.stat()
    name = f"{path.resolve()} {stat.st_size} {stat.st_mtime_ns} {MAX_WIDTH_PX} {EVERY}"
    return cache_folder() / "films" / f"{hashlib.blake2b(name.encode(), digest_size=16).hexdigest()}.mp4"


def quick_copy(path: Path, wanted: Callable[[], bool] = lambda: True) -> Path:
    """Return a film with frequent key frames: itself, or its copy, created on first use.

    wanted: polled repeatedly; False cancels. Raises AvrinError if the film cannot be read or the copy was cancelled;
    if the copy cannot be stored, the film itself is returned.
    """
    film = Film(path)
    try:
        if film.keys() <= MAX_KEY_GAP_S and film.size[0] <= 2 * MAX_WIDTH_PX:
            return path
        copy = _quick_file(path)
        if cache_get(copy.with_suffix(".seal")) == _digest(copy):
            return copy
        copy.parent.mkdir(parents=True, exist_ok=True)
        with atomic_file(copy, lasting=False) as file:
            _write(film, file, wanted)
        cache_put(copy.with_suffix(".seal"), _digest(copy))
        cache_evict(copy.parent, max_bytes=MAX_BYTES, spare=copy)
    except OSError as error:
        log.warning("no quick copy of %s was kept: %s", path.name, error)
        return path
    finally:
        film.close()
    return copy


def _write(film: Film, file: BinaryIO, wanted: Callable[[], bool]) -> None:
    import av  # late: 55 ms

    wide = min(film.size[0], MAX_WIDTH_PX) // 2 * 2
    high = max(2, round(film.size[1] * wide / film.size[0]) // 2 * 2)
    tick = Fraction(1, 60_000)
    with av.open(file, mode="w", format="mp4") as out:
        sort = "libx264" if "libx264" in av.codecs_available else "mpeg4"
        stream: Any = out.add_stream(sort, rate=Fraction(film.rate).limit_denominator(1001))
        stream.width, stream.height, stream.pix_fmt = wide, high, "yuv420p"
        stream.gop_size, stream.max_b_frames = EVERY, 0
        stream.codec_context.time_base = tick
        if sort == "libx264":
            stream.options = {"preset": "ultrafast", "crf": "22"}
        last = -1
        for frame, second in film.pictures():
            if not wanted():
                raise AvrinError("the copy was cancelled")
            made = frame.reformat(width=wide, height=high, format="yuv420p")
            made.pts, made.time_base, made.pict_type = max(last + 1, int(second / tick + Fraction(1, 100))), tick, 0
            last = made.pts
            out.mux(stream.encode(made))
        out.mux(stream.encode(None))


def _digest(copy: Path) -> bytes:
    """Return a copy's digest, so that a damaged or replaced one is rejected; empty without a copy."""
    if not copy.is_file():
        return b""
    with copy.open("rb") as file:
        return hashlib.file_digest(file, "sha256").digest()
