"""Sweeps over thousands of recordings: run in the background, then listed by the states of a widget."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.file_dialogs import ask_folder
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import row
from avrin.app.controls.theme import EDGE, theme
from avrin.app.ladder_desk.swept_rows import OUTLINE, SweptRows
from avrin.app.painting.stretches import band_colour
from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started
from avrin.app.services.sweeps import Sweeps
from avrin.app.services.traces import Traces
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.execution.locations import Location, locations
from avrin.execution.task import Task, opened, task
from avrin.kinds.states import HIDDEN, state_label
from avrin.project.project import Project
from avrin.sweep.state_table import Outline, outline

__all__ = ["SweepView"]

ALL = "all of them"
AT_ONCE = 6  # recordings whose miniatures are computed together
MOST_NEVER = 5  # listed by name
INVITES = "Choose a folder of play-test recordings to see which states each of them showed, and which none did."
TAKES = "Nested folders, tables and change logs. It runs while you work; a stopped sweep can be continued later."


class SweepView(QWidget):
    """Sweeps the window's project over external recordings."""

    def __init__(self, editor: Editor, sweeps: Sweeps, traces: Traces) -> None:
        super().__init__()
        self.editor, self.sweeps, self._traces = editor, sweeps, traces
        self.widget = ""  # as named in tracks
        self._shown: object = None  # the table and the widget laid out last
        self._outlining = Jobs(self, editor, "project", failed=lambda _error: None)
        self._places: dict[str, Location] = {}
        self._given: tuple[Project, Task] | None = None  # the project, and its task
        self._named: dict[str, str] = {}  # widgets by title
        self._build()
        editor.follow("sweep", self)

    def on_change(self, change: Change) -> None:
        """Show the sweep; outline again for another HUD."""
        if change.of("sweep"):
            self._refresh()
        if change.of("tracks"):
            self._outdated()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(EDGE, 10, EDGE, 0)
        whole.setSpacing(6)
        self.where = Field("location of the recordings", 420)
        self.where.setPlaceholderText("a folder, or a URL such as s3://bucket/play-tests")
        self.where.taken.connect(self._start)
        self.choose = Link("choose a folder …", self._choose)
        self.go = Link("sweep", self._go, bold=True)
        self.progress = text_label("", size="small")
        whole.addLayout(
            row(text_label("recordings in", size="small"), self.where, self.choose, self.go, self.progress, None)
        )
        self.widgets = Choice("widget", [""])
        self.widgets.taken.connect(self._widget_is)
        self.only = Choice("filter", [ALL])
        self.only.taken.connect(self._only)
        self.sentence = text_label("", "ink", "large")
        self.never = text_label("", size="small")
        line = QHBoxLayout()
        line.addWidget(self.sentence)
        line.addStretch(1)
        self._about = (text_label("states of", size="small"), self.widgets, text_label("show", size="small"), self.only)
        for part in self._about:
            line.addWidget(part)
        whole.addLayout(line)
        whole.addWidget(self.never)
        self.rows = SweptRows()
        self.rows.asked.connect(self._visit)
        self.rows.asked_moment.connect(self._visit_moment)
        self.rows.scrolled.connect(self._outline)
        whole.addWidget(self.rows, 1)
        self._room = QWidget()
        whole.addWidget(self._room, 1)

    def begin(self) -> None:
        """Load the latest sweep of this project."""
        self.sweeps.recall()
        self.where.show_text(self.sweeps.where)
        self._refresh()

    @property
    def busy(self) -> bool:
        """Whether a result is pending."""
        return self.sweeps.busy or self._outlining.busy

    def wait(self) -> None:
        """Finish all computations, for tests and pictures."""
        self.sweeps.wait()
        self._outlining.wait()

    # -- display ------------------------------------------------------------------------------------------------------

    def _refresh(self) -> None:
        sweeps = self.sweeps
        if not self.where.hasFocus():
            self.where.show_text(sweeps.where)
        again = "sweep again" if sweeps.found else "sweep"
        self.go.set_text("stop" if sweeps.running else "go on" if sweeps.begun else again)
        self.progress.setText(_progress(sweeps.done, sweeps.of, sweeps.left) if sweeps.running or sweeps.begun else "")
        found = sweeps.found
        for part in (*self._about, self.rows):
            part.setVisible(found is not None)
        self._room.setVisible(found is None)
        if found is None:
            self.sentence.setText(INVITES)
            self.never.setText(TAKES)
            return
        self._named = {self._display_name(name): name for name in found.widgets if self._copy(name) is not None}
        known = list(self._named.values())
        if self.widget not in known:
            selected = self.editor.now.selection.widget
            self.widget = selected if selected in known else next(iter(known), "")
        self.widgets.offer(list(self._named) or [""])
        self.widgets.show_value(self._display_name(self.widget) if self.widget else "")
        self._lay_out()

    def _copy(self, column: str) -> BoundWidget | None:
        """Return the widget or copy with a name in tracks."""
        widget = self.editor.now.bound.widgets.get(column.partition("[")[0])
        return next((one for one in widget.each() if one.track_name == column), None) if widget is not None else None

    def _display_name(self, column: str) -> str:
        copy = self._copy(column)
        assert copy is not None
        return copy.widget.title + (f", slot {copy.slot}" if copy.widget.repeat else "")

    def _lay_out(self) -> None:
        found, copy = self.sweeps.found, self._copy(self.widget)
        if found is None or copy is None:
            self.rows.show_found(None, lambda _state: theme().calm)
            return
        if self._shown == (id(found), self.widget, copy.widget.bands):
            return
        self._shown = (id(found), self.widget, copy.widget.bands)
        told = found.of(self.widget, found.states(copy))

        def colour(state: str) -> QColor:
            return theme().third if state == HIDDEN else band_colour(copy, state)

        self.rows.show_found(told, colour)
        self._words()
        wishes = [f"{which} {state_label(state, told.states)}" for state in told.states for which in ("ever", "never")]
        self.only.offer([ALL, *wishes])
        which, state = self.rows.only
        self.only.show_value(f"{which} {state_label(state, told.states)}" if which else ALL)

    def _words(self) -> None:
        found, told = self.sweeps.found, self.rows.model_.found
        copy = self._copy(self.widget)
        if found is None or told is None or copy is None:
            return
        count = len(found.recordings)
        ever = {state: int((told.entries[:, i] > 0).sum()) for i, state in enumerate(told.states)}
        parts = [f"{band.name} in {_count(ever[band.name])}" for band in copy.widget.bands]
        parts += [f"hidden in {_count(ever[HIDDEN])}"] if ever[HIDDEN] else []
        faults = f", {self.sweeps.faults:,} more are unreadable" if self.sweeps.faults else ""
        states = ", ".join(parts) or "always the same"
        self.sentence.setText(f"{self._display_name(self.widget)}, in {count:,} recordings{faults}: {states}")
        never = [f"{self._display_name(widget)}: {band}" for widget, band in found.never(self.editor.now.bound)]
        more = f" and {len(never) - MOST_NEVER} more" if len(never) > MOST_NEVER else ""
        self.never.setText(
            f"Never shown in {count:,} recordings:  {',  '.join(never[:MOST_NEVER])}{more}" if never
            else f"Every band of every widget is shown somewhere in {count:,} recordings"
        )  # fmt: skip

    def _outdated(self) -> None:
        """Note that the project changed: the result may be outdated, and stays until the next sweep."""
        if self.isVisible():
            self._refresh()

    # -- miniatures ---------------------------------------------------------------------------------------------------

    def _outline(self) -> None:
        """Compute the miniatures of visible recordings, in batches."""
        known = self.rows.model_.outlines
        wanted = [name for name in self.rows.in_view() if name not in known][:AT_ONCE]
        if not wanted or not self.isVisible() or self._outlining.busy:
            return
        editor, named = self.editor, self.widget
        where, folder = self.sweeps.there, editor.now.folder

        def work(started: Started) -> tuple[str, dict[str, Outline | None]]:
            if not self._places:
                self._places = {place.name: place for place in locations([where])}
            now = started.snapshot
            if (
                self._given is None or self._given[0] is not now.project
            ):  # creating a task searches all pictures and films
                self._given = now.project, task(now.project, folder, {}, far=False)
            given = self._given[1]
            told: dict[str, Outline | None] = {}
            for name in wanted:
                started.breathe()
                copy = next((c for w in now.bound.widgets.values() for c in w.each() if c.track_name == named), None)
                try:
                    trace = opened(given, self._places[name])
                    tracks = Tracks(now.bound, trace, only=[copy] if copy is not None else [])
                    told[name] = outline(tracks, copy, OUTLINE - 20) if copy is not None else None
                except (AvrinError, KeyError):
                    told[name] = None
            return named, told

        def done(result: tuple[str, dict[str, Outline | None]], _now: Snapshot) -> None:
            if result[0] == self.widget:
                self.rows.add_outlines(result[1])
            self._outline()

        self._outlining.submit(work, done)

    # -- input --------------------------------------------------------------------------------------------------------

    def _choose(self) -> None:
        folder = ask_folder(self, "Folder with recordings", Path(self.sweeps.there))
        if folder is not None:
            self._start(str(folder))

    def _go(self) -> None:
        if self.sweeps.running:
            self.sweeps.stop()
        else:
            self._start(self.where.text())

    def _start(self, where: str) -> None:
        self._places = {}
        try:
            self.sweeps.start(where)
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    def _widget_is(self, title: object) -> None:
        self.widget = self._named[str(title)]
        self._lay_out()

    def _only(self, choice: object) -> None:
        which, _, state = str(choice).partition(" ")
        told = self.rows.model_.found
        if choice == ALL or told is None:
            self.rows.show_only("", "")
        else:
            self.rows.show_only(which, next(one for one in told.states if state_label(one, told.states) == state))

    def _visit_moment(self, name: str, share: float) -> None:
        """Open a recording at the pressed point of its miniature."""
        copy = self._copy(self.widget)
        if copy is not None:
            self.editor.do(select_widget, copy.widget.id)
            self._traces.visit(self.sweeps.there, name, share=share)

    def _visit(self, name: str, state: int) -> None:
        """Open a recording at the first moment of a state."""
        told, copy = self.rows.model_.found, self._copy(self.widget)
        if told is None or copy is None:
            return
        run, first = 0, 0.0
        if state >= 0:
            at = told.recordings.index(name)
            run, first = int(told.run[at, state]), float(told.first[at, state])
        self.editor.do(select_widget, copy.widget.id)
        self._traces.visit(self.sweeps.there, name, run, first)


def _count(number: int) -> str:
    return f"{number:,}" if number else "none"


def _progress(done: int, of: int, seconds_left: float | None) -> str:
    if not of:
        return "listing recordings …"
    rest = ""
    if seconds_left is not None and done < of:
        rest = f",  {seconds_left / 60:.0f} min left" if seconds_left >= 90 else f",  {seconds_left:.0f} s left"
    return f"{done:,} of {of:,}{rest}"
