"""Undo and redo over immutable projects: a step stores the whole state, which shares all unchanged parts."""

from __future__ import annotations

from avrin.model.project import Project

__all__ = ["History"]


class History:
    """The undo history of a project.

    Consecutive edits with the same `merge` key (typing in one field, one drag) form one step.
    """

    def __init__(self, project: Project) -> None:
        self._steps: list[tuple[Project, str]] = [(project, "")]
        self._at = 0
        self._merge = ""
        self._saved = project

    @property
    def project(self) -> Project:
        """The current state."""
        return self._steps[self._at][0]

    @property
    def edited(self) -> bool:
        """Whether the current state differs from the last saved one."""
        return self.project is not self._saved

    @property
    def undo_label(self) -> str:
        """The label of the step that undo would revert, or ""."""
        return self._steps[self._at][1]

    @property
    def redo_label(self) -> str:
        """The label of the step that redo would repeat, or ""."""
        return self._steps[self._at + 1][1] if self._at + 1 < len(self._steps) else ""

    @property
    def steps(self) -> list[tuple[Project, str]]:
        """All states in order, each with the label of its edit; undone states come last."""
        return list(self._steps)

    @property
    def at(self) -> int:
        """The index of the current state in `steps`."""
        return self._at

    def go(self, number: int) -> None:
        """Make a step the current state. Raises IndexError if it does not exist."""
        self.seal()
        if not 0 <= number < len(self._steps):
            raise IndexError(number)
        self._at = number

    def push(self, project: Project, label: str, merge: str = "") -> None:
        """Make `project` the current state and discard all undone steps."""
        if project == self.project:
            return
        del self._steps[self._at + 1 :]
        if merge and merge == self._merge and self._at > 0:
            self._steps[self._at] = (project, label)
        else:
            self._steps.append((project, label))
            self._at += 1
        self._merge = merge

    def seal(self) -> None:
        """End the current step: the next edit starts a new one, with any merge key."""
        self._merge = ""

    def undo(self) -> bool:
        """Go one step back. Return False at the end."""
        self.seal()
        if self._at == 0:
            return False
        self._at -= 1
        return True

    def redo(self) -> bool:
        """Go one step forward. Return False at the end."""
        self.seal()
        if self._at + 1 >= len(self._steps):
            return False
        self._at += 1
        return True

    @property
    def saved(self) -> Project:
        """The last saved or opened state."""
        return self._saved

    def mark_saved(self) -> None:
        """Mark the current state as saved."""
        self.seal()
        self._saved = self.project
