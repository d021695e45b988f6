"""Commands that change the preview: screen, plate, language."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.binding.player_options import option_named, scaled
from avrin.binding.tracks import Tracks
from avrin.editor.evaluation import evaluated, seen_as, shown_on
from avrin.editor.snapshot import Snapshot
from avrin.project.project import Plate, Screen

__all__ = [
    "put_over", "show_art_again", "show_as", "show_in", "show_on", "show_over", "show_over_recorded", "show_texts_again",
    "show_with",
]  # fmt: skip


def show_on(now: Snapshot, screen: Screen) -> Snapshot:
    """Preview on another screen, or on one part of a split one, as its player sees it."""
    return shown_on(now, scaled(screen, option_named(now.project, now.bound.option)))


def show_as(now: Snapshot, slot: int) -> Snapshot:
    """Show the HUD of one of the players, by slot."""
    return seen_as(now, slot, now.bound.option)


def show_with(now: Snapshot, option: str) -> Snapshot:
    """Show the HUD with an option of the player's, by name; "" for none."""
    return seen_as(now, now.bound.slot, option)


def show_over(now: Snapshot, plate: Plate | None) -> Snapshot:
    """Show another plate behind the HUD."""
    return now.replaced(view=replace(now.view, plate=plate, follows=False))


def show_over_recorded(now: Snapshot) -> Snapshot:
    """Show the plate that the recording selects."""
    return now.replaced(view=replace(now.view, follows=True))


def show_in(now: Snapshot, language: str) -> Snapshot:
    """Preview in a language, by its code."""
    return now.replaced(view=replace(now.view, language=language))


def put_over(now: Snapshot, ground: str) -> Snapshot:
    """Set the background of thumbnails, "#rrggbb", or "" for the window's own."""
    return now.replaced(ground=ground) if ground != now.ground else now


def show_art_again(now: Snapshot) -> Snapshot:
    """Redraw everything: a picture or a font changed on disk, outside the project.

    The bindings are copied, because views redraw a widget when its binding is another object; no value is computed again.
    """
    copies = {
        ident: replace(widget, copies=tuple(replace(one) for one in widget.copies))
        for ident, widget in now.bound.widgets.items()
    }
    bound = replace(now.bound, widgets=copies)
    return evaluated(now, bound, Tracks(bound, now.trace, now.tracks)).replaced("view")


def show_texts_again(now: Snapshot) -> Snapshot:
    """Show the texts anew: a catalogue was changed, which is no part of the project."""
    return now.replaced("view")
