"""Commands on what only this window shows of the project: hidden and locked widgets, the order of lanes."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from avrin.editor.snapshot import Snapshot
from avrin.storage.view_state import LaneOrder, ViewState

__all__ = [
    "HIDDEN", "LOCKED", "fold", "fold_all", "free_all", "hide", "layout_renamed", "lock", "order_lanes",
    "order_lanes_by_hand", "show_slot",
]  # fmt: skip

HIDDEN = "hidden in the editor only.  Ctrl+Alt+H shows it again"
LOCKED = "locked.  Ctrl+Alt+L unlocks it"


def hide(now: Snapshot, idents: Iterable[str]) -> Snapshot:
    """Hide widgets in the picture; if all are hidden, show them."""
    return _with(now, replace(now.layout, hidden=_toggled(now.hidden, idents)))


def lock(now: Snapshot, idents: Iterable[str]) -> Snapshot:
    """Lock widgets; if all are locked, unlock them."""
    return _with(now, replace(now.layout, locked=_toggled(now.locked, idents)))


def free_all(now: Snapshot) -> Snapshot:
    """Show and unlock all widgets."""
    return _with(now, replace(now.layout, hidden=(), locked=()))


def layout_renamed(now: Snapshot, was: str, ident: str) -> Snapshot:
    """Follow a widget's new id."""
    hidden, locked = (
        tuple(ident if one == was else one for one in idents) for idents in (now.layout.hidden, now.layout.locked)
    )
    by_hand = tuple(f"widget {ident}" if key == f"widget {was}" else key for key in now.layout.by_hand)
    return _with(now, replace(now.layout, hidden=hidden, locked=locked, by_hand=by_hand))


def fold(now: Snapshot, name: str, *, opened: bool) -> Snapshot:
    """Collapse or expand a roster's lanes."""
    kept = tuple(one for one in now.layout.unfolded if one != name)
    return _with(now, replace(now.layout, unfolded=(*kept, name) if opened else kept))


def fold_all(now: Snapshot) -> Snapshot:
    """Reset to the initial state."""
    return _with(now, replace(now.layout, unfolded=()))


def order_lanes(now: Snapshot, order: LaneOrder) -> Snapshot:
    """Sort the lanes in another order."""
    return _with(now, replace(now.layout, order=order))


def order_lanes_by_hand(now: Snapshot, keys: Iterable[str]) -> Snapshot:
    """Set the manual order of lanes, by key."""
    return _with(now, replace(now.layout, order="by hand", by_hand=tuple(keys)))


def show_slot(now: Snapshot, ident: str, slot: int) -> Snapshot:
    """Note which copy of a repeated widget was clicked last."""
    return now.replaced(slots={**now.slots, ident: slot})


def _with(now: Snapshot, layout: ViewState) -> Snapshot:
    return now.replaced(layout=layout) if layout != now.layout else now


def _toggled(before: tuple[str, ...], idents: Iterable[str]) -> tuple[str, ...]:
    wanted = tuple(dict.fromkeys(idents))
    if all(ident in before for ident in wanted):
        return tuple(ident for ident in before if ident not in wanted)
    return tuple(dict.fromkeys((*before, *wanted)))
