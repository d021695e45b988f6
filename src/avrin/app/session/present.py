"""The present state of a session: the one thing that replaces its snapshot, and tells what to look at again.

An edit makes a new project, binds it in the same graph and evaluates what changed. Knows nothing of files or jobs: what takes
long is asked of whoever connected (`slow`).
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from avrin import widgets
from avrin.app.session.snapshot import Reading, Selection, Snapshot, View, nothing_recorded
from avrin.arrange import only_moved
from avrin.model import USUAL_SCREEN, History, Plate, Project, Recording, Screen, ScreenPart, Variable, Widget
from avrin.screens import Spoken
from avrin.texts import OWN
from avrin.trace import Array, Column, Trace, Value, guess, pinned
from avrin.widgets import KINDS, Bound, BoundWidget, RulePlace, Tracks, bind, new_steps, rule_at, short, with_rule

__all__ = ["Present", "sources"]

READ_EVERY = 0.05  # seconds between figures while playing
AT_ONCE = 3_000_000  # steps times frames that are evaluated while the window waits: some ten milliseconds
SPEEDS = (0.25, 0.5, 1.0, 2.0, 4.0)


class Present(QObject):
    """One project in one window. now: the snapshot. playing, speed: of the clock that moves the playhead."""

    changed = Signal(object)  # the parts of the snapshot that are others now, before anything below is told
    project_changed = Signal()  # rules, places, looks: tracks are new
    trace_changed = Signal()  # another recording: frames are new too
    recordings_changed = Signal()  # more recordings of the project have been read
    frame_changed = Signal()  # each frame: the picture and the playhead
    values_changed = Signal()  # figures to be read: while playing, no more often than eyes can
    selection_changed = Signal()
    view_changed = Signal()  # screen or plate
    state_changed = Signal()  # title, saved or not, what can be undone
    playing_changed = Signal()
    edited = Signal()  # an edit was made, taken back or made again
    begun = Signal()  # another project is open
    shown = Signal()  # another recording is about to be told of: a drive is over
    closing = Signal()  # nobody looks any more
    grown = Signal()  # a drive went on: more frames of the same trace
    said = Signal(str, bool)  # a line for the user; whether it is an error

    def __init__(self) -> None:
        super().__init__()
        self.now = Snapshot.empty()
        self.history = History(self.now.project)
        self.latest = ""  # the recording of the project looked at last
        self.playing = False
        self.speed = 1.0
        self.untouched = False  # whether nothing was done since the project was opened
        self.just_moved = False  # whether the latest edit changed nothing but where widgets lie
        self._read = 0.0  # when figures were last told
        self._spoken: Spoken | None = None
        self._moments: tuple[tuple[Tracks, Trace, Selection], Array] | None = None
        for told in (self.project_changed, self.trace_changed, self.frame_changed, self.selection_changed,
                     self.view_changed, self.playing_changed):  # fmt: skip
            told.connect(self._touched)

    # -- what is there ----------------------------------------------------------------------------------------------

    @property
    def path(self) -> Path | None:
        """The project's file; None where it has none yet."""
        return self.now.path

    @property
    def project(self) -> Project:
        """The project as it is now."""
        return self.now.project

    @property
    def bound(self) -> Bound:
        """The project as it was last evaluated."""
        return self.now.bound

    @property
    def trace(self) -> Trace:
        """What is looked at, pins held."""
        return self.now.trace

    @property
    def trace_name(self) -> str:
        """Its path in the project, "" where it lies in none."""
        return self.now.trace_name

    @property
    def tracks(self) -> Tracks:
        """The bound project over it."""
        return self.now.tracks

    @property
    def frame(self) -> int:
        """The playhead, a frame of the trace."""
        return self.now.frame

    @property
    def selected(self) -> Selection:
        """What is chosen."""
        return self.now.selection

    @property
    def screen(self) -> Screen:
        """What the HUD is previewed on."""
        return self.now.view.screen

    @property
    def plate(self) -> Plate | None:
        """The picture behind it."""
        if self.now.view.follows and len(self.trace):
            return self.tracks.plate(min(self.frame, len(self.tracks.trace) - 1)) or self.now.view.plate
        return self.now.view.plate

    @property
    def folder(self) -> Path:
        """The project's folder."""
        return self.now.folder

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

    def is_derived(self, name: str) -> bool:
        """Whether a name is a derived value's."""
        return any(derived.name == name for derived in self.project.derived)

    def value(self, name: str) -> Value:
        """A variable's or derived value's present value."""
        column = self.column(name)
        return column[self.frame] if column is not None and len(column.data) else None

    def column(self, name: str) -> Column | None:
        """A variable's or derived value's values over the trace; None where there is neither."""
        if (recorded := self.trace.find(name)) is not None:
            return recorded
        if self.is_derived(name) and RulePlace("derived", name) not in self.bound.errors:
            return self.tracks.column(self.bound.scope.derived(name))
        return None

    def recorded_column(self, name: str) -> Column | None:
        """What the recording holds, whatever is pinned."""
        return self.now.recorded.columns.get(name)

    def users(self, name: str) -> list[str]:
        """Ids of the widgets that a variable or a derived value feeds."""
        if self.is_derived(name):
            return widgets.derived_users(self.project, name)
        return [ident for ident, widget in self.bound.widgets.items() if name in sources(widget)]

    def undeclared(self, name: str) -> Variable | None:
        """A declaration guessed for a column of the trace that nobody declared; a roster's field has its short name."""
        if name not in self.trace.columns or self.variable(name) is not None:
            return None
        return guess(self.trace, name)

    def _touched(self) -> None:
        self.untouched = False

    def _replace(self, *, grown: bool = False, **fields: object) -> None:
        """Make it another snapshot, and tell which parts are others."""
        self.now, parts = self.now.replaced(grown=grown, **fields)
        if parts:
            self.changed.emit(parts)

    # -- edits ------------------------------------------------------------------------------------------------------

    def edit(self, project: Project, label: str, merge: str = "") -> None:
        """Make an edit, one undo step. merge: edits with the same key in a row are one."""
        if project != self.project:
            self.history.push(project, label, merge)
            self._follow()

    def set_rule(self, place: RulePlace, text: str) -> None:
        """Change the rule at a place; typing on is one step. What it names that is only recorded is declared."""
        project = with_rule(self.project, place, text)
        known = project.all_variables()
        for name in self.trace.columns:
            if name not in known and name in text and widgets.names_it(name, text):
                project = widgets.declared(project, self.trace, name)
        self.edit(project, f"edit of {short(place)}", f"rule {place}")

    def rule_text(self, place: RulePlace) -> str:
        """The rule that stands at a place, "" where none does."""
        return rule_at(self.project, place)

    def set_widget(self, widget: Widget, label: str, merge: str = "") -> None:
        """Replace a widget, or add it."""
        self.edit(self.project.with_widget(widget), label, merge)

    def declared(self, name: str) -> Project:
        """The project, knowing a column of the trace; with a roster's field, the whole roster as it was recorded."""
        return widgets.declared(self.project, self.trace, name)

    def rename(self, name: str, new: str) -> None:
        """Call a variable otherwise, in every rule that names it. Raises AvrinError when it cannot be called that."""
        if new == name.rsplit("].", 1)[-1]:
            return
        project = widgets.rename(self.project, name, new, self.has)
        full = f"{name.rsplit('].', 1)[0]}].{new}" if "]." in name else new
        chosen = self.selected.variable == name
        self.edit(project, f"rename of {name}")
        if chosen:
            self.select_variable(full)

    def has(self, listed: Recording, name: str) -> bool:
        """Whether a recording has something of a name of the project's; of one that was not read, it may have."""
        reading = self.now.recordings.get(self.now.identity(listed))
        trace = self.now.recorded if listed.key == self.trace_name else reading.trace if reading is not None else None
        return trace is None or name in trace.columns

    def set_variable(self, name: str, **changes: object) -> None:
        """Declare something else of a variable; of one only recorded, declare it first. Raises AvrinError."""
        known = self.declared(name)
        if name in known.all_variables():
            what = ", ".join(changes) or "declaration"
            self.edit(widgets.with_variable(known, name, **changes), f"{what} of {name}")

    def undo(self) -> None:
        """Take back the latest step."""
        label, before = self.history.undo_label, self.project
        if self.history.undo():
            self._follow()
            self._select_what_was(before)
            self.said.emit(f"Took back: {label}", False)

    def redo(self) -> None:
        """Do again what was taken back."""
        label, before = self.history.redo_label, self.project
        if self.history.redo():
            self._follow()
            self._select_what_was(before)
            self.said.emit(f"Did again: {label}", False)

    def go_to_step(self, number: int) -> None:
        """Go back, or forward again, to a step of the history."""
        before = self.project
        self.history.go(number)
        self._follow()
        self._select_what_was(before)
        self.said.emit(f"As it was after: {self.history.undo_label or 'it was opened'}", False)

    def _select_what_was(self, before: Project) -> None:
        """What was chosen may be called otherwise now: it stays chosen by its place in the project."""
        now, chosen = self.project, self.selected
        known = {widget.id for widget in now.widgets}
        if chosen.widget and chosen.widget not in known and len(now.widgets) == len(before.widgets):
            at = {widget.id: number for number, widget in enumerate(before.widgets)}
            self.select_widgets(*(now.widgets[at[one]].id for one in chosen.widgets if one in at))
        for had, has in ((before.variables, now.variables), (before.derived, now.derived)):
            names = [one.name for one in had]
            if chosen.variable in names and len(had) == len(has):
                self.select_variable(has[names.index(chosen.variable)].name)

    def revert(self) -> None:
        """Back to what is saved; it can be undone as any edit."""
        self.seal()
        self.edit(self.history.saved, "going back to what is saved")

    def seal(self) -> None:
        """End the present step: typing elsewhere begins a new one."""
        self.history.seal()

    def _follow(self) -> None:
        """The project is another one: bind it and evaluate what is new."""
        self.just_moved = only_moved(self.project, self.history.project)
        self._replace(project=self.history.project)
        self._evaluate()
        self.state_changed.emit()
        self.edited.emit()

    def _evaluate(self) -> None:
        """Bind what is there now, and evaluate what is new; in the background where that takes long."""
        bound = self._bound_for(self.trace)
        if new_steps(bound, self.tracks) * len(self.trace) <= AT_ONCE:
            self.evaluated(bound, Tracks(bound, self.trace, self.tracks))
        else:
            self.evaluate_later(bound)

    def evaluate_later(self, bound: Bound) -> None:
        """Evaluate what takes long. A session does it in the background; here it is done at once."""
        self.evaluated(bound, Tracks(bound, self.trace, self.tracks))

    def evaluated(self, bound: Bound, tracks: Tracks) -> None:
        """The project was evaluated over what is looked at, or over its beginning: show that."""
        self._replace(bound=bound, tracks=tracks if tracks.trace is self.trace else tracks.grown(self.trace))
        self._view_follows()
        self.project_changed.emit()

    def _view_follows(self) -> None:
        """What is looked at is in the project as it is now: the one of that name, or else the first."""
        plates, screens = self.project.plates, self.project.whole_screens
        shown = self.now.view.plate
        if shown is not None and shown not in plates:
            other = next((one for one in plates if one.name == shown.name), plates[0] if plates else None)
            self._replace(view=replace(self.now.view, plate=other))
            self.view_changed.emit()
        if self.screen not in screens and (screens or self.screen != USUAL_SCREEN):
            self.show_on(next(iter(sorted(screens, key=self._unlike)), USUAL_SCREEN))

    def _unlike(self, screen: Screen) -> tuple[bool, ...]:
        """By how much a screen is another one than what is looked at: another name, another split screen, another player."""
        (of, slot), (other, whose) = _whose(self.screen), _whose(screen)
        return screen.name != self.screen.name, other != of, whose != slot

    def _bound_for(self, trace: Trace) -> Bound:
        """The project as it is now, checked over the events of a recording; the one there is where that is still true."""
        events, known = trace.event_kinds, self.bound
        slot = self.screen.slot if isinstance(self.screen, ScreenPart) else known.slot
        same = known.project is self.project and known.folder == self.folder and known.slot == slot
        return known if same and known.seen == events else bind(self.project, known, events, self.folder, slot=slot)

    # -- looking ----------------------------------------------------------------------------------------------------

    def select(self, chosen: Selection) -> None:
        """Choose a widget, a variable or nothing. An edit that was going on ends."""
        if chosen != self.selected:
            self.seal()
            self._replace(selection=chosen)
            self.selection_changed.emit()

    def select_widget(self, ident: str) -> None:
        """Choose a widget by its id, "" for nothing."""
        self.select(Selection(widget=ident))

    def select_variable(self, name: str) -> None:
        """Choose a variable by its name."""
        self.select(Selection(variable=name))

    def select_widgets(self, *idents: str) -> None:
        """Choose several widgets by their ids; the card's is the first."""
        self.select(_several(idents))

    def select_merged(self, *idents: str) -> None:
        """Select what an edit just made, without ending that edit's undo step."""
        self._replace(selection=_several(idents))
        self.selection_changed.emit()

    def go_to(self, frame: int) -> None:
        """Move the playhead; kept within the trace."""
        frame = min(max(0, frame), max(0, len(self.trace) - 1))
        if frame == self.frame:
            return
        before = self.plate if self.now.view.follows else None
        self._replace(frame=frame)
        if self.now.view.follows and self.plate is not before:
            self.view_changed.emit()
        self.frame_changed.emit()
        now = time.monotonic()
        if not self.playing or now - self._read >= READ_EVERY:
            self._read = now
            self.values_changed.emit()

    def go_to_seconds(self, seconds: float) -> None:
        """Move the playhead to a time of the axis."""
        self.go_to(self.trace.frame_at(seconds))

    def moments(self) -> Array:
        """Frames at which something visible changes: of the selected widget, or of all when none is.

        Returns: frame numbers, rising, shape (moments,).
        """
        key = (self.tracks, self.trace, self.selected)
        if self._moments is None or any(a is not b for a, b in zip(self._moments[0], key, strict=True)):
            chosen = self.widget
            self._moments = (key, self.tracks.moments([chosen] if chosen is not None else None))
        return self._moments[1]

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
        if playing and self.frame >= len(self.trace) - 1 and not self.now.growing:
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
        """Preview on another screen, or on one part of a split one, as its player sees it."""
        self._replace(view=replace(self.now.view, screen=screen))
        if isinstance(screen, ScreenPart) and screen.slot != self.bound.slot:
            self._evaluate()
        self.view_changed.emit()

    def show_over(self, plate: Plate | None) -> None:
        """Put another picture behind the HUD."""
        self._replace(view=replace(self.now.view, plate=plate, follows=False))
        self.view_changed.emit()

    def show_in(self, language: str) -> None:
        """Preview in a language, by its code."""
        self._replace(view=replace(self.now.view, language=language))
        self.view_changed.emit()

    @property
    def spoken_tracks(self) -> Tracks:
        """The recording's tracks in the language that is looked at; in the project's own where that cannot be.

        Where things lie stays as in the project, so that hands hold what they see.
        """
        if self.now.view.language == OWN:
            return self.tracks
        if self._spoken is None or not self._spoken.holds(self.tracks):
            self._spoken = Spoken(self.tracks, mirror=False)
        return self._spoken.tracks_or_own(self.now.view.language)

    def show_over_recorded(self) -> None:
        """Put that behind the HUD which the recording says."""
        self._replace(view=replace(self.now.view, follows=True))
        self.view_changed.emit()

    def connect_selection(self, listener: Callable[[], None]) -> None:
        """Call `listener` when the selection changes."""
        self.selection_changed.connect(listener)

    # -- another project, another recording --------------------------------------------------------------------------

    def begin(
        self,
        path: Path | None,
        project: Project,
        unsaved: Project | None,
        trace: Trace | None = None,
        name: str = "",
        elsewhere: Mapping[str, Path] | None = None,
        label: str = "edits that had not been saved",
    ) -> None:
        """Another project is open, over a recording or nothing yet. unsaved: edits of it that had not been saved.

        name: the recording's path in the project. elsewhere: of recordings that are not in its folder.
        label: of the step that undo takes the unsaved edits back by.
        """
        self.history = History(project)
        if unsaved is not None:
            self.history.push(unsaved, label)
        project = self.history.project
        fed = [w for w in project.widgets if w.kind in KINDS and any(i.needed for i in KINDS[w.kind].inputs)]
        first = next(iter([*fed, *project.widgets]), None)
        view = View(
            project.whole_screens[0] if project.screens else USUAL_SCREEN, project.plates[0] if project.plates else None,
            follows=any(plate.when for plate in project.plates),
        )  # fmt: skip
        trace, self.latest = trace or nothing_recorded(), name
        folder = path.parent if path is not None else Path.cwd()
        slot = view.screen.slot if isinstance(view.screen, ScreenPart) else None
        bound = bind(project, seen=trace.event_kinds, folder=folder, slot=slot)  # in a graph of its own
        self._replace(
            path=path, elsewhere=elsewhere or {},
            project=project, bound=bound, recordings={}, recorded=trace, trace=trace, trace_name=name,
            growing=False, pins={}, tracks=Tracks(bound, trace), view=view, frame=0,
            selection=Selection(widget=first.id) if first is not None else Selection(),
        )  # fmt: skip
        self.begun.emit()
        self.shown.emit()
        self.trace_changed.emit()

    def show(self, trace: Trace | None, name: str, frame: int = 0) -> None:
        """Look at another recording, or at none. name: its path in the project. frame: where the playhead goes."""
        self.latest = name
        self._show(trace or nothing_recorded(), name, frame)
        self.shown.emit()
        self.trace_changed.emit()

    def show_driven(self, trace: Trace) -> None:
        """A drive is over: look at all of it."""
        self._show(trace, "", self.frame)
        self.trace_changed.emit()
        self.values_changed.emit()

    def _show(self, recorded: Trace, name: str, frame: int, *, growing: bool = False) -> None:
        trace, bound = self._held(recorded, self.now.pins), self._bound_for(recorded)
        self._replace(
            recorded=recorded, trace=trace, trace_name=name, growing=growing, bound=bound, tracks=Tracks(bound, trace),
            frame=min(frame, max(0, len(trace) - 1)),
        )  # fmt: skip

    def begin_growing(self, trace: Trace) -> None:
        """Look at a trace that will grow; nothing is held in it. The playhead stays at its end."""
        self._replace(pins={})
        self._show(trace, "", len(trace) - 1, growing=True)
        self.trace_changed.emit()
        self._tell_end()

    def show_grown(self, trace: Trace) -> None:
        """The same trace with more frames; the playhead stays at its end."""
        self._replace(grown=True, recorded=trace, trace=trace, tracks=self.tracks.grown(trace), frame=len(trace) - 1)
        self.grown.emit()
        self._tell_end()

    def _tell_end(self) -> None:
        self.frame_changed.emit()
        now = time.monotonic()
        if not self.playing or now - self._read >= READ_EVERY:
            self._read = now
            self.values_changed.emit()

    def hold(self, pins: Mapping[str, Value], moved: frozenset[str]) -> None:
        """Hold variables at these values and let all others go. moved: those whose values are others by that."""
        trace, bound = self._held(self.now.recorded, pins), self._bound_for(self.now.recorded)
        self._replace(pins=dict(pins), trace=trace, bound=bound, tracks=Tracks(bound, trace, self.tracks, moved=moved))
        self.project_changed.emit()

    def _held(self, trace: Trace, pins: Mapping[str, Value]) -> Trace:
        return pinned(trace, pins, self.now.kinds) if pins else trace

    def named(self, name: str) -> None:
        """The trace that is looked at lies in a file of the project now."""
        self._replace(trace_name=name)
        self.view_changed.emit()

    def lies_elsewhere(self, name: str, file: Path) -> None:
        """A recording of the project, by its path there, lies in a file outside the project's folder."""
        self._replace(elsewhere={**self.now.elsewhere, name: file})

    def read_in(self, recordings: Mapping[Path, Reading]) -> None:
        """These recordings of the project have been read."""
        if any(self.now.recordings.get(path) is not reading for path, reading in recordings.items()):
            self._replace(recordings={**self.now.recordings, **recordings})
            self.recordings_changed.emit()

    def saved_as(self, path: Path) -> None:
        """The project lies in this file now, as it is."""
        moved = path.parent != self.folder
        # Saved where it was it is no other file: what was started with it goes on.
        now = self.now
        self._replace(path=now.path if path == now.path else path, elsewhere={} if now.elsewhere else now.elsewhere)
        if moved:  # where assets lie
            bound = self._bound_for(self.now.recorded)
            self.evaluated(bound, Tracks(bound, self.trace, self.tracks))
        self.history.mark_saved()
        self.state_changed.emit()


def _several(idents: Sequence[str]) -> Selection:
    return Selection(widget=idents[0], more=tuple(idents[1:])) if idents else Selection()


def sources(widget: BoundWidget) -> list[str]:
    """Variables that feed a widget, the main input's first."""
    names: dict[str, None] = {}
    for step in widget.steps():
        names.update(dict.fromkeys(step.sources()))
    ordered = [name for step in widget.inputs.values() for name in step.sources()]
    return list(dict.fromkeys([*ordered, *names]))


def _whose(screen: Screen) -> tuple[str, int]:
    """The screen that it is, or is a part of, and whose part."""
    return (screen.of, screen.slot) if isinstance(screen, ScreenPart) else (screen.name, 0)
