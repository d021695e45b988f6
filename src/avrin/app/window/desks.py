"""The registry of desks: names, keys and constructors. A new desk is one package and one entry here."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct
from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:  # desks are imported on first use, because they need slow libraries
    from avrin.app.services.workspace import Workspace

__all__ = ["DESKS", "Desk", "DeskEntry", "desk_named"]


class Desk(Protocol):
    """The window's interface for desks, which are widgets."""

    @property
    def busy(self) -> bool:
        """Whether its content is being computed."""
        ...


class DeskEntry(Struct, frozen=True):
    """A desk.

    make: creates it from the workspace and a function that shows another desk. count: the number shown next to its name
    and whether it is highlighted.
    """

    name: str
    key: str
    make: Callable[[Workspace, Callable[[str], None]], QWidget]
    count: Callable[[Workspace], tuple[int, bool]] | None = None


def _bind(workspace: Workspace, _go: Callable[[str], None]) -> QWidget:
    from avrin.app.bind_desk.desk import BindDesk  # late: 380 ms, after the kept picture

    return BindDesk(workspace)


def _ladder(workspace: Workspace, _go: Callable[[str], None]) -> QWidget:
    from avrin.app.ladder_desk.desk import LadderDesk  # late: 18 ms

    return LadderDesk(workspace)


def _screens(workspace: Workspace, go: Callable[[str], None]) -> QWidget:
    from avrin.app.screens_desk.desk import ScreensDesk  # late: 23 ms

    made = ScreensDesk(workspace)
    made.wants_desk.connect(go)
    return made


def _findings(workspace: Workspace, go: Callable[[str], None]) -> QWidget:
    from avrin.app.findings_desk.desk import FindingsDesk  # late: 22 ms

    made = FindingsDesk(workspace)
    made.wants_desk.connect(go)
    return made


def _count_findings(workspace: Workspace) -> tuple[int, bool]:
    """Return the number of findings, and whether any is more severe than a hint."""
    found = workspace.checking.causes
    return len(found), any(finding.severity != "hint" for finding in found)


DESKS = (
    DeskEntry("Bind", "Ctrl+1", _bind),
    DeskEntry("Ladder", "Ctrl+2", _ladder),
    DeskEntry("Screens", "Ctrl+3", _screens),
    DeskEntry("Findings", "Ctrl+4", _findings, _count_findings),
)


def desk_named(name: str) -> DeskEntry:
    """Return a desk by name. Raises KeyError for an unknown name."""
    return {desk.name: desk for desk in DESKS}[name]
