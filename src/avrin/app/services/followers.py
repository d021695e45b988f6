"""Who is notified of a change of the editor, and in which order."""

from __future__ import annotations

import sys
import weakref
from typing import Protocol

from shiboken6 import isValid

from avrin.editor.changes import PARTS, Change, Part

__all__ = ["ORDER", "Follower", "Followers"]

HUD: tuple[Part, ...] = ("recording", "tracks")  # another recording, or another HUD over it
# From first to last, each with the parts that concern it. What works with the state comes before what shows it.
ORDER: dict[str, frozenset[Part]] = {
    "jobs": frozenset(PARTS),
    "evaluation": frozenset({"waiting"}),
    "player": frozenset({"playing"}),
    "garbage collector": frozenset({"playing"}),
    "layout file": frozenset({"layout", "file", "opened"}),
    "recordings": frozenset({"project", "opened"}),
    "drafts": frozenset({"project", "opened"}),
    "journal": frozenset({"project", "opened"}),
    "conflicts": frozenset({"project", "opened"}),
    "art": frozenset({"project", "file", "opened"}),
    "films": frozenset({"opened"}),
    "extent": frozenset({*HUD, "selection"}),
    "findings": frozenset({*HUD, "project", "opened"}),
    "suggestions": frozenset({*HUD, "opened"}),
    "comparison": frozenset({*HUD, "recordings", "opened"}),
    "sweeps": frozenset({"opened"}),
    "window": frozenset({"history", "file", "access", "message", "opened"}),
    "picture": frozenset({*HUD, "playhead", "selection", "view", "layout", "film", "extent", "comparison"}),
    "header": frozenset({"recording", "view", "history", "file", "access", "figures", "findings"}),
    "comparison bar": frozenset({"comparison"}),
    "ruler": frozenset({"recording", "playhead", "playing", "project"}),
    "lanes": frozenset({*HUD, "grown", "playhead", "selection", "layout", "ground", "figures", "findings",
                        "suggestions", "comparison"}),
    "variable form": frozenset({"tracks"}),
    "card": frozenset({*HUD, "selection", "figures", "extent", "suggestions"}),
    "part width": frozenset({"tracks"}),
    "ladder strip": frozenset({"figures", "ground"}),
    "footer": frozenset({"recording", "tracks", "driving", "layout"}),
    "shelf": frozenset({"suggestions", "figures", "ground"}),
    "bind desk": frozenset({*HUD, "selection", "suggestions", "opened"}),
    "popups": frozenset({*HUD, "playhead", "figures", "selection", "view"}),
    "findings desk": frozenset({*HUD, "findings", "comparison"}),
    "moment": frozenset({"film"}),
    "screens desk": frozenset({*HUD, "view", "findings", "opened"}),
    "screen cells": frozenset({"playhead", "figures", "film", "comparison"}),
    "ladder desk": frozenset({*HUD, "recordings", "figures", "comparison", "opened"}),
    "sweep": frozenset({"tracks", "sweep"}),
}  # fmt: skip


class Follower(Protocol):
    """A view, or a service."""

    def on_change(self, change: Change) -> None:
        """Show, or work with, what changed."""


class Followers:
    """Whoever follows an editor, by the names in `ORDER`. They are not kept alive."""

    def __init__(self) -> None:
        self._named: dict[str, list[weakref.ref[Follower]]] = {name: [] for name in ORDER}

    def add(self, name: str, follower: Follower) -> None:
        """Add a follower; it is notified after those of its name that came before it."""
        self._named[name].append(weakref.ref(follower))

    def notify(self, change: Change) -> None:
        """Notify all whom a change concerns."""
        for name, parts in ORDER.items():
            if not change.parts.isdisjoint(parts):
                for reference in tuple(self._named[name]):
                    follower = reference()
                    if follower is None or not isValid(follower):
                        self._named[name].remove(reference)
                    else:
                        _notify(follower, change)


def _notify(follower: Follower, change: Change) -> None:
    try:
        follower.on_change(change)
    except Exception:  # noqa: BLE001  (as Qt does with what it calls: reported, and the others are notified all the same)
        sys.excepthook(*sys.exc_info())
