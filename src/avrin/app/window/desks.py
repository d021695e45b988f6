"""The desks there are: their names, their keys and how each is made. A new desk is one package and one entry here."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct
from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:  # desks are loaded when they are first gone to: with them come slow libraries
    from avrin.app.session.session import Session

__all__ = ["DESKS", "Desk", "DeskEntry", "desk_named"]


class Desk(Protocol):
    """What a desk is to the window, besides a widget."""

    @property
    def busy(self) -> bool:
        """Whether what it shows is still being worked out."""
        ...


class DeskEntry(Struct, frozen=True):
    """One desk.

    make: gets the session and what goes to another desk by its name. count: what is told beside its name: how many things
    there are to look at, and whether any is bad.
    """

    name: str
    key: str
    make: Callable[[Session, Callable[[str], None]], QWidget]
    count: Callable[[Session], tuple[int, bool]] | None = None


def _bind(session: Session, _go: Callable[[str], None]) -> QWidget:
    from avrin.app.bind_desk.desk import BindDesk

    return BindDesk(session)


def _ladder(session: Session, _go: Callable[[str], None]) -> QWidget:
    from avrin.app.ladder_desk.desk import LadderDesk

    return LadderDesk(session)


def _screens(session: Session, go: Callable[[str], None]) -> QWidget:
    from avrin.app.screens_desk.desk import ScreensDesk

    made = ScreensDesk(session)
    made.wants_desk.connect(go)
    return made


def _findings(session: Session, go: Callable[[str], None]) -> QWidget:
    from avrin.app.findings_desk.desk import FindingsDesk

    made = FindingsDesk(session)
    made.wants_desk.connect(go)
    return made


def _found(session: Session) -> tuple[int, bool]:
    """In red where something is above a hint."""
    found = session.checking.causes
    return len(found), any(finding.severity != "hint" for finding in found)


DESKS = (
    DeskEntry("Bind", "Ctrl+1", _bind),
    DeskEntry("Ladder", "Ctrl+2", _ladder),
    DeskEntry("Screens", "Ctrl+3", _screens),
    DeskEntry("Findings", "Ctrl+4", _findings, _found),
)


def desk_named(name: str) -> DeskEntry:
    """The desk of a name. Raises KeyError where there is none."""
    return {desk.name: desk for desk in DESKS}[name]
