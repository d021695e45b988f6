"""Undo and redo over immutable projects: a step stores the whole state, which shares all unchanged parts."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from avrin.project.project import Project

__all__ = ["History"]


class History(Struct, frozen=True, eq=False):
    """The undo history of a project, immutable like the projects in it.

    steps: all states in order, each with the label of its edit; undone states come last. at: the index of the current state.
    saved: the last saved or opened state. merging: the merge key of the latest edit; consecutive edits with the same
    key (typing in one field, one drag) form one step.
    """

    steps: tuple[tuple[Project, str], ...]
    saved: Project
    at: int = 0
    merging: str = ""

    @classmethod
    def of(cls, project: Project) -> History:
        """Return the history of a project that was just opened."""
        return cls(((project, ""),), project)

    @property
    def project(self) -> Project:
        """The current state."""
        return self.steps[self.at][0]

    @property
    def edited(self) -> bool:
        """Whether the current state differs from the last saved one."""
        return self.project is not self.saved

    @property
    def undo_label(self) -> str:
        """The label of the step that undo would revert, or ""."""
        return self.steps[self.at][1]

    @property
    def redo_label(self) -> str:
        """The label of the step that redo would repeat, or ""."""
        return self.steps[self.at + 1][1] if self.at + 1 < len(self.steps) else ""

    def pushed(self, project: Project, label: str, merge: str = "") -> History:
        """Return the history with `project` as its current state; undone steps are discarded."""
        if project == self.project:
            return self
        merges = merge != "" and merge == self.merging and self.at > 0
        kept = self.steps[: self.at if merges else self.at + 1]
        return replace(self, steps=(*kept, (project, label)), at=len(kept), merging=merge)

    def sealed(self) -> History:
        """Return it with the current step ended: the next edit starts a new one, with any merge key."""
        return replace(self, merging="") if self.merging else self

    def gone_to(self, number: int) -> History:
        """Return it with another step as the current state. Raises IndexError if that does not exist."""
        if not 0 <= number < len(self.steps):
            raise IndexError(number)
        return replace(self.sealed(), at=number) if number != self.at else self.sealed()

    def undone(self) -> History:
        """Return it one step back; at the first state, as it is."""
        return self.gone_to(max(0, self.at - 1))

    def redone(self) -> History:
        """Return it one step forward; at the last state, as it is."""
        return self.gone_to(min(len(self.steps) - 1, self.at + 1))

    def marked_saved(self) -> History:
        """Return it with the current state as the saved one."""
        return replace(self.sealed(), saved=self.project)
