"""The Ladder desk: its views, its recordings, and its commands."""

from __future__ import annotations

import functools
from collections.abc import Generator
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QTimer
from PySide6.QtGui import QPalette
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link as Word
from avrin.app.controls.menu import new_menu
from avrin.app.controls.save_link import SaveLink
from avrin.app.controls.scroller import ThinLine, scrolled
from avrin.app.controls.theme import EDGE
from avrin.app.ladder_desk.coverage_view import CoverageView
from avrin.app.ladder_desk.ladder_rows import LadderRows
from avrin.app.ladder_desk.warning import WarningFace
from avrin.app.painting.export import painted
from avrin.app.services.comparison import Compared
from avrin.app.services.jobs import Jobs, TimeSlices
from avrin.app.services.workspace import Workspace
from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks
from avrin.editor.by_hand import pin
from avrin.editor.changes import Change
from avrin.editor.edits import set_rule
from avrin.editor.layout import show_slot
from avrin.editor.playback import go_to_seconds
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.ladder.comparison import otherwise
from avrin.ladder.coverage import coverage
from avrin.ladder.coverage_sheet import coverage_sheet, coverage_table
from avrin.ladder.drivers import drivers
from avrin.ladder.files import page, states_page, table
from avrin.ladder.rows import Cells, Row, never_shown, sweep_row
from avrin.ladder.samples import Sample
from avrin.ladder.sheet import Link, whole_sheet
from avrin.render.pictures import save_picture
from avrin.render.values import clock, format_value
from avrin.storage.files import write
from avrin.trace.frames import Trace, Value

if TYPE_CHECKING:
    from avrin.app.ladder_desk.sweep_view import SweepView

__all__ = ["LadderDesk"]

REST_MS = 250  # milliseconds of rest after a move of the playhead or an edit
TURN = 12  # milliseconds of work between two event loop turns
PAGE_WIDTH_PX = 1280
NOTHING = "Nothing is driven by a variable yet. Drag one onto the picture on the Bind desk (Ctrl+1)."
EVERYWHERE, HERE = "in all recordings", "in this recording"
FACES = ("every threshold", "states by recording", "warning", "many recordings")
MANY_HELP = "State coverage of any number of play-tests"
WARNS = "Where should a warning begin?"
STATES = "Every state of every widget, and which recordings showed it"
TITLE = "Every widget, just below, at and just above every threshold"
SAVE_KINDS = {"A picture …": ".png", "A table …": ".csv", "A drawing …": ".svg", "A page …": ".html"}


class LadderDesk(QWidget):
    """A press on a cell goes to its first recorded moment, or pins its value if there is none."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self._workspace = workspace
        self.editor = editor = workspace.editor
        self._checking, self._comparison, self._traces = workspace.checking, workspace.comparison, workspace.traces
        self.everywhere = True  # all recordings of the project, not only the visible one
        self.only_never = False
        self.rows = LadderRows(editor)
        self.rows.cell_pressed.connect(self._cell)
        self.rows.link_pressed.connect(self._link)
        self.rows.edge_dragged.connect(self._edge)
        self._drivers: dict[str, str] = {}
        self._crossed: dict[str, str] = {}
        self._arriving: set[str] = set()
        self._found: list[Row] = []
        self._bound = editor.now.bound  # of the rows
        self._compared: Compared | None = None
        self._climbing = TimeSlices(
            self, editor, "tracks", "playhead", "recordings", turn=TURN, failed=self._show_failure
        )
        self._covering = Jobs(self, editor, "tracks", "recordings", failed=self._show_no_states)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self.begin)
        self._build()
        editor.follow("ladder desk", self)
        self.setFocusProxy(self.rows)
        self.begin()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        top = QWidget()
        lines = QVBoxLayout(top)
        lines.setContentsMargins(EDGE, 12, EDGE - 7, 8)
        lines.setSpacing(2)
        first = QHBoxLayout()
        self.title = text_label("", "ink", "title", bold=True)
        self.face_links = {name: Word(name, partial(self.show_face, at)) for at, name in enumerate(FACES)}
        self.where_link = Word("", self._where_menu, menu=True, bold=True)
        self.never_link = Word("", self._never, bold=True)
        self.save_link = SaveLink(
            "Save the ladder",
            lambda end: self.editor.now.folder / f"ladder{end}",
            self._save_kinds,
            self.save,
            self.editor.show_error,
        )
        first.addWidget(self.title)
        first.addStretch(1)
        for part in (*self.face_links.values(), self.where_link, self.never_link, self.save_link):
            first.addWidget(part)
        self.held = text_label(size="small")
        lines.addLayout(first)
        lines.addWidget(self.held)
        whole.addWidget(top)
        whole.addWidget(ThinLine())
        self.states = CoverageView()
        self.faces = QStackedWidget()
        self.faces.addWidget(scrolled(self.rows))
        self.faces.addWidget(scrolled(self.states))
        self.warning = WarningFace(self.editor, self._checking, self._traces, self._searched)
        self.faces.addWidget(self.warning)
        whole.addWidget(self.faces, 1)
        self._bottom = bottom = QWidget()
        bottom.setAutoFillBackground(True)
        bottom.setBackgroundRole(QPalette.ColorRole.Base)
        row = QHBoxLayout(bottom)
        row.setContentsMargins(EDGE, 8, EDGE - 7, 8)
        self.never = text_label("", "ink", "large", bold=True)
        self.make_link = Word("generate a trace that reaches them", self._make, bold=True)
        self.reach = text_label(size="small")
        told = QVBoxLayout()
        told.setSpacing(1)
        told.addWidget(self.never)
        told.addWidget(self.reach)
        row.addLayout(told)
        row.addStretch(1)
        row.addWidget(self.make_link)
        whole.addWidget(ThinLine())
        whole.addWidget(bottom)

    @functools.cached_property
    def many(self) -> SweepView:
        """The view of many recordings, created on first use: it imports libraries no other view needs."""
        from avrin.app.ladder_desk.sweep_view import SweepView  # late: 136 ms

        made = SweepView(self.editor, self._workspace.sweeps, self._traces)
        self.faces.addWidget(made)
        return made

    @property
    def _shows_many(self) -> bool:
        return self.faces.currentIndex() == FACES.index("many recordings")

    # -- computation ------------------------------------------------------------------------------------------------

    def on_change(self, change: Change) -> None:
        """Climb again for what changed."""
        if change.of("opened"):
            self.begin_anew()
        if change.of("recording", "tracks", "recordings", "figures"):
            self._outdated()
        elif change.of("comparison"):
            self._another()

    def _outdated(self) -> None:
        if not self.editor.now.playing and self.isVisible():
            self._rest.start()

    def showEvent(self, _event: object) -> None:
        self._rest.start(0)

    def begin_anew(self) -> None:
        """Reset to the initial state: all recordings, each widget against its main driver."""
        self.everywhere, self.only_never = True, False
        self._drivers.clear()
        self._crossed.clear()
        self._arriving.clear()
        self.faces.setCurrentIndex(0)
        self.warning.begin_anew()
        self._words()

    def begin(self) -> None:
        """Compute all rows in time slices."""
        self._work()
        self._climbing.submit(self._rows, self._show)
        self._words()

    def _rows(self, now: Snapshot) -> Generator[None, None, list[Row]]:
        tracks, frame, bound = now.tracks, now.frame, now.tracks.bound
        seen = self._checking.traces() if self.everywhere else [now.trace]
        found: list[Row] = []
        for ident, first in _ordered(bound):
            copies = first.each()
            widget = copies[self.editor.now.slots.get(ident, 0) % len(copies)]
            names = drivers(bound, widget)
            if not names:
                continue
            driver = self._drivers.get(ident, names[0])
            if driver not in names:
                driver = names[0]
            crossed: list[dict[str, Value]] = [{}, *self._crossing(widget, driver)]
            for held in crossed:
                arriving = ident in self._arriving and not held
                row = yield from sweep_row(tracks, widget, driver, frame, seen, held, arriving=arriving)
                found.append(row)
        yield from self._compare(found, bound, frame)
        return found

    def _compare(self, rows: list[Row], bound: Bound, frame: int) -> Generator[None, None, None]:
        """Mark cells that looked different in the earlier version."""
        compared = self._compared = self._comparison.found
        self.rows.differ = set()
        for row in rows if compared is not None else ():
            assert compared is not None
            there = min(frame, max(0, len(compared.tracks.trace) - 1))
            told = yield from otherwise(row, bound, compared.tracks, there)
            self.rows.differ |= {
                id(sample) for sample, differs in zip((row.now, *row.samples), told, strict=True) if differs
            }
            yield

    def _another(self) -> None:
        """Update after a comparison started, changed or ended."""
        if self._comparison.found is not self._compared:
            self._outdated()

    def _crossing(self, widget: BoundWidget, driver: str) -> list[dict[str, Value]]:
        """Return the ends of the range of the variable a widget's row is crossed with."""
        other = self._crossed.get(widget.widget.id, "")
        variable = self.editor.now.variable(other)
        if variable is None or other == driver:
            return []
        return [{other: float(end)} for end in (variable.low, variable.high) if end is not None]

    def wait(self) -> None:
        """Finish all computations, for tests and pictures."""
        self._rest.stop()
        self.begin()
        self._climbing.wait()
        self._covering.wait()
        self.warning.wait()
        if self._shows_many:
            self.many.wait()

    @property
    def busy(self) -> bool:
        """Whether the visible view is being computed."""
        many = self._shows_many and self.many.busy
        return self._rest.isActive() or self._climbing.busy or self._covering.busy or self.warning.busy or many

    def _show(self, rows: list[Row], now: Snapshot) -> None:
        self._found, self._bound = rows, now.tracks.bound
        self._choose()

    def _show_failure(self, error: AvrinError) -> None:
        self._found = []
        self.rows.show_rows([], self._bound, f"The ladder could not be computed: {error}. The next edit tries again.")
        self._words()

    def _show_no_states(self, error: AvrinError) -> None:
        self.states.show_covered({}, self.editor.now.tracks.bound)
        self.editor.say(f"The states could not be computed: {error}", error=True)

    def _choose(self) -> None:
        """Show the rows that pass the filter."""
        rows = never_shown(self._found) if self.only_never else self._found
        self.rows.show_rows(rows, self._bound, "Every state was shown." if self._found else NOTHING)
        self._words()

    def _words(self) -> None:
        editor = self.editor
        self.where_link.set_text(EVERYWHERE if self.everywhere else HERE)
        face = self.faces.currentIndex()
        states = face > 0
        many = self._shows_many
        self.title.setText((TITLE, STATES, WARNS, MANY_HELP)[face])
        for at, link in enumerate(self.face_links.values()):
            link.set_chosen(at == face)
        self.never_link.setVisible(face == 0)
        self.where_link.setVisible(not many)
        self.save_link.setVisible(not many)
        self.held.setVisible(not many)
        self._bottom.setVisible(face < 2)
        self.never_link.set_text("all states" if self.only_never else "only states never shown")
        busy = "   ·   computing …" if self._climbing.busy else ""
        over = f"over {len(self._checking.traces()) if self.everywhere else 1} of the project's recordings"
        where = f"{clock(editor.now.seconds)} of {editor.now.trace.name}" if editor.now.trace.name else "the start"
        rest = f"at {where}, given the recorded past"
        before = self._comparison.before
        dots = f"   ·   a dot: it looked different in {before.title}" if before is not None and face == 0 else ""
        self.held.setText((over if states else rest) + dots + busy)
        samples = [sample for row in self._found for sample in row.samples]
        never = sum(sample.never for sample in samples)
        where = "any recording" if self.everywhere else "this recording"
        self.never.setText(f"{never} of {len(samples)} states were never shown by {where}" if samples else "")
        beyond = sum(row.beyond(editor.now.variable(row.driver)) for row in self._found)
        self.reach.setText(
            f"A generated trace reaches {never - beyond} of them; {beyond} are missing values or outside the declared ranges"
            if never else ""
        )  # fmt: skip
        self.make_link.setVisible(never > beyond)

    def show_face(self, number: int) -> None:
        """Show the ladder, the state coverage, or the tuning of a warning."""
        self.faces.setCurrentIndex(number if number < self.faces.count() else self.faces.indexOf(self.many))
        self._work()
        self._words()

    def _work(self) -> None:
        """Compute what the visible view needs besides the ladder."""
        if self.faces.currentIndex() == 1:
            self._cover()
        elif self.faces.currentIndex() == 2:
            self.warning.begin()
        elif self._shows_many:
            self.many.begin()

    def _cover(self) -> None:
        """Compute the state coverage in the background."""
        bound = self.editor.now.tracks.bound
        tracks = self._searched_tracks()
        self._covering.submit(
            lambda _: {ident: coverage(tracks, widget) for ident, widget in _ordered(bound)},
            lambda covered, _: self.states.show_covered(covered, bound),
        )

    def _searched(self) -> list[Trace]:
        return self._checking.traces() if self.everywhere else [self.editor.now.trace]

    def _searched_tracks(self) -> list[Tracks]:
        """Return the searched recordings."""
        return self._checking.tracks() if self.everywhere else [self.editor.now.tracks]

    # -- commands ---------------------------------------------------------------------------------------------------

    def _where_menu(self) -> None:
        """Show the menu of searched recordings, with the current choice marked."""
        menu = new_menu(self)
        for text, everywhere in ((EVERYWHERE, True), (HERE, False)):
            action = menu.addAction(text[0].upper() + text[1:], partial(self._search, everywhere))
            action.setCheckable(True)
            action.setChecked(everywhere is self.everywhere)
        menu.popup(self.where_link.mapToGlobal(QPoint(0, self.where_link.height() + 2)))

    def _search(self, everywhere: bool) -> None:
        self.everywhere = everywhere
        self.begin()

    def _never(self) -> None:
        self.only_never = not self.only_never
        self._choose()

    def _cell(self, row: Row, sample: Sample) -> None:
        """Go to a cell's first recorded moment, or pin its value if there is none."""
        editor = self.editor
        editor.do(select_widget, row.widget.widget.id)
        there = sample.there
        if sample is row.now:
            return
        if there.first is None:
            self._hold(row, sample)
            return
        if not self._traces.look_at(there.trace):
            return
        editor.do(go_to_seconds, there.first)
        exactly = "" if sample.recorded.frames else f"  {row.driver} is near {format_value(sample.value)} there"
        editor.say(f"{clock(there.first)} of {editor.now.trace.name}.{exactly}  Ctrl+1 shows it")

    def _hold(self, row: Row, sample: Sample) -> None:
        """Pin a value no recording has; a derived value cannot be pinned."""
        editor = self.editor
        if editor.now.variable(row.driver) is None:
            editor.say(f"No recording shows it, and {row.driver} follows from other variables")
            return
        editor.do(pin, row.driver, sample.value)
        editor.say(f"No recording shows it: {row.driver} is pinned at {format_value(sample.value)}.  Ctrl+L lets go")

    def _link(self, row: Row, link: Link) -> None:
        ident = row.widget.widget.id
        if link.does == "drive":
            self._drivers[ident] = link.name
        elif link.does == "slot":
            self.editor.do(show_slot, ident, row.widget.slot + 1)
        elif link.does == "cross":
            self._crossed[ident] = "" if self._crossed.get(ident) == link.name else link.name
        else:
            self._arriving ^= {ident}
        self.begin()

    def _edge(self, row: Row, cells: Cells, edge: float) -> None:
        """Move a band's limit in proportion to its dragged edge, keeping its notation."""
        band = next((band for band in row.widget.widget.bands if band.name == cells.band), None)
        limit = row.widget.thresholds[cells.band][int(cells.back)] if band is not None else None
        if band is None or limit is None or limit.constant is None or not cells.edge:
            return
        level = float(limit.constant[0]) * edge / cells.edge
        share = (band.back if cells.back else band.below or band.above).strip().endswith("%")
        text = f"{round(level * 100)}%" if share else f"{level:.3g}"
        part = "back" if cells.back else "below" if band.below else "above"
        place = RulePlace("widget", row.widget.widget.id, "bands", band.name, part)
        self.editor.do(set_rule, place, text)

    def _make(self) -> None:
        try:
            self._traces.make()
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    # -- export -----------------------------------------------------------------------------------------------------

    def _save_kinds(self) -> dict[str, str]:
        return {"A picture …": ".png", "A table …": ".csv"} if self.faces.currentIndex() == 2 else SAVE_KINDS

    def save(self, path: Path) -> None:
        """Save the visible view in the format of the file's ending. Raises AvrinError."""
        if self.faces.currentIndex() == 2:
            self.warning.save(path)
            return
        rows, bound = self.rows.rows, self._bound
        states = self.faces.currentIndex() == 1
        covered = {ident: coverage(self._searched_tracks(), widget) for ident, widget in _ordered(bound)}
        match path.suffix:
            case ".csv":
                write(path, (coverage_table(covered) if states else table(rows)).encode())
            case ".html":
                text = states_page(bound, covered) if states else page(rows, bound, self.held.text(), covered)
                write(path, text.encode())
            case _ if states:
                shapes, height = coverage_sheet(covered, bound, PAGE_WIDTH_PX)
                save_picture(shapes, PAGE_WIDTH_PX, height, path, painted)
            case _:
                shapes, height = whole_sheet(rows, bound, PAGE_WIDTH_PX, TITLE, self.held.text())
                save_picture(shapes, PAGE_WIDTH_PX, height, path, painted)


def _ordered(bound: Bound) -> list[tuple[str, BoundWidget]]:
    """Return widgets, those with a level first: panels and pictures have few edges."""
    return sorted(bound.widgets.items(), key=lambda pair: pair[1].level is None)
