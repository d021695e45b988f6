"""One recording's tracks in several languages and for each player of a split screen; common parts are computed once."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.i18n.catalogue import catalogue_stamp
from avrin.i18n.own_language import OWN
from avrin.trace.frames import Trace

if TYPE_CHECKING:
    from avrin.render.pictures import SeenBy

__all__ = ["Spoken"]

Key = tuple[str, int | None, str]  # a language's code, a player's slot, and the name of an option


class Spoken:
    """tracks: in the project's own language. mirror: whether to mirror the HUD for languages that require it."""

    def __init__(self, tracks: Tracks, *, mirror: bool = True) -> None:
        self.own = tracks
        self._trace: Trace = tracks.trace
        self._mirror = mirror
        self._known: dict[Key, tuple[object, Tracks | AvrinError]] = {}

    def holds(self, tracks: Tracks) -> bool:
        """Return whether these are the tracks it was created from, unchanged."""
        return self.own is tracks and self._trace is tracks.trace

    def tracks(self, code: str, slot: int | None = None, option: str | None = None) -> Tracks:
        """Return the tracks in a language for a slot's player, and with an option; None for the original ones.

        Raises AvrinError for a missing language or an unreadable catalogue.
        """
        if slot is None:
            slot = self.own.bound.slot
        if option is None:
            option = self.own.bound.option
        if (code, slot, option) == (OWN, self.own.bound.slot, self.own.bound.option):
            return self.own
        stamp = catalogue_stamp(self.own.bound.folder, code) if code != OWN else None
        known = self._known.get((code, slot, option))
        if known is None or known[0] != stamp:
            known = self._known[code, slot, option] = (stamp, self._make_tracks(code, slot, option))
        if isinstance(known[1], AvrinError):
            raise known[1].within()  # a raised error refers to its callers' frames, so it is copied
        return known[1]

    def tracks_or_own(self, code: str, slot: int | None = None, option: str | None = None) -> Tracks:
        """Do the same, falling back to the project's own language; the checks report the error."""
        try:
            return self.tracks(code, slot, option)
        except AvrinError:
            return self.tracks(OWN, slot, option)

    def seen_by(self, code: str, option: str | None = None) -> SeenBy:
        """Return the tracks of every player in a language, or in the project's own as a fallback."""
        return partial(self.tracks_or_own, code, option=option)

    def _make_tracks(self, code: str, slot: int | None, option: str) -> Tracks | AvrinError:
        from avrin.i18n.languages import in_language  # late: 2 ms

        own = self.own.bound
        try:
            if (slot, option) == (own.slot, own.option):
                bound = own
            else:
                bound = bind(own.project, own, own.events, own.folder, slot=slot, option=option)
            bound = in_language(bound, code, mirror=self._mirror)
        except AvrinError as error:
            return error.within()
        return Tracks(bound, self.own.trace, self.own)
