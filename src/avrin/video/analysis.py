"""Thumbnails of all frames of a film: mean colours of a coarse grid, for checks over the whole film.

The film is decoded once from start to end, and the result is cached.
"""

from __future__ import annotations

import hashlib
import io
import logging
from collections.abc import Callable
from pathlib import Path
from zipfile import BadZipFile

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.storage.cache import cache_get, cache_put, code_stamp
from avrin.storage.folders import cache_folder
from avrin.video.open_video import open_footage

__all__ = ["CELLS", "Shades", "are_known", "film_shades"]

log = logging.getLogger(__name__)
CELLS = (48, 27)  # columns and rows


class Shades(Struct, frozen=True, eq=False):
    """All frames of a film, downscaled. seconds: ascending start times, shape (frames,).

    cells: sRGB, uint8, shape (frames, rows, columns, 3).
    """

    seconds: NDArray[np.float64]
    cells: NDArray[np.uint8]

    def shown(self, seconds: NDArray[np.float64]) -> NDArray[np.intp]:
        """Return the index of the frame at each time: the last one that has started; same shape."""
        return np.maximum(0, np.searchsorted(self.seconds, seconds + 1e-5, "right") - 1)


def film_shades(
    path: Path, rate: float = 0.0, breathe: Callable[[], None] = lambda: None, read: Path | None = None
) -> Shades:
    """Return all frames of a film, downscaled. breathe: called before each frame; it may wait, or raise to cancel.

    read: a copy that decodes faster. Raises AvrinError if the film is missing.
    """
    return _of(_file(path, rate), read or path, rate, breathe)


def are_known(path: Path, rate: float = 0.0) -> bool:
    """Return whether they are cached."""
    return _file(path, rate).exists()


def _file(path: Path, rate: float) -> Path:
    try:
        stat = path.parent.stat() if "#" in path.name else path.stat()
        name = f"{path.resolve()} {stat.st_size} {stat.st_mtime_ns} {rate} {CELLS} {code_stamp('video/analysis.py')}"
    except OSError:
        name = str(path)
    return cache_folder() / "films" / f"{hashlib.blake2b(name.encode(), digest_size=16).hexdigest()}.shades"


_remembered: dict[Path, Shades] = {}  # the last few
MAX_FILMS = 4


def _of(file: Path, path: Path, rate: float, breathe: Callable[[], None]) -> Shades:
    found = _remembered.get(file) or _read(file)
    if found is None:
        found = _decoded(path, rate, breathe)
        data = io.BytesIO()
        np.savez(data, seconds=found.seconds, cells=found.cells)
        cache_put(file, data.getvalue())
    while len(_remembered) >= MAX_FILMS and file not in _remembered:
        del _remembered[next(iter(_remembered))]
    _remembered[file] = found
    return found


def _read(file: Path) -> Shades | None:
    data = cache_get(file)
    if data is None:
        return None
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
            return Shades(arrays["seconds"], arrays["cells"])
    except (OSError, ValueError, KeyError, BadZipFile) as error:
        log.warning("%s is rebuilt: %s", file.name, error)
        return None


def _decoded(path: Path, rate: float, breathe: Callable[[], None]) -> Shades:
    film = open_footage(path, rate)
    seconds: list[float] = []
    cells: list[NDArray[np.uint8]] = []
    try:
        for picture, second in film.small(*CELLS):
            breathe()
            seconds.append(second)
            cells.append(picture)
    finally:
        film.close()
    return Shades(np.array(seconds), np.array(cells, np.uint8).reshape(-1, CELLS[1], CELLS[0], 3))
