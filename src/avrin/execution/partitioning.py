"""Split recordings into parts of similar cost."""

from __future__ import annotations

from collections.abc import Sequence

from avrin.execution.locations import Location

__all__ = ["cost", "in_parts"]

PARTS_EACH = 32  # per worker, so that all finish at about the same time
MOST_BYTES = 64 << 20  # of recordings in a part
MOST_RECORDINGS = 64
OPENING = 200_000  # bytes equivalent to opening a file


def cost(place: Location) -> int:
    """Return the cost of a recording, in bytes."""
    return place.size + OPENING


def in_parts(places: Sequence[Location], workers: int, least: int = 1) -> list[tuple[Location, ...]]:
    """Return consecutive recordings in parts of at least `least`, except the last. workers: the number of workers."""
    each = min(MOST_BYTES, sum(map(cost, places)) / (PARTS_EACH * workers))
    made: list[tuple[Location, ...]] = []
    part: list[Location] = []
    costs = 0.0
    for place in places:
        if len(part) >= least and (costs + cost(place) > each or len(part) >= MOST_RECORDINGS):
            made.append(tuple(part))
            part, costs = [], 0.0
        part.append(place)
        costs += cost(place)
    return [*made, tuple(part)] if part else made
