"""One recording's tracks in several languages: numbers are computed once, texts for each."""

from __future__ import annotations

from avrin.model import AvrinError
from avrin.texts import OWN, catalogue_stamp, in_language
from avrin.trace import Trace
from avrin.widgets import Tracks

__all__ = ["Spoken"]


class Spoken:
    """tracks: in the project's own language. mirror: whether the HUD stands the other way round where a language wants it."""

    def __init__(self, tracks: Tracks, *, mirror: bool = True) -> None:
        self.own = tracks
        self._trace: Trace = tracks.trace
        self._mirror = mirror
        self._known: dict[str, tuple[object, Tracks | AvrinError]] = {}

    def holds(self, tracks: Tracks) -> bool:
        """Whether these are the tracks it was made of, as they were then."""
        return self.own is tracks and self._trace is tracks.trace

    def tracks(self, code: str) -> Tracks:
        """The tracks in a language. Raises AvrinError for one that is not there, or whose catalogue cannot be read."""
        if code == OWN:
            return self.own
        stamp = catalogue_stamp(self.own.bound.folder, code)
        known = self._known.get(code)
        if known is None or known[0] != stamp:
            known = self._known[code] = (stamp, self._made(code))
        if isinstance(known[1], AvrinError):
            raise known[1].within()  # a raised one holds on to whoever asked, painters too
        return known[1]

    def tracks_or_own(self, code: str) -> Tracks:
        """The same; in the project's own language where it cannot be, as the checks tell."""
        try:
            return self.tracks(code)
        except AvrinError:
            return self.own

    def _made(self, code: str) -> Tracks | AvrinError:
        try:
            bound = in_language(self.own.bound, code, mirror=self._mirror)
        except AvrinError as error:
            return error.within()
        return Tracks(bound, self.own.trace, self.own)
