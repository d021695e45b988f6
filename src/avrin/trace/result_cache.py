"""A persistent cache of small results that are slow to compute only because a library is slow to load.

Parse trees, shaped lines, formatted numbers. One file per kind in the user's cache; it can be deleted at any time, and
a damaged one is replaced.
"""

from __future__ import annotations

import atexit
import glob
import logging
from typing import Generic, TypeVar

import msgspec

from avrin.storage.cache import cache_get, cache_put
from avrin.storage.folders import cache_folder

__all__ = ["ResultCache"]

log = logging.getLogger(__name__)
T = TypeVar("T")


class ResultCache(Generic[T]):
    """Cached values by text, loaded on first use and written at exit if there are new ones.

    stamp: changes when the same text would give another value. kind: the values' type, validated when loaded.
    most: the number of newest entries to write.
    """

    def __init__(self, name: str, stamp: str, kind: object, most: int = 4000) -> None:
        self._name = name
        self._path = cache_folder() / f"{name}-{stamp}.msgpack"
        self._kind = kind
        self._most = most
        self._values: dict[str, T | msgspec.Raw] = {}  # encoded until requested: most entries belong to other projects
        try:
            if (data := cache_get(self._path)) is not None:
                self._values = msgspec.msgpack.decode(data, type=dict[str, msgspec.Raw])
        except msgspec.MsgspecError as error:
            log.warning("%s cannot be used and is rebuilt (%s)", self._path.name, error)
        self._new = False
        atexit.register(self.write)

    def get(self, key: str) -> T | None:
        """Return the cached value of a text, or None."""
        value = self._values.get(key)
        if not isinstance(value, msgspec.Raw):
            return value
        try:
            read: T = msgspec.msgpack.decode(value, type=self._kind)
        except msgspec.MsgspecError as error:
            log.warning("an entry of %s cannot be used and is rebuilt (%s)", self._path.name, error)
            del self._values[key]
            return None
        self._values[key] = read
        return read

    def put(self, key: str, value: T) -> T:
        """Cache a value and return it."""
        self._values[key] = value
        self._new = True
        return value

    def write(self) -> None:
        """Write new entries. A failure only costs time later."""
        if not self._new:
            return

        newest = dict(list(self._values.items())[-self._most :])
        outdated = f"{glob.escape(self._name)}-????????????????.msgpack"
        if cache_put(self._path, msgspec.msgpack.encode(newest), outdated=outdated):
            self._new = False
