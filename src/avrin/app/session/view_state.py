"""The view state of the project in this window: hidden and locked widgets, layout of the lanes."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from avrin.app.session.editor_state import EditorState
from avrin.model.view_state import LaneOrder, ViewState, load_view_state, save_view_state

__all__ = ["WindowViewState"]


class WindowViewState(QObject):
    """Belongs to a session. own: the current view state, saved per project outside its file."""

    changed = Signal()
    ground_changed = Signal()

    def __init__(self, present: EditorState) -> None:
        super().__init__(present)
        self._present = present
        self.own = ViewState()
        self.slots: dict[str, int] = {}  # of repeated widgets, the copy clicked last
        self.ground = ""  # the mean colour of the plate as drawn, "#rrggbb"; "" until known
        self._path = present.path
        present.begun.connect(self._begun)
        present.state_changed.connect(self._follow_file)

    def put_over(self, ground: str) -> None:
        """Set the background of thumbnails, "#rrggbb", or "" for the window's own."""
        if ground != self.ground:
            self.ground = ground
            self.ground_changed.emit()

    def _begun(self) -> None:
        self.slots.clear()
        self._path = self._present.path
        self.own = load_view_state(self._path) if self._path is not None else ViewState()
        self.changed.emit()

    def _follow_file(self) -> None:
        """Move the view state to the project's new file."""
        if self._present.path is not None and self._present.path != self._path:
            self._path = self._present.path
            save_view_state(self._path, self.own)

    def _set(self, own: ViewState) -> None:
        if own != self.own:
            self.own = own
            if self._path is not None:
                save_view_state(self._path, own)
            self.changed.emit()

    # -- hidden and locked --------------------------------------------------------------------------------------------

    @property
    def hidden(self) -> tuple[str, ...]:
        """Existing widgets hidden in the editor."""
        return tuple(ident for ident in self.own.hidden if self._is_there(ident))

    @property
    def locked(self) -> tuple[str, ...]:
        """Existing widgets locked in the editor: they cannot be moved or clicked in the picture."""
        return tuple(ident for ident in self.own.locked if self._is_there(ident))

    def _is_there(self, ident: str) -> bool:
        return any(widget.id == ident for widget in self._present.project.widgets)

    def hide(self, idents: Iterable[str]) -> None:
        """Hide widgets in the picture; if all are hidden, show them."""
        self._set(replace(self.own, hidden=_turned(self.hidden, idents)))

    def lock(self, idents: Iterable[str]) -> None:
        """Lock widgets; if all are locked, unlock them."""
        self._set(replace(self.own, locked=_turned(self.locked, idents)))

    def free_all(self) -> None:
        """Show and unlock all widgets."""
        self._set(replace(self.own, hidden=(), locked=()))

    def renamed(self, was: str, now: str) -> None:
        """Follow a widget's new id."""
        hidden, locked = (
            tuple(now if one == was else one for one in idents) for idents in (self.own.hidden, self.own.locked)
        )
        by_hand = tuple(f"widget {now}" if key == f"widget {was}" else key for key in self.own.by_hand)
        self._set(replace(self.own, hidden=hidden, locked=locked, by_hand=by_hand))

    # -- lanes --------------------------------------------------------------------------------------------------------

    def fold(self, name: str, *, opened: bool) -> None:
        """Collapse or expand a roster's lanes."""
        kept = tuple(one for one in self.own.unfolded if one != name)
        self._set(replace(self.own, unfolded=(*kept, name) if opened else kept))

    def fold_all(self) -> None:
        """Reset to the initial state."""
        self._set(replace(self.own, unfolded=()))

    def order(self, order: LaneOrder) -> None:
        """Sort the lanes in another order."""
        self._set(replace(self.own, order=order))

    def order_by_hand(self, keys: Iterable[str]) -> None:
        """Set the manual order of lanes, by key."""
        self._set(replace(self.own, order="by hand", by_hand=tuple(keys)))


def _turned(before: tuple[str, ...], idents: Iterable[str]) -> tuple[str, ...]:
    wanted = tuple(dict.fromkeys(idents))
    if all(ident in before for ident in wanted):
        return tuple(ident for ident in before if ident not in wanted)
    return tuple(dict.fromkeys((*before, *wanted)))
