"""How the project is looked at in this window: what is hidden or locked while editing, how the lanes lie."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from avrin.app.session.present import Present
from avrin.model import LaneOrder, Own, keep_own, own_of

__all__ = ["Looking"]


class Looking(QObject):
    """Belongs to a session. own: what holds now; it is kept for each project, in no file of the project's."""

    changed = Signal()
    ground_changed = Signal()

    def __init__(self, present: Present) -> None:
        super().__init__(present)
        self._present = present
        self.own = Own()
        self.slots: dict[str, int] = {}  # of repeated widgets, the copy that was pressed last
        self.ground = ""  # the mean colour of the plate as it is drawn, "#rrggbb"; "" until it was
        self._path = present.path
        present.begun.connect(self._begun)
        present.state_changed.connect(self._named)

    def put_over(self, ground: str) -> None:
        """Thumbnails lie over another colour, "#rrggbb", or over the window's own where that is ""."""
        if ground != self.ground:
            self.ground = ground
            self.ground_changed.emit()

    def _begun(self) -> None:
        self.slots.clear()
        self._path = self._present.path
        self.own = own_of(self._path) if self._path is not None else Own()
        self.changed.emit()

    def _named(self) -> None:
        """The project has a file now, or another one: what holds goes along."""
        if self._present.path is not None and self._present.path != self._path:
            self._path = self._present.path
            keep_own(self._path, self.own)

    def _become(self, own: Own) -> None:
        if own != self.own:
            self.own = own
            if self._path is not None:
                keep_own(self._path, own)
            self.changed.emit()

    # -- while editing ------------------------------------------------------------------------------------------------

    @property
    def hidden(self) -> tuple[str, ...]:
        """Widgets there are that are out of the picture while one edits."""
        return tuple(ident for ident in self.own.hidden if self._is_there(ident))

    @property
    def locked(self) -> tuple[str, ...]:
        """Widgets there are that stay where they are and are not picked in the picture."""
        return tuple(ident for ident in self.own.locked if self._is_there(ident))

    def _is_there(self, ident: str) -> bool:
        return any(widget.id == ident for widget in self._present.project.widgets)

    def hide(self, idents: Iterable[str]) -> None:
        """Out of the picture; those that all are already come back."""
        self._become(replace(self.own, hidden=_turned(self.hidden, idents)))

    def lock(self, idents: Iterable[str]) -> None:
        """Where they are; those that all are already are let go."""
        self._become(replace(self.own, locked=_turned(self.locked, idents)))

    def free_all(self) -> None:
        """Nothing is hidden or locked any more."""
        self._become(replace(self.own, hidden=(), locked=()))

    def renamed(self, was: str, now: str) -> None:
        """A widget is called otherwise."""
        hidden, locked = (
            tuple(now if one == was else one for one in idents) for idents in (self.own.hidden, self.own.locked)
        )
        by_hand = tuple(f"widget {now}" if key == f"widget {was}" else key for key in self.own.by_hand)
        self._become(replace(self.own, hidden=hidden, locked=locked, by_hand=by_hand))

    # -- lanes --------------------------------------------------------------------------------------------------------

    def fold(self, name: str, *, opened: bool) -> None:
        """Fold a roster's lanes, or open them."""
        kept = tuple(one for one in self.own.unfolded if one != name)
        self._become(replace(self.own, unfolded=(*kept, name) if opened else kept))

    def fold_all(self) -> None:
        """As at first."""
        self._become(replace(self.own, unfolded=()))

    def order(self, order: LaneOrder) -> None:
        """Put the lanes into another order."""
        self._become(replace(self.own, order=order))

    def order_by_hand(self, keys: Iterable[str]) -> None:
        """The lanes as they were moved, by their keys."""
        self._become(replace(self.own, order="by hand", by_hand=tuple(keys)))


def _turned(before: tuple[str, ...], idents: Iterable[str]) -> tuple[str, ...]:
    wanted = tuple(dict.fromkeys(idents))
    if all(ident in before for ident in wanted):
        return tuple(ident for ident in before if ident not in wanted)
    return tuple(dict.fromkeys((*before, *wanted)))
