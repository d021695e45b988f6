"""One recording's tracks in several languages, for each player of a split screen: what is alike in them is computed once."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from avrin import texts  # its catalogues are loaded where another language than its own is looked at
from avrin.model import AvrinError
from avrin.texts import OWN
from avrin.trace import Trace
from avrin.widgets import Tracks, bind

if TYPE_CHECKING:
    from avrin.render import SeenBy

__all__ = ["Spoken"]

Key = tuple[str, int | None]  # a language's code, and whose part of a split screen


class Spoken:
    """tracks: in the project's own language. mirror: whether the HUD stands the other way round where a language wants it."""

    def __init__(self, tracks: Tracks, *, mirror: bool = True) -> None:
        self.own = tracks
        self._trace: Trace = tracks.trace
        self._mirror = mirror
        self._known: dict[Key, tuple[object, Tracks | AvrinError]] = {}

    def holds(self, tracks: Tracks) -> bool:
        """Whether these are the tracks it was made of, as they were then."""
        return self.own is tracks and self._trace is tracks.trace

    def tracks(self, code: str, slot: int | None = None) -> Tracks:
        """The tracks in a language, as a slot's player sees them, None for the one they are of.

        Raises AvrinError for a language that is not there, or whose catalogue cannot be read.
        """
        if slot is None:
            slot = self.own.bound.slot
        if code == OWN and slot == self.own.bound.slot:
            return self.own
        stamp = texts.catalogue_stamp(self.own.bound.folder, code) if code != OWN else None
        known = self._known.get((code, slot))
        if known is None or known[0] != stamp:
            known = self._known[code, slot] = (stamp, self._made(code, slot))
        if isinstance(known[1], AvrinError):
            raise known[1].within()  # a raised one holds on to whoever asked, painters too
        return known[1]

    def tracks_or_own(self, code: str, slot: int | None = None) -> Tracks:
        """The same; in the project's own language where it cannot be, as the checks tell."""
        try:
            return self.tracks(code, slot)
        except AvrinError:
            return self.tracks(OWN, slot)

    def seen_by(self, code: str) -> SeenBy:
        """What every player sees in a language, or in the project's own where it cannot be."""
        return partial(self.tracks_or_own, code)

    def _made(self, code: str, slot: int | None) -> Tracks | AvrinError:
        own = self.own.bound
        try:
            bound = own if slot == own.slot else bind(own.project, own, own.seen, own.folder, slot=slot)
            bound = texts.in_language(bound, code, mirror=self._mirror)
        except AvrinError as error:
            return error.within()
        return Tracks(bound, self.own.trace, self.own)
