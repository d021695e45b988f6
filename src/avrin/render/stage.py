"""Scenes one after another, as in playing: what looks as before is taken over, and where the rest lies is told."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from avrin.model import Screen
from avrin.render.scene import Placed, drawn_widget, is_drawn
from avrin.trace import Trace
from avrin.widgets import Bound, Tracks

__all__ = ["Stage"]


class _Kept(Struct):
    """A widget as it was drawn last. placed: None where it was not to be seen."""

    mark: tuple[object, ...]
    hot: str
    placed: Placed | None


class Stage:
    """Keeps the last scene. `placed` has its visible widgets in drawing order."""

    def __init__(self) -> None:
        self.placed: list[Placed] = []
        self._kept: list[_Kept] = []
        self._of: tuple[Bound, Screen] | None = None
        self._asked: tuple[object, ...] = ()
        self._trace: Trace | None = None  # of those tracks then: while driving they go on to a longer one
        self._clock = 0.0

    def show(
        self, tracks: Tracks, frame: int, screen: Screen, hot: Mapping[str, str] | None = None
    ) -> list[Placed] | None:
        """Go to a frame, with arguments as `scene` has them.

        Returns all that came or went, as it was and as it is; None where project or screen are others than before, so
        that nothing can be compared.
        """
        asked = (tracks, frame, screen, hot)
        if asked == self._asked and self._trace is tracks.trace:
            return []
        self._asked, self._trace = asked, tracks.trace
        clock = float(tracks.trace.t[frame]) if len(tracks.trace) else 0.0
        now = (tracks.bound, screen)
        known = self._of is not None and self._of[0] is now[0] and self._of[1] == screen
        earlier = self._kept if known else []
        kept: list[_Kept] = []
        changed: list[Placed] = []
        for ident, whole in tracks.bound.widgets.items():
            touch = (hot or {}).get(ident, "")
            for widget in whole.each():
                mark = tracks.mark(widget, frame)
                last = earlier[len(kept)] if known else None
                same = last is not None and last.mark == mark and last.hot == touch
                if last is not None and same and (clock == self._clock or not widget.moves):
                    kept.append(last)
                    continue
                state = tracks.state(widget, frame)
                shown = is_drawn(widget, state)
                before = last.placed if last is not None else None
                rect = before.rect if before is not None and widget.widget.place.follow is None else None
                placed = drawn_widget(widget, state, clock, tracks.bound, screen, touch, rect) if shown else None
                if last is not None and placed == last.placed:
                    placed = last.placed
                elif last is not None:
                    changed += [one for one in (last.placed, placed) if one is not None]
                kept.append(_Kept(mark, touch, placed))
        self._kept, self._of, self._clock = kept, now, clock
        self.placed = [one.placed for one in kept if one.placed is not None]
        return changed if known else None
