"""Recordings being processed, noted on disk, so that one that crashes the program is identified afterwards."""

from __future__ import annotations

import logging
from collections.abc import Iterable
from pathlib import Path

import msgspec

from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_write
from avrin.storage.reading import read_whole

__all__ = ["Trying"]

log = logging.getLogger(__name__)
MOST_BYTES = 64 << 20


class Trying:
    """times: crashes during each recording, by name."""

    def __init__(self, folder: Path) -> None:
        self._file = folder / "trying.json"
        self.times: dict[str, int] = {}
        try:
            if self._file.exists():
                self.times = msgspec.json.decode(read_whole(self._file, MOST_BYTES), type=dict[str, int])
        except (AvrinError, OSError, msgspec.MsgspecError) as error:
            log.info("%s cannot be used: %s", self._file, error)

    def begin(self, names: Iterable[str]) -> None:
        """Note that these are being processed. Raises OSError."""
        for name in names:
            self.times[name] = self.times.get(name, 0) + 1
        self._keep()

    def end(self, names: Iterable[str]) -> None:
        """Note that these were processed without a crash."""
        for name in names:
            self.times.pop(name, None)
        self._keep()

    def forget(self) -> None:
        """Delete all notes."""
        self.times.clear()
        self._keep()

    def _keep(self) -> None:
        if self.times:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            atomic_write(self._file, msgspec.json.encode(self.times), lasting=False)
        else:
            self._file.unlink(missing_ok=True)
