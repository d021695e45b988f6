"""Edits of the selected widgets: position, order, copies, groups, removal. Each is one undo step."""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec.structs import replace

from avrin.app.session.editor_state import EditorState
from avrin.app.session.view_state import WindowViewState
from avrin.edits.clipboard import copied, duplicated, pasted
from avrin.edits.identity import grouped, renamed_widget, titled, ungrouped
from avrin.edits.kinds import kind_changed, kind_losses
from avrin.edits.order import Step, ordered
from avrin.edits.placing import Way, aligned, in_grid, moved, same_size, spread
from avrin.model.errors import AvrinError
from avrin.model.numbers import counted
from avrin.model.project import Project

__all__ = ["SelectionEdits"]

PASTE_OFFSET = 24.0  # reference pixels from the copied widgets to the pasted ones
MAX_COPIES = 400  # in a grid of copies
GAP = 12.0  # between the cells of a grid
HIDDEN = "hidden in the editor only.  Ctrl+Alt+H shows it again"
LOCKED = "locked.  Ctrl+Alt+L unlocks it"


class SelectionEdits:
    """Belongs to a session, whose project it edits."""

    def __init__(self, present: EditorState, looking: WindowViewState) -> None:
        self._present = present
        self._looking = looking

    @property
    def chosen(self) -> tuple[str, ...]:
        """The ids of the selected existing widgets, in order of selection."""
        known = {widget.id for widget in self._present.project.widgets}
        return tuple(ident for ident in self._present.selected.widgets if ident in known)

    @property
    def title(self) -> str:
        """The selection in words."""
        chosen = self.chosen
        return self._present.project.widget(chosen[0]).title if len(chosen) == 1 else counted(len(chosen), "widget")

    # -- selection ----------------------------------------------------------------------------------------------------

    def toggle(self, ident: str) -> None:
        """Add a widget to the selection, or remove it."""
        chosen = self.chosen
        kept = tuple(one for one in chosen if one != ident) if ident in chosen else (*chosen, ident)
        self._present.select_widgets(*kept)

    def all(self) -> None:
        """Select every widget except hidden and locked ones."""
        away = {*self._looking.hidden, *self._looking.locked}
        self._present.select_widgets(*(widget.id for widget in self._present.project.widgets if widget.id not in away))

    def like(self) -> None:
        """Select all widgets of the selected kinds."""
        project, chosen = self._present.project, self.chosen
        kinds = {project.widget(ident).kind for ident in chosen}
        more = (widget.id for widget in project.widgets if widget.kind in kinds and widget.id not in chosen)
        self._present.select_widgets(*chosen, *more)

    def fellows(self) -> None:
        """Select all widgets that share a group with a selected one."""
        project, chosen = self._present.project, self.chosen
        groups = {project.widget(ident).group for ident in chosen} - {""}
        more = (widget.id for widget in project.widgets if widget.group in groups and widget.id not in chosen)
        self._present.select_widgets(*chosen, *more)

    # -- hidden and locked --------------------------------------------------------------------------------------------

    def hide(self) -> None:
        """Hide them in the editor, or show them again; they stay selected."""
        self._looking.hide(self.chosen)
        back = not {*self.chosen} <= {*self._looking.hidden}
        self._present.reported.emit(f"{self.title}: {'visible again' if back else HIDDEN}", False)

    def lock(self) -> None:
        """Lock them in the editor, or unlock them."""
        self._looking.lock(self.chosen)
        free = not {*self.chosen} <= {*self._looking.locked}
        self._present.reported.emit(f"{self.title}: {'unlocked' if free else LOCKED}", False)

    @property
    def free(self) -> tuple[str, ...]:
        """Return the selected widgets that are not locked; report locked ones."""
        locked, chosen = self._looking.locked, self.chosen
        free = tuple(ident for ident in chosen if ident not in locked)
        if len(free) < len(chosen):
            title = self.title if not free else f"{len(chosen) - len(free)} of them"
            self._present.reported.emit(f"{title}: {LOCKED}", False)
        return free

    # -- places -------------------------------------------------------------------------------------------------------

    def nudge(self, dx: float, dy: float) -> None:
        """Move by reference pixels; consecutive steps are one edit."""
        free = self.free
        self._done(moved(self._present.project, free, dx, dy), "nudge", " ".join(("nudge", *free)))

    def align(self, way: Way) -> None:
        """Align several with one another, one with the safe area."""
        self._done(aligned(self._present.project, self.free, way, self._present.screen), f"align {way}")

    def spread(self, *, across: bool) -> None:
        """Distribute three or more with equal gaps."""
        if len(self.chosen) < 3:
            self._present.reported.emit("Select at least three widgets to distribute", False)
        self._done(spread(self._present.project, self.free, across, self._present.screen), "spreading")

    def same_size(self, *, wide: bool = False, high: bool = False) -> None:
        """Give all the width or height of the one selected first."""
        self._done(same_size(self._present.project, self.free, wide=wide, high=high), "size")

    def square(self) -> None:
        """Arrange in a grid with about as many columns as rows."""
        self.grid(math.ceil(math.sqrt(max(1, len(self.chosen)))))

    def grid(self, columns: int) -> None:
        """Arrange in rows of `columns` widgets."""
        self._done(in_grid(self._present.project, self.free, columns, GAP, self._present.screen), "grid")

    def order(self, step: Step) -> None:
        """Move forward or backward."""
        self._done(ordered(self._present.project, self.chosen, step), "order")

    def repeat(self, across: int, down: int) -> None:
        """Repeat the first one to fill a grid, starting at its position. Raises AvrinError for too many."""
        project, ident = self._present.project, self.chosen[0]
        if not 1 < across * down <= MAX_COPIES:
            raise AvrinError(
                f"{across} × {down} is not a valid grid of copies",
                advice=f"Write for example 4 × 4, at most {MAX_COPIES} copies",
            )
        made = [ident]
        for _ in range(across * down - 1):
            project, more = duplicated(project, [ident])
            made += more
        project = in_grid(project, made, across, GAP, self._present.screen)
        self._done(project, "grid", chosen=made)

    # -- copies -------------------------------------------------------------------------------------------------------

    def duplicate(self) -> None:
        """Duplicate each, with an offset, and select the copies."""
        project, made = duplicated(self._present.project, self.chosen)
        if made:
            self._done(project, "duplicate", chosen=made)

    def copied(self) -> str:
        """Return the selected widgets as text for the clipboard, "" for none."""
        return copied(self._present.project, self.chosen) if self.chosen else ""

    def paste(self, text: str) -> None:
        """Add the widgets of a text and select them. Raises AvrinError for any other text."""
        present, taken, shift = self._present, [widget.place for widget in self._present.project.widgets], 0.0
        project, made = pasted(present.project, text)
        for _ in taken:  # not exactly on top of an identical one
            if all(project.widget(ident).place not in taken for ident in made):
                break
            shift += PASTE_OFFSET
            project, made = pasted(present.project, text, shift)
        what = f"{len(made)} widgets" if len(made) > 1 else project.widget(made[0]).title
        present.edit(project, f"paste {what}")
        present.select_merged(*made)
        present.reported.emit(f"Pasted {what}", False)

    def remove(self) -> None:
        """Remove them."""
        present, chosen, title = self._present, self.chosen, self.title
        if not chosen:
            return
        kept = tuple(widget for widget in present.project.widgets if widget.id not in chosen)
        present.edit(replace(present.project, widgets=kept), f"remove {title}")
        present.select_widgets()
        present.reported.emit(f"Removed {title}.  Ctrl+Z brings {'them' if len(chosen) > 1 else 'it'} back", False)

    # -- identity -----------------------------------------------------------------------------------------------------

    def group(self) -> None:
        """Group them."""
        if self.chosen:
            project, ident = grouped(self._present.project, self.chosen)
            self._done(project, "grouping")
            self._present.reported.emit(f"{self.title} in group {ident}", False)

    def ungroup(self) -> None:
        """Move them out of their group, without changing their position."""
        self._done(ungrouped(self._present.project, self.chosen), "ungrouping")

    def make(self, kind: str) -> None:
        """Change their kind, keeping what fits and reporting what does not."""
        before = project = self._present.project
        for ident in self.chosen:
            project = kind_changed(project, ident, kind)
        lost = [name for one in self.chosen for name in kind_losses(before.widget(one), project.widget(one))]
        self._done(project, "kind")
        if lost:
            names = ", ".join(dict.fromkeys(lost))
            self._present.reported.emit(f"A {kind} has no {names}: left out.  Ctrl+Z undoes it", False)

    def call(self, ident: str, title: str) -> None:
        """Set a widget's title; its id stays. Raises AvrinError if it is too long."""
        made = titled(self._present.project, ident, title)
        if made != self._present.project:
            self._present.seal()
            self._present.edit(made, f"title of {self._present.project.widget(ident).title}")

    def rename(self, ident: str, new: str) -> None:
        """Change a widget's id. Raises AvrinError for an invalid name."""
        before = self._present.project
        made = renamed_widget(before, ident, new)
        if made != before:
            at = [widget.id for widget in before.widgets].index(ident)
            called = made.widgets[at].id
            more = [called if one == ident else one for one in self.chosen]
            self._present.edit(made, f"id of {before.widget(ident).title}")
            self._looking.renamed(ident, called)
            self._present.select_merged(*more)

    def _done(self, project: Project, what: str, merge: str = "", *, chosen: Sequence[str] = ()) -> None:
        present = self._present
        if not merge:
            present.seal()
        present.edit(project, f"{what} of {self.title}", merge)
        if chosen:
            present.select_merged(*chosen)
