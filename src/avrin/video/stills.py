"""Single frames of films as PNG files in the user's cache, for painters that need files.

Each process writes its own. A few decoders stay open until another film needs their slot or
`close_stills` is called: a decoder owns threads and a file, so every one must be closed.
"""

from __future__ import annotations

import functools
import hashlib
import io
import threading
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from avrin.errors import AvrinError, reason_of
from avrin.storage.atomic import atomic_write
from avrin.storage.folders import cache_folder
from avrin.video.film import Footage
from avrin.video.open_video import open_footage

__all__ = ["close_stills", "footage_seconds", "footage_size", "still_file"]

MAX_OPEN = 2  # decoders
_Key = tuple[Path, float, str]


class _Decoder:
    """One film's decoder, opened on first use. It has a position, so its lock is held while it decodes.

    evicted: removed from the table; its last user closes it.
    """

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.footage: Footage | None = None
        self.evicted = False

    def close(self) -> None:
        """Close the film. The caller must hold the lock."""
        if self.footage is not None:
            self.footage.close()
            self.footage = None


_table = threading.Lock()
_decoders: OrderedDict[_Key, _Decoder] = OrderedDict()


def still_file(path: Path, second: float, rate: float = 0.0, *, wide: int = 0, exact: bool = True) -> Path:
    """Return a PNG of a film at a time. wide: maximal width in pixels. exact: otherwise a key frame shortly before.

    Raises AvrinError if the film is missing or the file cannot be written.
    """
    return _written(path, _mark(path), max(0.0, second), rate, wide, exact)


def footage_seconds(path: Path, rate: float = 0.0) -> float:
    """Return a film's duration. Raises AvrinError if the film is missing."""
    return _seconds(path, rate, _mark(path))


def footage_size(path: Path, rate: float = 0.0) -> tuple[int, int]:
    """Return width and height of a film in pixels. Raises AvrinError if the film is missing."""
    return _size(path, rate, _mark(path))


def close_stills() -> None:
    """Close all decoders; the next request opens its film again."""
    with _table:
        evicted = [*_decoders.values()]
        _decoders.clear()
    _close(evicted)


@contextmanager
def _opened(path: Path, rate: float, mark: str) -> Iterator[Footage]:
    """Lock and yield a film's decoder. Raises AvrinError if the film is missing."""
    with _table:
        decoder = _decoders.setdefault((path, rate, mark), _Decoder())
        _decoders.move_to_end((path, rate, mark))
        evicted = [_decoders.popitem(last=False)[1] for _ in range(len(_decoders) - MAX_OPEN)]
    _close(evicted)
    with decoder.lock:
        try:
            if decoder.footage is None:
                decoder.footage = open_footage(path, rate)
            yield decoder.footage
        finally:
            if decoder.evicted:
                decoder.close()


def _close(evicted: list[_Decoder]) -> None:
    for decoder in evicted:
        decoder.evicted = True
        with decoder.lock:
            decoder.close()


@functools.lru_cache(maxsize=64)
def _seconds(path: Path, rate: float, mark: str) -> float:
    with _opened(path, rate, mark) as film:
        return film.seconds


@functools.lru_cache(maxsize=64)
def _size(path: Path, rate: float, mark: str) -> tuple[int, int]:
    with _opened(path, rate, mark) as film:
        return film.size


@functools.lru_cache(maxsize=512)
def _written(path: Path, mark: str, second: float, rate: float, wide: int, exact: bool) -> Path:
    from PIL import Image  # late: 12 ms

    with _opened(path, rate, mark) as film:
        still = film.at(second, wide) if exact else film.near(second, wide)
    data = io.BytesIO()
    Image.fromarray(still.pixels).save(data, "PNG", compress_level=1)
    name = f"{path.resolve()} {mark} {still.second:.4f} {wide}"
    kept = cache_folder() / "films" / f"{hashlib.blake2b(name.encode(), digest_size=16).hexdigest()}.png"
    try:
        kept.parent.mkdir(parents=True, exist_ok=True)
        atomic_write(kept, data.getvalue(), lasting=False)
    except OSError as error:
        raise AvrinError(
            f"a picture of the film cannot be kept ({reason_of(error)})",
            place=(str(kept.parent),), advice="Make room there, or set AVRIN_CACHE to another folder",
        ) from None  # fmt: skip
    return kept


def _mark(path: Path) -> str:
    """Return a stamp that changes with the film."""
    try:
        stat = path.parent.stat() if "#" in path.name else path.stat()
    except OSError:
        return ""
    return f"{stat.st_size} {stat.st_mtime_ns}"
