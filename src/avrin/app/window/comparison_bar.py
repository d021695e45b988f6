"""The bar of a comparison below the header: with what, how both are shown, the differences, and navigation."""

from __future__ import annotations

from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel

from avrin.app.controls.file_dialogs import ask_file, ask_target
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.menu import new_menu
from avrin.app.services.comparison import WAYS, Before, Comparison
from avrin.app.services.editor import Editor
from avrin.app.window.notice_bar import NoticeBar
from avrin.editor.changes import Change
from avrin.errors import AvrinError
from avrin.project.numbers import counted
from avrin.storage.files import load, write

if TYPE_CHECKING:
    from avrin.binding.tracks import Tracks
    from avrin.diff.entries import Entries
    from avrin.diff.revisions import Revision
    from avrin.diff.stretches import Stretch

__all__ = ["ComparisonBar"]

MARGIN = 20
LONGEST = 60  # characters of a commit's message in the menu


class ComparisonBar(NoticeBar):
    """Visible during a comparison. history_wanted: a step of the history is to be chosen."""

    history_wanted = Signal()

    def __init__(self, editor: Editor, comparison: Comparison) -> None:
        super().__init__()
        self.editor = editor
        self._comparison = comparison
        self.setAccessibleName("comparing")
        self.source = Link("", self.choose, menu=True, bold=True)
        self.ways = {way: Link(way, partial(comparison.show, way)) for way in WAYS}
        self.told: QLabel = text_label("", "second")
        self.before_link = Link("‹", partial(comparison.walk, -1), bold=True)
        self.after_link = Link("›", partial(comparison.walk, 1), bold=True)
        self.before_link.setToolTip("Previous difference  [")
        self.after_link.setToolTip("Next difference  ]")
        self.page = Link("save as a page …", self.ask_page)
        self.close_link = Link("stop", comparison.end)
        row = QHBoxLayout(self)
        row.setContentsMargins(MARGIN, 4, MARGIN - 7, 4)
        row.setSpacing(4)
        row.addWidget(text_label("before:", "second"))
        row.addWidget(self.source)
        row.addSpacing(14)
        for link in self.ways.values():
            row.addWidget(link)
        row.addSpacing(14)
        row.addWidget(self.before_link)
        row.addWidget(self.after_link)
        row.addWidget(self.told, 1)
        row.addWidget(self.page)
        row.addWidget(self.close_link)
        editor.follow("comparison bar", self)
        self.refresh()

    def on_change(self, _change: Change) -> None:
        """Show what is compared."""
        self.refresh()

    def refresh(self) -> None:
        """Show what is compared, and the differences."""
        comparing = self._comparison
        self.setVisible(comparing.before is not None)
        if comparing.before is None:
            return
        self.source.set_text(comparing.before.title)
        for way, link in self.ways.items():
            link.set_chosen(way == comparing.way)
        found = comparing.found
        if found is None:
            failure = comparing.failure
            self.told.setText("comparing …" if failure is None else f"cannot be compared: {failure}")
            return
        moments = len(found.moments)
        said = _entries_summary(found.entries)
        self.told.setText(f"{said};  {counted(moments, 'moment')} with differences" if moments else
                          f"{said};  no differences in this recording")  # fmt: skip
        self.told.setToolTip(_entries_text(found.entries))

    def show_ways(self, shown: bool) -> None:
        """Show the ways to combine pictures, which only the Bind desk uses."""
        for link in self.ways.values():
            link.setVisible(shown)

    # -- the earlier version ------------------------------------------------------------------------------------------

    def choose(self) -> None:
        """Choose the earlier version: the saved one, a step of the history, a commit, another file."""
        editor = self.editor
        menu = new_menu(self)
        if editor.now.path is not None:
            menu.addAction("the last saved version", self.with_saved)
        menu.addAction("a step of the history …", self.history_wanted.emit)
        for revision in self._revisions():
            menu.addAction(_revision_text(revision), partial(self._with_revision, revision))
        menu.addAction("another file …", self.ask_file)
        below = self.source.mapToGlobal(self.source.rect().bottomLeft())
        menu.popup(below if self.isVisible() else self.window().mapToGlobal(QPoint(MARGIN, 44)))

    def _revisions(self) -> list[Revision]:
        """Return the commits that changed the project's file; none without git."""
        from avrin.diff.revisions import revisions  # late: 1 ms

        if self.editor.now.path is None:
            return []
        try:
            return revisions(self.editor.now.path)[:12]
        except AvrinError:
            return []

    def with_saved(self) -> None:
        """Compare with the last saved version."""
        editor = self.editor
        self._comparison.begin(Before("as saved", editor.now.history.saved, editor.now.folder))

    def with_step(self, number: int) -> None:
        """Compare with a step of the history."""
        editor = self.editor
        project, label = editor.now.history.steps[number]
        self._comparison.begin(Before(f"after {label}" if label else "as opened", project, editor.now.folder))

    def _with_revision(self, revision: Revision) -> None:
        from avrin.diff.revisions import project_at  # late: 1 ms

        path = self.editor.now.path
        assert path is not None  # it is a commit of that file
        try:
            project, _ = project_at(f"{path}@{revision.name}")
        except AvrinError as error:
            self.editor.say(str(error), error=True)
            return
        self._comparison.begin(Before(revision.subject[:LONGEST], project, self.editor.now.folder))

    def ask_file(self) -> None:
        """Choose another project's file."""
        chosen = ask_file(self, "A project to compare with", self.editor.now.folder, "Projects (*.avrin)")
        if chosen is not None:
            self.with_file(chosen)

    def with_file(self, path: Path) -> None:
        """Compare with another project's file."""
        try:
            project, _ = load(path)
        except AvrinError as error:
            self.editor.say(str(error), error=True)
            return
        self._comparison.begin(Before(path.name, project, path.absolute().parent))

    # -- export -------------------------------------------------------------------------------------------------------

    def ask_page(self) -> None:
        """Choose where to save the page of differences."""
        chosen = ask_target(
            self, "The page of differences", self.editor.now.folder / "differences.html", "Pages (*.html)"
        )
        if chosen is None:
            return
        try:
            self.save(chosen)
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    def save(self, path: Path) -> None:
        """Save the differences over the visible recording as a page. Raises AvrinError."""
        from avrin.diff.page import page  # late: 2 ms
        from avrin.diff.reports import Difference

        comparing, editor = self._comparison, self.editor
        before, found = comparing.before, comparing.found
        if before is None or found is None:
            raise AvrinError("the differences are not computed yet", advice="Try again in a moment")
        title = f"{editor.now.project.title}: {before.title} and now, over {editor.now.trace.name}"
        told = Difference(title, found.entries, list(found.stretches), found.pictures)
        write(path, page(told, partial(self._pair, found.tracks, before.folder)).encode())
        editor.say(f"Saved as {path.name}")

    def _pair(self, tracks: Tracks, folder: Path, stretch: Stretch) -> tuple[str, str]:
        from avrin.diff.page import side  # late: 2 ms

        editor, screen = self.editor, self._comparison.screen()
        named = editor.now.plate.name if editor.now.plate is not None else ""
        plate = next((one for one in tracks.bound.project.plates if one.name == named), None)
        return (
            side(tracks, stretch.start, screen, plate, folder),
            side(editor.now.tracks, stretch.start, editor.now.view.screen, editor.now.plate, editor.now.folder),
        )


def _entries_summary(entries: Entries) -> str:
    count = len(entries.project) + len(entries.added) + len(entries.removed) + len(entries.changed)
    return f"{counted(count, 'change')} in the file" if count else "no changes in the file"


def _entries_text(entries: Entries) -> str:
    """Return all changed entries, a line each."""
    lines = [
        *entries.project,
        *(f"{ident} is new" for ident in entries.added),
        *(f"{ident} is gone" for ident in entries.removed),
    ]
    return "\n".join([*lines, *(f"{one.widget}: {', '.join(one.what)}" for one in entries.changed)])


def _revision_text(revision: Revision) -> str:
    when = datetime.fromtimestamp(revision.when)
    return f"{revision.subject[:LONGEST]}\t{when:%d %b %Y, %H:%M}".replace("&", "&&")
