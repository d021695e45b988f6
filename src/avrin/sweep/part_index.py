"""The part that holds each recording's results: four bytes each, because there may be a million."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from avrin.execution.locations import Location

__all__ = ["Where"]


class Where:
    """found: recordings ascending by name. files: of the parts in use."""

    def __init__(self, places: Sequence[Location]) -> None:
        self.found = places
        self._parts: dict[tuple[Path, str], int] = {}  # by file, and by the known events
        self._part = np.full(len(places), -1, np.int32)

    @property
    def files(self) -> list[Path]:
        """Return the parts that hold results."""
        used = set(np.unique(self._part).tolist())
        return [path for (path, _), number in self._parts.items() if number in used]

    def place(self, name: str) -> Location | None:
        """Return a recording by name."""
        at = self._at(name)
        return self.found[at] if at is not None else None

    def put(self, name: str, path: Path, events: str) -> None:
        """Set the part of a recording, and the events known to it."""
        at = self._at(name)
        assert at is not None
        self._part[at] = self._parts.setdefault((path, events), len(self._parts))

    def missing(self) -> list[Location]:
        """Return recordings without results."""
        return [self.found[at] for at in np.flatnonzero(self._part < 0).tolist()]

    def under(self, events: str) -> Where:
        """Return only the results computed with these known events."""
        made = Where(self.found)
        made._parts = dict(self._parts)
        good = np.array([known == events for _, known in self._parts] or [False])
        made._part = np.where((self._part >= 0) & good[self._part], self._part, -1).astype(np.int32)
        return made

    def each(self) -> Iterator[tuple[Location, Path]]:
        """Yield all recordings in order, with their parts."""
        paths = [path for path, _ in self._parts]
        return ((place, paths[part]) for place, part in zip(self.found, self._part.tolist(), strict=True))

    def _at(self, name: str) -> int | None:
        at = bisect_left(self.found, name, key=lambda place: place.name)
        return at if at < len(self.found) and self.found[at].name == name else None
