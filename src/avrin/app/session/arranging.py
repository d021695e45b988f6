"""What is done to the chosen widgets, one or many: placed, ordered, copied, grouped, removed. Each is one undo step."""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec.structs import replace

from avrin import arrange
from avrin.app.session.looking import Looking
from avrin.app.session.present import Present
from avrin.arrange import Step, Way
from avrin.model import AvrinError, Project

__all__ = ["Arranging"]

APART = 24.0  # reference pixels from what was copied to what is pasted over it
MOST = 400  # in a grid of copies
GAP = 12.0  # between the places of a grid
HIDDEN = "hidden while you edit, and in the game as before.  Ctrl+Alt+H brings it back"
LOCKED = "locked where it is.  Ctrl+Alt+L lets it go"


class Arranging:
    """Belongs to a session, whose project it changes."""

    def __init__(self, present: Present, looking: Looking) -> None:
        self._present = present
        self._looking = looking

    @property
    def chosen(self) -> tuple[str, ...]:
        """The ids of the chosen widgets that there are, in the order they were chosen."""
        known = {widget.id for widget in self._present.project.widgets}
        return tuple(ident for ident in self._present.selected.widgets if ident in known)

    @property
    def title(self) -> str:
        """What is chosen, in words."""
        chosen = self.chosen
        return self._present.project.widget(chosen[0]).title if len(chosen) == 1 else f"{len(chosen)} widgets"

    # -- choosing -----------------------------------------------------------------------------------------------------

    def toggle(self, ident: str) -> None:
        """Choose a widget with the others, or no longer."""
        chosen = self.chosen
        kept = tuple(one for one in chosen if one != ident) if ident in chosen else (*chosen, ident)
        self._present.select_widgets(*kept)

    def all(self) -> None:
        """Choose every widget but those that are hidden or locked while editing."""
        away = {*self._looking.hidden, *self._looking.locked}
        self._present.select_widgets(*(widget.id for widget in self._present.project.widgets if widget.id not in away))

    def like(self) -> None:
        """Choose all widgets of the kinds that are chosen."""
        project, chosen = self._present.project, self.chosen
        kinds = {project.widget(ident).kind for ident in chosen}
        more = (widget.id for widget in project.widgets if widget.kind in kinds and widget.id not in chosen)
        self._present.select_widgets(*chosen, *more)

    def fellows(self) -> None:
        """Choose all widgets that lie in a group with one that is chosen."""
        project, chosen = self._present.project, self.chosen
        groups = {project.widget(ident).group for ident in chosen} - {""}
        more = (widget.id for widget in project.widgets if widget.group in groups and widget.id not in chosen)
        self._present.select_widgets(*chosen, *more)

    # -- while editing ------------------------------------------------------------------------------------------------

    def hide(self) -> None:
        """Out of the picture while one edits, or back into it; they stay chosen."""
        self._looking.hide(self.chosen)
        back = not {*self.chosen} <= {*self._looking.hidden}
        self._present.said.emit(f"{self.title}: {'back in the picture' if back else HIDDEN}", False)

    def lock(self) -> None:
        """Where they are while one edits, or free again."""
        self._looking.lock(self.chosen)
        free = not {*self.chosen} <= {*self._looking.locked}
        self._present.said.emit(f"{self.title}: {'free to be moved' if free else LOCKED}", False)

    @property
    def free(self) -> tuple[str, ...]:
        """The chosen ones that may be moved. That others are locked is told."""
        locked, chosen = self._looking.locked, self.chosen
        free = tuple(ident for ident in chosen if ident not in locked)
        if len(free) < len(chosen):
            title = self.title if not free else f"{len(chosen) - len(free)} of them"
            self._present.said.emit(f"{title}: {LOCKED}", False)
        return free

    # -- places -------------------------------------------------------------------------------------------------------

    def nudge(self, dx: float, dy: float) -> None:
        """Move by reference pixels; steps in a row are one edit."""
        free = self.free
        self._done(arrange.moved(self._present.project, free, dx, dy), "nudge", " ".join(("nudge", *free)))

    def align(self, way: Way) -> None:
        """Line up: several with one another, one with the safe area."""
        self._done(arrange.aligned(self._present.project, self.free, way, self._present.screen), f"lining up {way}")

    def spread(self, *, across: bool) -> None:
        """Make the gaps between three or more equal."""
        if len(self.chosen) < 3:
            self._present.said.emit("Three widgets or more can be spread", False)
        self._done(arrange.spread(self._present.project, self.free, across, self._present.screen), "spreading")

    def same_size(self, *, wide: bool = False, high: bool = False) -> None:
        """As wide, or as high, as the one chosen first."""
        self._done(arrange.same_size(self._present.project, self.free, wide=wide, high=high), "size")

    def square(self) -> None:
        """In a grid about as many across as down."""
        self.grid(math.ceil(math.sqrt(max(1, len(self.chosen)))))

    def grid(self, columns: int) -> None:
        """In rows of so many."""
        self._done(arrange.in_grid(self._present.project, self.free, columns, GAP, self._present.screen), "grid")

    def order(self, step: Step) -> None:
        """Before or behind others."""
        self._done(arrange.ordered(self._present.project, self.chosen, step), "order")

    def repeat(self, across: int, down: int) -> None:
        """The first one as often as fits a grid, laid out from where it is. Raises AvrinError for too many."""
        project, ident = self._present.project, self.chosen[0]
        if not 1 < across * down <= MOST:
            raise AvrinError(
                f"{across} × {down} is no grid of copies", advice=f"Write for example 4 × 4, {MOST} at most"
            )
        made = [ident]
        for _ in range(across * down - 1):
            project, more = arrange.duplicated(project, [ident])
            made += more
        project = arrange.in_grid(project, made, across, GAP, self._present.screen)
        self._done(project, "grid", chosen=made)

    # -- copies -------------------------------------------------------------------------------------------------------

    def duplicate(self) -> None:
        """Each once more, a little apart; the copies are chosen."""
        project, made = arrange.duplicated(self._present.project, self.chosen)
        if made:
            self._done(project, "duplicate", chosen=made)

    def copied(self) -> str:
        """The chosen widgets as text for the clipboard, "" where none is chosen."""
        return arrange.copied(self._present.project, self.chosen) if self.chosen else ""

    def paste(self, text: str) -> None:
        """Add the widgets of a text and choose them. Raises AvrinError for any other text."""
        present, taken, shift = self._present, [widget.place for widget in self._present.project.widgets], 0.0
        project, made = arrange.pasted(present.project, text)
        for _ in taken:  # not right over one that looks alike
            if all(project.widget(ident).place not in taken for ident in made):
                break
            shift += APART
            project, made = arrange.pasted(present.project, text, shift)
        what = f"{len(made)} widgets" if len(made) > 1 else project.widget(made[0]).title
        present.edit(project, f"pasting of {what}")
        present.select_merged(*made)
        present.said.emit(f"Pasted {what}", False)

    def remove(self) -> None:
        """Take them off the screen."""
        present, chosen, title = self._present, self.chosen, self.title
        if not chosen:
            return
        kept = tuple(widget for widget in present.project.widgets if widget.id not in chosen)
        present.edit(replace(present.project, widgets=kept), f"removal of {title}")
        present.select_widgets()
        present.said.emit(f"Removed {title}.  Ctrl+Z brings {'them' if len(chosen) > 1 else 'it'} back", False)

    # -- what they are ------------------------------------------------------------------------------------------------

    def group(self) -> None:
        """Into a group of their own."""
        if self.chosen:
            project, ident = arrange.grouped(self._present.project, self.chosen)
            self._done(project, "grouping")
            self._present.said.emit(f"{self.title} in group {ident}", False)

    def ungroup(self) -> None:
        """Out of the group they lie in, staying where they are."""
        self._done(arrange.ungrouped(self._present.project, self.chosen), "ungrouping")

    def make(self, kind: str) -> None:
        """All of another kind; what fits is kept, and what does not is told."""
        before = project = self._present.project
        for ident in self.chosen:
            project = arrange.kind_changed(project, ident, kind)
        lost = [name for one in self.chosen for name in arrange.kind_losses(before.widget(one), project.widget(one))]
        self._done(project, "kind")
        if lost:
            names = ", ".join(dict.fromkeys(lost))
            self._present.said.emit(f"A {kind} has no {names}: left out.  Ctrl+Z takes it back", False)

    def call(self, ident: str, title: str) -> None:
        """Give a widget a title; its id stays. Raises AvrinError for one that is too long."""
        made = arrange.titled(self._present.project, ident, title)
        if made != self._present.project:
            self._present.seal()
            self._present.edit(made, f"title of {self._present.project.widget(ident).title}")

    def rename(self, ident: str, new: str) -> None:
        """Give a widget another id. Raises AvrinError for a name that cannot be."""
        before = self._present.project
        made = arrange.renamed_widget(before, ident, new)
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
