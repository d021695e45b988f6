"""Small results kept for the next start: what libraries take long to load for and give the same answer to each time.

Parse trees, shaped lines, formatted numbers. One file a kind in the user's cache; it can be deleted at any time, and
a broken one is started anew.
"""

from __future__ import annotations

import atexit
import logging
from typing import Generic, TypeVar

import msgspec

from avrin.model import cache_folder, keep, kept

__all__ = ["Kept"]

log = logging.getLogger(__name__)
T = TypeVar("T")


class Kept(Generic[T]):
    """Values by text, read when first asked for and written at the end when there are new ones.

    stamp: changes when the same text would give another value. kind: the values' type, checked when read back.
    most: how many are written, the newest.
    """

    def __init__(self, name: str, stamp: str, kind: object, most: int = 4000) -> None:
        self._name = name
        self._path = cache_folder() / f"{name}-{stamp}.msgpack"
        self._kind = kind
        self._most = most
        self._values: dict[str, T | msgspec.Raw] = {}  # as bytes until asked for: most belong to other projects
        try:
            if (data := kept(self._path)) is not None:
                self._values = msgspec.msgpack.decode(data, type=dict[str, msgspec.Raw])
        except msgspec.MsgspecError as error:
            log.warning("%s cannot be used and is made anew (%s)", self._path.name, error)
        self._new = False
        atexit.register(self.write)

    def get(self, key: str) -> T | None:
        """The value of a text, None when it is not known."""
        value = self._values.get(key)
        if not isinstance(value, msgspec.Raw):
            return value
        try:
            read: T = msgspec.msgpack.decode(value, type=self._kind)
        except msgspec.MsgspecError as error:
            log.warning("an entry of %s cannot be used and is made anew (%s)", self._path.name, error)
            del self._values[key]
            return None
        self._values[key] = read
        return read

    def put(self, key: str, value: T) -> T:
        """Keep a value; gives it back."""
        self._values[key] = value
        self._new = True
        return value

    def write(self) -> None:
        """Write what is new. Nothing is lost but time when it fails."""
        if not self._new:
            return
        import glob  # no start waits for it

        newest = dict(list(self._values.items())[-self._most :])
        if keep(self._path, msgspec.msgpack.encode(newest), f"{glob.escape(self._name)}-????????????????.msgpack"):
            self._new = False
