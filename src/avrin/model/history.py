"""Undo and redo over immutable projects: a step is a pair of values that share all they have in common."""

from __future__ import annotations

from avrin.model.project import Project

__all__ = ["History"]


class History:
    """The states a project went through.

    Edits that name the same `merge` key one after another (typing in one field, one drag) become one step.
    """

    def __init__(self, project: Project) -> None:
        self._steps: list[tuple[Project, str]] = [(project, "")]
        self._at = 0
        self._merge = ""
        self._saved = project

    @property
    def project(self) -> Project:
        """The present state."""
        return self._steps[self._at][0]

    @property
    def edited(self) -> bool:
        """Whether the present state differs from the one last saved."""
        return self.project is not self._saved

    @property
    def undo_label(self) -> str:
        """What undo would take back, or "" when there is nothing."""
        return self._steps[self._at][1]

    @property
    def redo_label(self) -> str:
        """What redo would do again, or ""."""
        return self._steps[self._at + 1][1] if self._at + 1 < len(self._steps) else ""

    @property
    def steps(self) -> list[tuple[Project, str]]:
        """All states there are, the first one first, each with what made it; what was undone comes last."""
        return list(self._steps)

    @property
    def at(self) -> int:
        """The number of the present one."""
        return self._at

    def go(self, number: int) -> None:
        """Make a step the present one. Raises IndexError where there is none."""
        self.seal()
        if not 0 <= number < len(self._steps):
            raise IndexError(number)
        self._at = number

    def push(self, project: Project, label: str, merge: str = "") -> None:
        """Make `project` the present state; what had been undone is forgotten."""
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
        """End the present step: the next edit starts a new one whatever its key."""
        self._merge = ""

    def undo(self) -> bool:
        """Go one step back. False when there is none."""
        self.seal()
        if self._at == 0:
            return False
        self._at -= 1
        return True

    def redo(self) -> bool:
        """Go one step forward again. False when there is none."""
        self.seal()
        if self._at + 1 >= len(self._steps):
            return False
        self._at += 1
        return True

    @property
    def saved(self) -> Project:
        """The project as it was last saved, or opened."""
        return self._saved

    def mark_saved(self) -> None:
        """The present state is the file's."""
        self.seal()
        self._saved = self.project
