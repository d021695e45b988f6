"""Consecutive scenes, as in playback: unchanged widgets are reused, and changed areas are reported."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.project.project import Screen
from avrin.render.scene import Placed, drawn_widget, is_drawn, moved_widget
from avrin.trace.frames import Trace

__all__ = ["Stage"]

AWAY = "away"  # invisible, so the pointer does not matter


class _Kept(Struct):
    """A widget as last drawn. of: its binding at that time. placed: None if it was invisible."""

    of: BoundWidget
    mark: tuple[object, ...]
    hot: str
    placed: Placed | None


class Stage:
    """Caches the last scene. `placed` has its visible widgets in drawing order."""

    def __init__(self) -> None:
        self.placed: list[Placed] = []
        self._kept: list[_Kept] = []
        self._of: tuple[Bound, Screen] | None = None
        self._asked: tuple[object, ...] = ()
        self._trace: Trace | None = None  # of those tracks at that time: while driving, they continue with a longer one
        self._clock = 0.0

    def show(
        self,
        tracks: Tracks,
        frame: int,
        screen: Screen,
        hot: Mapping[str, str] | None = None,
        without: Collection[str] = (),
    ) -> list[Placed] | None:
        """Go to a frame; arguments as for `scene`. without: ids of widgets to hide.

        Returns everything that was removed or added; None if the screen, the set of widgets or
        anything else but the widgets changed, so that no comparison is possible.
        """
        asked = (tracks, frame, screen, hot, without)
        if asked == self._asked and self._trace is tracks.trace:
            return []
        self._asked, self._trace = asked, tracks.trace
        clock = float(tracks.trace.t[frame]) if len(tracks.trace) else 0.0
        now = (tracks.bound, screen)
        known = self._of is not None and self._of[1] == screen and _comparable(self._of[0], tracks.bound)
        earlier = self._kept if known else []
        kept: list[_Kept] = []
        changed: list[Placed] = []
        for ident, whole in tracks.bound.widgets.items():
            touch = AWAY if ident in without else (hot or {}).get(ident, "")
            for widget in whole.each():
                mark = tracks.mark(widget, frame)
                last = earlier[len(kept)] if known else None
                same = last is not None and last.of is widget and last.mark == mark and last.hot == touch
                if last is not None and same and (clock == self._clock or not widget.moves):
                    kept.append(last)
                    continue
                if last is not None and last.placed is not None and _only_moved(last, widget, mark, touch):
                    placed: Placed | None = moved_widget(last.placed, widget, tracks.bound, screen)
                    changed += [one for one in (last.placed, placed) if one is not None]
                    kept.append(_Kept(widget, mark, touch, placed))
                    continue
                state = tracks.state(widget, frame)
                shown = touch != AWAY and is_drawn(widget, state)
                before = last.placed if last is not None else None
                still = last is not None and last.of is widget and widget.widget.place.follow is None
                rect = before.rect if before is not None and still else None
                placed = drawn_widget(widget, state, clock, tracks.bound, screen, touch, rect) if shown else None
                if last is not None and placed == last.placed:
                    placed = last.placed
                elif last is not None:
                    changed += [one for one in (last.placed, placed) if one is not None]
                kept.append(_Kept(widget, mark, touch, placed))
        self._kept, self._of, self._clock = kept, now, clock
        self.placed = [one.placed for one in kept if one.placed is not None]
        return changed if known else None


def _only_moved(last: _Kept, widget: BoundWidget, mark: tuple[object, ...], touch: str) -> bool:
    """Return whether a widget only moved: its binding and everything it shows are unchanged."""
    before, now = last.of.widget.place, widget.widget.place
    return (
        last.of is not widget and last.of.columns is widget.columns and before.size == now.size
        and before.follow is now.follow is None and last.mark == mark and last.hot == touch
        and not widget.moves and not widget.kind.may_cover and widget.widget.enter is widget.widget.leave is None
    )  # fmt: skip


def _comparable(before: Bound, after: Bound) -> bool:
    """Return whether two bound projects can be compared widget by widget: the same widgets, graph and everything else."""
    if before is after:
        return True
    there, here = before.project, after.project
    if before.graph is not after.graph or before.folder != after.folder or replace(there, widgets=here.widgets) != here:
        return False
    return [(i, len(w.copies)) for i, w in before.widgets.items()] == [
        (i, len(w.copies)) for i, w in after.widgets.items()
    ]
