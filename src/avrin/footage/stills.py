"""Films for who looks at a picture here and there: taken out as files, in the user's cache, written anew by each program."""

from __future__ import annotations

import functools
import hashlib
import io
import threading
from pathlib import Path

from avrin.footage.film import Footage
from avrin.footage.opening import open_footage
from avrin.model import AvrinError, cache_folder, write_whole

__all__ = ["footage_seconds", "still_file"]

_one_at_a_time = threading.Lock()  # a decoder stands at one place


def still_file(path: Path, second: float, rate: float = 0.0, *, wide: int = 0, exact: bool = True) -> Path:
    """A PNG of what a film shows at a second. wide: pixels it is at most wide. exact: else of a moment close before it.

    Raises AvrinError where there is no film, and where it cannot be kept.
    """
    with _one_at_a_time:
        return _kept(path, _mark(path), max(0.0, second), rate, wide, exact)


def footage_seconds(path: Path, rate: float = 0.0) -> float:
    """How long a film runs. Raises AvrinError where there is none."""
    with _one_at_a_time:
        return _opened(path, rate, _mark(path)).seconds


@functools.lru_cache(maxsize=512)
def _kept(path: Path, mark: str, second: float, rate: float, wide: int, exact: bool) -> Path:
    from PIL import Image

    film = _opened(path, rate, mark)
    still = film.at(second, wide) if exact else film.near(second, wide)
    data = io.BytesIO()
    Image.fromarray(still.pixels).save(data, "PNG", compress_level=1)
    name = f"{path.resolve()} {mark} {still.second:.4f} {wide}"
    kept = cache_folder() / "films" / f"{hashlib.blake2b(name.encode(), digest_size=16).hexdigest()}.png"
    try:
        kept.parent.mkdir(parents=True, exist_ok=True)
        write_whole(kept, data.getvalue(), lasting=False)
    except OSError as error:
        raise AvrinError(
            f"a picture of the film cannot be kept ({(error.strerror or str(error)).lower()})",
            place=(str(kept.parent),), advice="Make room there, or set AVRIN_CACHE to another folder",
        ) from None  # fmt: skip
    return kept


def _mark(path: Path) -> str:
    """Another one whenever the film is another."""
    try:
        told = path.parent.stat() if "#" in path.name else path.stat()
    except OSError:
        return ""
    return f"{told.st_size} {told.st_mtime_ns}"


@functools.lru_cache(maxsize=4)
def _opened(path: Path, rate: float, _mark: str) -> Footage:
    return open_footage(path, rate)
