"""Many recordings cut into parts that are about as much work each."""

from __future__ import annotations

from collections.abc import Sequence

from avrin.spread.places import Place

__all__ = ["cost", "in_parts"]

PARTS_EACH = 32  # for each who works, so that all are done at about the same time
MOST_BYTES = 64 << 20  # of recordings in a part
MOST_RECORDINGS = 64
OPENING = 200_000  # bytes that opening a file is worth, however small it is


def cost(place: Place) -> int:
    """How much work a recording is, in bytes."""
    return place.size + OPENING


def in_parts(found: Sequence[Place], hands: int, least: int = 1) -> list[tuple[Place, ...]]:
    """Recordings side by side in parts, each of at least so many, but for the last. hands: how many work at once."""
    each = min(MOST_BYTES, sum(map(cost, found)) / (PARTS_EACH * hands))
    made: list[tuple[Place, ...]] = []
    part: list[Place] = []
    costs = 0.0
    for place in found:
        if len(part) >= least and (costs + cost(place) > each or len(part) >= MOST_RECORDINGS):
            made.append(tuple(part))
            part, costs = [], 0.0
        part.append(place)
        costs += cost(place)
    return [*made, tuple(part)] if part else made
