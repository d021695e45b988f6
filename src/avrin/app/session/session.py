"""What is open and looked at: project, traces, playhead, selection. Holds no widgets; everything in the window reads it.

An edit makes a new project, binds it in the same graph and evaluates what changed. Signals tell what to look at again.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QCoreApplication, QObject, Signal

from avrin.app.session.by_hand import ByHand
from avrin.app.session.checking import Checking
from avrin.app.session.extents import Extents
from avrin.app.session.files import Files
from avrin.app.session.jobs import Work
from avrin.model import (
    History,
    Plate,
    Project,
    Screen,
    Variable,
    Widget,
    replace,
)
from avrin.trace import Array, Column, Trace, Value, guess
from avrin.widgets import (
    KINDS,
    Bound,
    BoundWidget,
    RulePlace,
    Tracks,
    bind,
    declared,
    new_steps,
    rename,
    rule_at,
    short,
    with_rule,
    with_variable,
)

__all__ = ["Selection", "Session", "sources"]

log = logging.getLogger(__name__)
DESK = Screen(name="desk", size=(1920, 1080))
READ_EVERY = 0.05  # seconds between figures while playing
AT_ONCE = 3_000_000  # steps times frames that are evaluated while the window waits: some ten milliseconds
SPEEDS = (0.25, 0.5, 1.0, 2.0, 4.0)


@dataclass(frozen=True, slots=True)
class Selection:
    """What is chosen: a widget by id, or a variable by name, or, with both empty, nothing."""

    widget: str = ""
    variable: str = ""


class Session(QObject):
    """One project in one window.

    frame: the playhead, a frame of the present trace. trace: what is looked at, pins held. hand: pins and drives.
    """

    project_changed = Signal()  # rules, places, looks: tracks are new
    trace_changed = Signal()  # another recording: frames are new too
    frame_changed = Signal()  # each frame: the picture and the playhead
    values_changed = Signal()  # figures to be read: while playing, no more often than eyes can
    selection_changed = Signal()
    view_changed = Signal()  # screen or plate
    state_changed = Signal()  # title, saved or not, what can be undone
    playing_changed = Signal()
    grown = Signal()  # a drive went on: more frames of the same trace
    said = Signal(str, bool)  # a line for the user; whether it is an error

    def __init__(self) -> None:
        super().__init__()
        self.path: Path | None = None
        self.history = History(Project())
        self.bound: Bound = bind(Project())
        self.trace: Trace = _nothing()
        self.trace_name = ""
        self.latest = ""  # the recording of the project looked at last
        self.tracks = Tracks(self.bound, self.trace)
        self.frame = 0
        self.selected = Selection()
        self.screen = DESK
        self.plate: Plate | None = None
        self.playing = False
        self.speed = 1.0
        self.untouched = False  # whether nothing was done since the project was opened
        for told in (self.project_changed, self.trace_changed, self.frame_changed, self.selection_changed,
                     self.view_changed, self.playing_changed):  # fmt: skip
            told.connect(self._touched)
        self.hand = ByHand(self)
        self._work = Work(self)  # evaluating; the newest edit wins
        self.files = Files(self)
        self.extents = Extents(self)
        self.checking = Checking(self)
        self._read = 0.0  # when figures were last told
        self._moments: Array | None = None

    # -- what is there ----------------------------------------------------------------------------------------------

    @property
    def project(self) -> Project:
        """The project as it is now."""
        return self.history.project

    @property
    def folder(self) -> Path:
        """The project's folder."""
        return self.path.parent if self.path else Path.cwd()

    @property
    def widget(self) -> BoundWidget | None:
        """The selected widget, if one is."""
        return self.bound.widgets.get(self.selected.widget)

    @property
    def seconds(self) -> float:
        """The playhead on the time axis."""
        return float(self.trace.axis[self.frame]) if len(self.trace) else 0.0

    def variable(self, name: str) -> Variable | None:
        """A declared variable or roster field."""
        return self.project.all_variables().get(name)

    def value(self, name: str) -> Value:
        """A variable's or derived value's present value."""
        column = self.column(name)
        return column[self.frame] if column is not None and len(column.data) else None

    def column(self, name: str) -> Column | None:
        """A variable's or derived value's values over the trace; None where there is neither."""
        if (recorded := self.trace.find(name)) is not None:
            return recorded
        if any(d.name == name for d in self.project.derived) and RulePlace("derived", name) not in self.bound.errors:
            return self.tracks.column(self.bound.scope.derived(name))
        return None

    def users(self, name: str) -> list[str]:
        """Ids of the widgets that a variable feeds."""
        return [ident for ident, widget in self.bound.widgets.items() if name in sources(widget)]

    def undeclared(self, name: str) -> Variable | None:
        """A declaration guessed for a column of the trace that nobody declared; a roster's field has its short name."""
        if name not in self.trace.columns or self.variable(name) is not None:
            return None
        return guess(self.trace, name)

    def _touched(self) -> None:
        self.untouched = False

    # -- edits ------------------------------------------------------------------------------------------------------

    def edit(self, project: Project, label: str, merge: str = "") -> None:
        """Make an edit, one undo step. merge: edits with the same key in a row are one."""
        if project != self.project:
            self.history.push(project, label, merge)
            self._rebound()

    def set_rule(self, place: RulePlace, text: str) -> None:
        """Change the rule at a place; typing on is one step."""
        self.edit(with_rule(self.project, place, text), f"edit of {short(place)}", f"rule {place}")

    def rule_text(self, place: RulePlace) -> str:
        """The rule that stands at a place, "" where none does."""
        return rule_at(self.project, place)

    def set_widget(self, widget: Widget, label: str, merge: str = "") -> None:
        """Replace a widget, or add it."""
        self.edit(self.project.with_widget(widget), label, merge)

    def remove(self, ident: str) -> None:
        """Take a widget off the screen."""
        kept = tuple(w for w in self.project.widgets if w.id != ident)
        title = self.project.widget(ident).title
        self.edit(replace(self.project, widgets=kept), f"removal of {title}")
        if self.selected.widget == ident:
            self.select(Selection())

    def declared(self, name: str) -> Project:
        """The project, knowing a column of the trace; with a roster's field, the whole roster as it was recorded."""
        return declared(self.project, self.trace, name)

    def rename(self, name: str, new: str) -> None:
        """Call a variable otherwise, in every rule that names it. Raises AvrinError when it cannot be called that."""
        if new == name.rsplit("].", 1)[-1]:
            return
        project = rename(self.project, name, new)
        full = f"{name.rsplit('].', 1)[0]}].{new}" if "]." in name else new
        chosen = self.selected.variable == name
        self.edit(project, f"rename of {name}")
        if chosen:
            self.select_variable(full)

    def set_variable(self, name: str, **changes: object) -> None:
        """Declare something else of a variable; of one only recorded, declare it first. Raises AvrinError."""
        known = self.declared(name)
        if name in known.all_variables():
            what = ", ".join(changes) or "declaration"
            self.edit(with_variable(known, name, **changes), f"{what} of {name}")

    def undo(self) -> None:
        """Take back the latest step."""
        label = self.history.undo_label
        if self.history.undo():
            self._rebound()
            self.said.emit(f"Took back: {label}", False)

    def redo(self) -> None:
        """Do again what was taken back."""
        label = self.history.redo_label
        if self.history.redo():
            self._rebound()
            self.said.emit(f"Did again: {label}", False)

    def seal(self) -> None:
        """End the present step: typing elsewhere begins a new one."""
        self.history.seal()

    # -- looking ----------------------------------------------------------------------------------------------------

    def select(self, chosen: Selection) -> None:
        """Choose a widget, a variable or nothing. An edit that was going on ends."""
        if chosen != self.selected:
            self.seal()
            self.selected = chosen
            self.selection_changed.emit()

    def select_widget(self, ident: str) -> None:
        """Choose a widget by its id, "" for nothing."""
        self.select(Selection(widget=ident))

    def select_variable(self, name: str) -> None:
        """Choose a variable by its name."""
        self.select(Selection(variable=name))

    def select_merged(self, ident: str) -> None:
        """Select what an edit just made, without ending that edit's undo step."""
        self.selected = Selection(widget=ident)
        self.selection_changed.emit()

    def go_to(self, frame: int) -> None:
        """Move the playhead; kept within the trace."""
        frame = min(max(0, frame), max(0, len(self.trace) - 1))
        if frame == self.frame:
            return
        self.frame = frame
        self.frame_changed.emit()
        now = time.monotonic()
        if not self.playing or now - self._read >= READ_EVERY:
            self._read = now
            self.values_changed.emit()

    def go_to_seconds(self, seconds: float) -> None:
        """Move the playhead to a time of the axis."""
        self.go_to(self.trace.frame_at(seconds))

    def moments(self) -> Array:
        """Frames at which something visible changes: of the selected widget, or of all when none is."""
        if self._moments is None:
            chosen = self.widget
            self._moments = self.tracks.moments([chosen] if chosen is not None else None)
        return self._moments

    def next_moment(self) -> None:
        """Go on to the next moment."""
        after = self.moments()
        at = int(np.searchsorted(after, self.frame, "right"))
        if at < len(after):
            self.go_to(int(after[at]))

    def previous_moment(self) -> None:
        """Go back to the moment before."""
        before = self.moments()
        at = int(np.searchsorted(before, self.frame, "left")) - 1
        if at >= 0:
            self.go_to(int(before[at]))

    def set_playing(self, playing: bool) -> None:
        """Start or stop the clock; starting at the end begins anew."""
        if playing and self.frame >= len(self.trace) - 1 and self.hand.live is None:
            self.go_to(0)
        if playing != self.playing:
            self.playing = playing
            self.playing_changed.emit()
            self.values_changed.emit()

    def change_speed(self, steps: int) -> None:
        """Go to a faster (slower) speed."""
        at = min(range(len(SPEEDS)), key=lambda i: abs(SPEEDS[i] - self.speed))
        self.speed = SPEEDS[min(max(0, at + steps), len(SPEEDS) - 1)]
        self.playing_changed.emit()

    def show_on(self, screen: Screen) -> None:
        """Preview at another size."""
        self.screen = screen
        self.view_changed.emit()

    def show_over(self, plate: Plate | None) -> None:
        """Put another picture behind the HUD."""
        self.plate = plate
        self.view_changed.emit()

    # -- inside -----------------------------------------------------------------------------------------------------

    def _rebound(self) -> None:
        """The project is another one: bind it, and evaluate what is new, in the background where that takes long."""
        bound = bind(self.project, self.bound, self.trace.event_kinds, self.folder)
        trace, earlier = self.trace, self.tracks
        self._work.forget()
        if new_steps(bound, earlier) * len(trace) <= AT_ONCE:
            self._bound_to(bound, Tracks(bound, trace, earlier))
        else:
            self._work.ask(lambda: Tracks(bound, trace, earlier), lambda tracks: self._bound_to(bound, tracks))
        self.state_changed.emit()
        self.files.edited()

    def _bound_to(self, bound: Bound, tracks: Tracks) -> None:
        self.bound, self.tracks = bound, tracks
        self._moments = None
        if self.plate is not None and self.plate not in self.project.plates:
            self.plate = self.project.plates[0] if self.project.plates else None
            self.view_changed.emit()
        self.project_changed.emit()

    def settle(self) -> None:
        """Wait for work in the background, for who must not look before it is done."""
        for work in (self.files.work, self._work):
            work.wait()
            QCoreApplication.sendPostedEvents(work)

    def begin(self, path: Path, project: Project, unsaved: Project | None) -> None:
        """Another project is open. unsaved: edits of it that had not been saved."""
        self.path = path
        self.history = History(project)
        if unsaved is not None:
            self.history.push(unsaved, "edits that had not been saved")
        fed = [w for w in self.project.widgets if w.kind in KINDS and any(i.needed for i in KINDS[w.kind].inputs)]
        first = next(iter([*fed, *self.project.widgets]), None)
        self.selected = Selection(widget=first.id) if first is not None else Selection()
        self.screen = project.screens[0] if project.screens else DESK
        self.plate = project.plates[0] if project.plates else None
        self._work.forget()
        self.checking.forget()
        self.bound = bind(self.project, folder=self.folder)  # in a graph of its own

    def show(self, trace: Trace | None, name: str, frame: int = 0) -> None:
        """Look at another recording, or at none. name: its path in the project. frame: where the playhead goes."""
        trace = trace or _nothing()
        self._work.forget()
        self.trace, self.trace_name = self.hand.new_trace(trace), name
        self.latest = name
        if self.bound.scope.events != trace.event_kinds:
            self.bound = bind(self.project, self.bound, trace.event_kinds, self.folder)
        self.tracks = Tracks(self.bound, self.trace)
        self._moments = None
        self.frame = min(frame, max(0, len(trace) - 1))
        self.trace_changed.emit()

    def show_moved(self, trace: Trace, moved: frozenset[str]) -> None:
        """The same recording, in which some variables are held at other values."""
        self.trace = trace
        self._bound_to(self.bound, Tracks(self.bound, trace, self.tracks, moved=moved))

    def show_grown(self, trace: Trace, *, first: bool = False) -> None:
        """A drive went on; the playhead stays at its end."""
        self.trace = trace
        if first:
            self.trace_name = ""
            self.tracks = Tracks(self.bound, trace)
            self._moments = None
            self.trace_changed.emit()
        else:
            self.tracks.take(trace)
            self.grown.emit()
        self.frame = -1  # the end is another frame now, even where its number is the same
        self.go_to(len(trace) - 1)

    def show_driven(self, trace: Trace) -> None:
        """A drive is over: look at all of it."""
        frame = self.frame
        self.trace, self.trace_name = trace, ""
        self.tracks = Tracks(self.bound, trace)
        self._moments = None
        self.frame = min(frame, len(trace) - 1)
        self.trace_changed.emit()
        self.values_changed.emit()

    def named(self, name: str) -> None:
        """The trace that is looked at lies in a file of the project now."""
        self.trace_name = name
        self.view_changed.emit()

    def connect_selection(self, listener: Callable[[], None]) -> None:
        """Call `listener` when the selection changes."""
        self.selection_changed.connect(self._forget_moments)
        self.selection_changed.connect(listener)

    def _forget_moments(self) -> None:
        self._moments = None


def sources(widget: BoundWidget) -> list[str]:
    """Variables that feed a widget, the main input's first."""
    names: dict[str, None] = {}
    for step in widget.steps():
        names.update(dict.fromkeys(step.sources()))
    ordered = [name for step in widget.inputs.values() for name in step.sources()]
    return list(dict.fromkeys([*ordered, *names]))


def _nothing() -> Trace:
    return Trace.make("", np.zeros(1), {})
