"""Bind the edited project and evaluate it over the visible recording."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.binding.player_options import option_named, scaled
from avrin.binding.tracks import Tracks, new_steps
from avrin.editor.snapshot import Snapshot
from avrin.project.project import USUAL_SCREEN, Screen, ScreenPart
from avrin.rules.check import Events
from avrin.trace.frames import Trace, events_of

__all__ = ["bound_over", "evaluated", "pending_tracks", "reevaluated", "seen_as", "shown_on", "with_tracks"]

AT_ONCE = 3_000_000  # steps times frames evaluated synchronously: about ten milliseconds


def bound_over(now: Snapshot, trace: Trace) -> Bound:
    """Return the project bound over the events of all its recordings read so far, reusing a binding if possible.

    Where an argument's kind differs between recordings, that of `trace` counts.
    """
    paths = [now.identity(one) for one in now.project.traces]
    read = [found.trace for path in paths if (found := now.recordings.get(path)) and found.trace is not None]
    events, screen = events_of([*read, trace]), now.view.screen
    slot = screen.slot if isinstance(screen, ScreenPart) else now.bound.slot
    return _bound_as(now, events, slot, now.bound.option)


def seen_as(now: Snapshot, slot: int | None, option: str) -> Snapshot:
    """Show the HUD of another player, or with another option of the player's."""
    base = next((one for one in now.project.whole_screens if one.name == now.view.screen.name), now.view.screen)
    screen = scaled(base, option_named(now.project, option))
    now = now.replaced(view=replace(now.view, screen=screen))
    bound = _bound_as(now, now.bound.events, slot, option)
    return evaluated(now, bound, Tracks(bound, now.trace, now.tracks))


def _bound_as(now: Snapshot, events: Events, slot: int | None, option: str) -> Bound:
    for known in (now.bound, now.earlier_bound):  # a drive has events of its own, and ends where it began
        same = known.project is now.project and known.folder == now.folder
        if same and (known.slot, known.option, known.events) == (slot, option, events):
            return known
    return bind(now.project, now.bound, events, now.folder, slot=slot, option=option)


def with_tracks(now: Snapshot, bound: Bound, tracks: Tracks, **fields: Any) -> Snapshot:  # noqa: ANN401  (fields of the snapshot)
    """Return the snapshot with an evaluated project; a running drive goes on with it."""
    live = now.live
    if live is not None and live.bound is not bound:
        live.bind(bound)
    earlier = now.earlier_bound if bound is now.bound else now.bound
    return now.replaced(bound=bound, tracks=tracks, earlier_bound=earlier, waiting=None, **fields)


def reevaluated(now: Snapshot) -> Snapshot:
    """Bind the current project and evaluate what is new. What would take long is left `waiting`, see `pending_tracks`."""
    bound = bound_over(now, now.trace)
    if new_steps(bound, now.tracks) * len(now.trace) > AT_ONCE:
        return now.replaced(waiting=bound)
    return evaluated(now, bound, Tracks(bound, now.trace, now.tracks))


def pending_tracks(now: Snapshot) -> Tracks | None:
    """Evaluate what is waiting, if anything is."""
    return Tracks(now.waiting, now.trace, now.tracks) if now.waiting is not None else None


def evaluated(now: Snapshot, bound: Bound, tracks: Tracks) -> Snapshot:
    """Show an evaluated project, on a screen and over a plate that it has."""
    return _on_known_view(with_tracks(now, bound, tracks if tracks.trace is now.trace else tracks.grown(now.trace)))


def shown_on(now: Snapshot, screen: Screen) -> Snapshot:
    """Preview on another screen, or on one part of a split one, as its player sees it."""
    now = now.replaced(view=replace(now.view, screen=screen))
    return reevaluated(now) if isinstance(screen, ScreenPart) and screen.slot != now.bound.slot else now


def _on_known_view(now: Snapshot) -> Snapshot:
    """Keep the visible screen and plate valid: the one of the same name, or else the first."""
    plates, shown = now.project.plates, now.view.plate
    option = option_named(now.project, now.bound.option)
    screens = [scaled(screen, option) for screen in now.project.whole_screens]
    if shown is not None and shown not in plates:
        other = next((one for one in plates if one.name == shown.name), plates[0] if plates else None)
        now = now.replaced(view=replace(now.view, plate=other))
    usual = scaled(USUAL_SCREEN, option)
    if now.view.screen not in screens and (screens or now.view.screen != usual):
        return shown_on(now, min(screens, key=lambda screen: _unlike(now.view.screen, screen), default=usual))
    return now


def _unlike(shown: Screen, screen: Screen) -> tuple[bool, ...]:
    """Return how a screen differs from the visible one: name, split screen, player."""
    (of, slot), (other, whose) = _whose(shown), _whose(screen)
    return screen.name != shown.name, other != of, whose != slot


def _whose(screen: Screen) -> tuple[str, int]:
    """Return the name of a screen, or of the screen a part belongs to, and the part's slot."""
    return (screen.of, screen.slot) if isinstance(screen, ScreenPart) else (screen.name, 0)
