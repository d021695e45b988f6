"""The editor state: the only object that replaces its snapshot, and emits what changed.

An edit creates a new project, binds it in the same graph and evaluates the changed steps. Knows nothing of files or jobs:
slow work is delegated to a subclass.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from avrin.app.session.snapshot import Reading, Selection, Snapshot, View, nothing_recorded
from avrin.edits.placing import only_moved
from avrin.i18n.own_language import OWN
from avrin.model.history import History
from avrin.model.project import USUAL_SCREEN, Plate, Project, Recording, Screen, ScreenPart, Variable, Widget
from avrin.screens.spoken import Spoken
from avrin.trace.declare import guess
from avrin.trace.frames import Array, Column, Trace, Value, events_of
from avrin.trace.growing import pinned
from avrin.widgets.binding import Bound, BoundWidget, bind
from avrin.widgets.declarations import declared, rename, with_variable
from avrin.widgets.derived import derived_users
from avrin.widgets.offers import names_it
from avrin.widgets.places import RulePlace, place_title, rule_at, with_rule
from avrin.widgets.registry import KINDS
from avrin.widgets.tracks import Tracks, new_steps

__all__ = ["EditorState", "sources"]

READ_EVERY = 0.05  # seconds between updates of figures during playback
AT_ONCE = 3_000_000  # steps times frames evaluated synchronously: about ten milliseconds
SPEEDS = (0.25, 0.5, 1.0, 2.0, 4.0)


class EditorState(QObject):
    """One project in one window. now: the snapshot. playing, speed: of the playback clock."""

    changed = Signal(object)  # the changed parts of the snapshot, before any of the signals below
    project_changed = Signal()  # rules, places, looks: tracks are new
    trace_changed = Signal()  # another recording: frames are new too
    recordings_changed = Signal()  # more recordings of the project have been read
    frame_changed = Signal()  # each frame: the picture and the playhead
    values_changed = Signal()  # figures: throttled during playback
    selection_changed = Signal()
    view_changed = Signal()  # screen or plate
    state_changed = Signal()  # title, modified or not, undo and redo
    playing_changed = Signal()
    edited = Signal()  # an edit was made, undone or redone
    begun = Signal()  # another project is open
    shown = Signal()  # another recording is about to be shown: a drive ends
    closing = Signal()  # the window closes
    grown = Signal()  # a drive advanced: more frames of the same trace
    reported = Signal(str, bool)  # a message for the user; whether it is an error

    def __init__(self) -> None:
        super().__init__()
        self.now = Snapshot.empty()
        self._earlier_bound = self.now.bound  # the binding before the present one
        self.history = History(self.now.project)
        self.latest = ""  # the project's recording viewed last
        self.playing = False
        self.speed = 1.0
        self.untouched = False  # whether nothing was done since the project was opened
        self.just_moved = False  # whether the latest edit changed nothing but positions
        self._read = 0.0  # when figures were last updated
        self._spoken: Spoken | None = None
        self._moments: tuple[tuple[Tracks, Trace, Selection], Array] | None = None
        for told in (self.project_changed, self.trace_changed, self.frame_changed, self.selection_changed,
                     self.view_changed, self.playing_changed):  # fmt: skip
            told.connect(self._touched)

    # -- state ------------------------------------------------------------------------------------------------------

    @property
    def path(self) -> Path | None:
        """The project's file; None if it has none yet."""
        return self.now.path

    @property
    def project(self) -> Project:
        """The current project."""
        return self.now.project

    @property
    def bound(self) -> Bound:
        """The project as last evaluated."""
        return self.now.bound

    @property
    def trace(self) -> Trace:
        """The visible trace, with pins applied."""
        return self.now.trace

    @property
    def trace_name(self) -> str:
        """Its key in the project, "" if it is not saved."""
        return self.now.trace_name

    @property
    def tracks(self) -> Tracks:
        """The tracks of the bound project over it."""
        return self.now.tracks

    @property
    def frame(self) -> int:
        """The playhead, a frame of the trace."""
        return self.now.frame

    @property
    def selected(self) -> Selection:
        """The selection."""
        return self.now.selection

    @property
    def screen(self) -> Screen:
        """The preview screen."""
        return self.now.view.screen

    @property
    def plate(self) -> Plate | None:
        """The plate behind the HUD."""
        if self.now.view.follows and len(self.trace):
            return self.tracks.plate(min(self.frame, len(self.tracks.trace) - 1)) or self.now.view.plate
        return self.now.view.plate

    @property
    def folder(self) -> Path:
        """The project's folder."""
        return self.now.folder

    @property
    def widget(self) -> BoundWidget | None:
        """The selected widget, if any."""
        return self.bound.widgets.get(self.selected.widget)

    @property
    def seconds(self) -> float:
        """The playhead in seconds on the time axis."""
        return float(self.trace.axis[self.frame]) if len(self.trace) else 0.0

    def variable(self, name: str) -> Variable | None:
        """Return the declaration of a variable or roster field, or None."""
        return self.project.all_variables().get(name)

    def is_derived(self, name: str) -> bool:
        """Return whether a name is a derived value."""
        return any(derived.name == name for derived in self.project.derived)

    def value(self, name: str) -> Value:
        """Return the current value of a variable or derived value."""
        column = self.column(name)
        return column[self.frame] if column is not None and len(column.data) else None

    def column(self, name: str) -> Column | None:
        """Return the values of a variable or derived value over the trace, or None."""
        if (recorded := self.trace.find(name)) is not None:
            return recorded
        if self.is_derived(name) and RulePlace("derived", name) not in self.bound.errors:
            return self.tracks.column(self.bound.scope.derived(name))
        return None

    def recorded_column(self, name: str) -> Column | None:
        """Return a recorded column, ignoring pins."""
        return self.now.recorded.columns.get(name)

    def users(self, name: str) -> list[str]:
        """Return the ids of widgets that use a variable or a derived value."""
        if self.is_derived(name):
            return derived_users(self.project, name)
        return [ident for ident, widget in self.bound.widgets.items() if name in sources(widget)]

    def undeclared(self, name: str) -> Variable | None:
        """Return a guessed declaration of an undeclared column; a roster's field has its short name."""
        if name not in self.trace.columns or self.variable(name) is not None:
            return None
        return guess(self.trace, name)

    def _touched(self) -> None:
        self.untouched = False

    def _replace(self, *, grown: bool = False, **fields: object) -> None:
        """Replace the snapshot, and emit the changed parts."""
        self.now, parts = self.now.replaced(grown=grown, **fields)
        if parts:
            self.changed.emit(parts)

    # -- edits ------------------------------------------------------------------------------------------------------

    def edit(self, project: Project, label: str, merge: str = "") -> None:
        """Make an edit, one undo step. merge: consecutive edits with the same key form one step."""
        if project != self.project:
            self.history.push(project, label, merge)
            self._follow()

    def set_rule(self, place: RulePlace, text: str) -> None:
        """Set the rule at a place; continuous typing is one step. Recorded names it uses are declared."""
        project = with_rule(self.project, place, text)
        known = project.all_variables()
        for name in self.trace.columns:
            if name not in known and name in text and names_it(name, text):
                project = declared(project, self.trace, name)
        self.edit(project, f"edit {place_title(self.project, place)}", f"rule {place}")

    def rule_text(self, place: RulePlace) -> str:
        """Return the rule at a place, "" if it is empty."""
        return rule_at(self.project, place)

    def set_widget(self, widget: Widget, label: str, merge: str = "") -> None:
        """Replace a widget, or add it."""
        self.edit(self.project.with_widget(widget), label, merge)

    def declared(self, name: str) -> Project:
        """Return the project with a trace's column declared; for a roster's field, the whole roster as recorded."""
        return declared(self.project, self.trace, name)

    def rename(self, name: str, new: str) -> None:
        """Rename a variable, in every rule that names it. Raises AvrinError for an invalid name."""
        if new == name.rsplit("].", 1)[-1]:
            return
        project = rename(self.project, name, new, self.has)
        full = f"{name.rsplit('].', 1)[0]}].{new}" if "]." in name else new
        chosen = self.selected.variable == name
        self.edit(project, f"rename {name}")
        if chosen:
            self.select_variable(full)

    def has(self, listed: Recording, name: str) -> bool:
        """Return whether a recording contains a name; an unread one may."""
        reading = self.now.recordings.get(self.now.identity(listed))
        trace = self.now.recorded if listed.key == self.trace_name else reading.trace if reading is not None else None
        return trace is None or name in trace.columns

    def set_variable(self, name: str, **changes: object) -> None:
        """Change a variable's declaration, declaring it first if it was only recorded. Raises AvrinError."""
        known = self.declared(name)
        if name in known.all_variables():
            what = ", ".join(changes) or "declaration"
            self.edit(with_variable(known, name, **changes), f"{what} of {name}")

    def undo(self) -> None:
        """Undo the latest step."""
        label, before = self.history.undo_label, self.project
        if self.history.undo():
            self._follow()
            self._select_what_was(before)
            self.reported.emit(f"Undid: {label}", False)

    def redo(self) -> None:
        """Redo the latest undone step."""
        label, before = self.history.redo_label, self.project
        if self.history.redo():
            self._follow()
            self._select_what_was(before)
            self.reported.emit(f"Did again: {label}", False)

    def go_to_step(self, number: int) -> None:
        """Go to a step of the history."""
        before = self.project
        self.history.go(number)
        self._follow()
        self._select_what_was(before)
        self.reported.emit(f"Went back to: {self.history.undo_label or 'opened'}", False)

    def _select_what_was(self, before: Project) -> None:
        """Keep the selection after a rename, by position in the project."""
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
        """Revert to the saved state; can be undone."""
        self.seal()
        self.edit(self.history.saved, "revert to saved")

    def seal(self) -> None:
        """End the current undo step: further typing begins a new one."""
        self.history.seal()

    def _follow(self) -> None:
        """Bind the changed project and evaluate what is new."""
        self.just_moved = only_moved(self.project, self.history.project)
        self._replace(project=self.history.project)
        self._evaluate()
        self.state_changed.emit()
        self.edited.emit()

    def _evaluate(self) -> None:
        """Bind the current project and evaluate what is new; in the background if that is slow."""
        bound = self._bound_for(self.trace)
        if new_steps(bound, self.tracks) * len(self.trace) <= AT_ONCE:
            self.evaluated(bound, Tracks(bound, self.trace, self.tracks))
        else:
            self.evaluate_later(bound)

    def evaluate_later(self, bound: Bound) -> None:
        """Evaluate a slow change. The session does it in the background; here it is synchronous."""
        self.evaluated(bound, Tracks(bound, self.trace, self.tracks))

    def evaluated(self, bound: Bound, tracks: Tracks) -> None:
        """Show an evaluated project."""
        self._replace(bound=bound, tracks=tracks if tracks.trace is self.trace else tracks.grown(self.trace))
        self._view_follows()
        self.project_changed.emit()

    def _view_follows(self) -> None:
        """Keep the visible screen, plate and language valid: the one of the same name, or else the first."""
        plates, screens = self.project.plates, self.project.whole_screens
        shown = self.now.view.plate
        if shown is not None and shown not in plates:
            other = next((one for one in plates if one.name == shown.name), plates[0] if plates else None)
            self._replace(view=replace(self.now.view, plate=other))
            self.view_changed.emit()
        if self.screen not in screens and (screens or self.screen != USUAL_SCREEN):
            self.show_on(next(iter(sorted(screens, key=self._unlike)), USUAL_SCREEN))

    def _unlike(self, screen: Screen) -> tuple[bool, ...]:
        """Return how a screen differs from the visible one: name, split screen, player."""
        (of, slot), (other, whose) = _whose(self.screen), _whose(screen)
        return screen.name != self.screen.name, other != of, whose != slot

    def _bound_for(self, trace: Trace) -> Bound:
        """Return the project bound over the events of all its recordings read so far, reusing the current binding if possible.

        Where an argument's kind differs between recordings, that of `trace` counts.
        """
        paths = [self.now.identity(one) for one in self.project.traces]
        read = [found.trace for path in paths if (found := self.now.recordings.get(path)) and found.trace is not None]
        events, now = events_of([*read, trace]), self.bound
        slot = self.screen.slot if isinstance(self.screen, ScreenPart) else now.slot
        for known in (now, self._earlier_bound):
            same = known.project is self.project and known.folder == self.folder and known.slot == slot
            if same and known.events == events:
                return known
        self._earlier_bound = now  # a drive has events of its own, and ends where it began
        return bind(self.project, now, events, self.folder, slot=slot)

    # -- viewing ----------------------------------------------------------------------------------------------------

    def select(self, chosen: Selection) -> None:
        """Select a widget, a variable or nothing. Ends the current undo step."""
        if chosen != self.selected:
            self.seal()
            self._replace(selection=chosen)
            self.selection_changed.emit()

    def select_widget(self, ident: str) -> None:
        """Select a widget by id, "" for nothing."""
        self.select(Selection(widget=ident))

    def select_variable(self, name: str) -> None:
        """Select a variable by name."""
        self.select(Selection(variable=name))

    def select_widgets(self, *idents: str) -> None:
        """Select several widgets by id; the card shows the first."""
        self.select(_several(idents))

    def select_merged(self, *idents: str) -> None:
        """Select what an edit has just created, without ending its undo step."""
        self._replace(selection=_several(idents))
        self.selection_changed.emit()

    def go_to(self, frame: int) -> None:
        """Move the playhead, clamped to the trace."""
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
        """Move the playhead to a time on the axis."""
        self.go_to(self.trace.frame_at(seconds))

    def moments(self) -> Array:
        """Return frames at which something visible changes, of the selected widget or of all.

        Returns: ascending frame numbers, shape (moments,).
        """
        key = (self.tracks, self.trace, self.selected)
        if self._moments is None or any(a is not b for a, b in zip(self._moments[0], key, strict=True)):
            chosen = self.widget
            self._moments = (key, self.tracks.moments([chosen] if chosen is not None else None))
        return self._moments[1]

    def next_moment(self) -> None:
        """Go to the next moment."""
        after = self.moments()
        at = int(np.searchsorted(after, self.frame, "right"))
        if at < len(after):
            self.go_to(int(after[at]))

    def previous_moment(self) -> None:
        """Go to the previous moment."""
        before = self.moments()
        at = int(np.searchsorted(before, self.frame, "left")) - 1
        if at >= 0:
            self.go_to(int(before[at]))

    def set_playing(self, playing: bool) -> None:
        """Start or stop playback; starting at the end begins at the start."""
        if playing and self.frame >= len(self.trace) - 1 and not self.now.growing:
            self.go_to(0)
        if playing != self.playing:
            self.playing = playing
            self.playing_changed.emit()
            self.values_changed.emit()

    def change_speed(self, steps: int) -> None:
        """Change to a faster (slower) speed."""
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
        """Show another plate behind the HUD."""
        self._replace(view=replace(self.now.view, plate=plate, follows=False))
        self.view_changed.emit()

    def show_in(self, language: str) -> None:
        """Preview in a language, by its code."""
        self._replace(view=replace(self.now.view, language=language))
        self.view_changed.emit()

    @property
    def spoken_tracks(self) -> Tracks:
        """Return the recording's tracks in the visible language, falling back to the project's own.

        Widgets are not mirrored, so that editing handles are where they appear.
        """
        if self.now.view.language == OWN:
            return self.tracks
        if self._spoken is None or not self._spoken.holds(self.tracks):
            self._spoken = Spoken(self.tracks, mirror=False)
        return self._spoken.tracks_or_own(self.now.view.language)

    def show_over_recorded(self) -> None:
        """Show the plate that the recording selects."""
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
        label: str = "recovered edits",
    ) -> None:
        """Open another project, over a recording or none. unsaved: recovered edits of it.

        name: the recording's key in the project. elsewhere: of external recordings.
        label: of the step that undoes the recovered edits.
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
        bound = self._earlier_bound = bind(
            project, events=trace.event_kinds, folder=folder, slot=slot
        )  # in a graph of its own
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
        """Show another recording, or none. name: its key in the project. frame: where the playhead goes."""
        self.latest = name
        self._show(trace or nothing_recorded(), name, frame)
        self.shown.emit()
        self.trace_changed.emit()

    def show_driven(self, trace: Trace) -> None:
        """Show a finished drive from its start to its end."""
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
        """Show a growing trace, without pins. The playhead stays at its end."""
        self._replace(pins={})
        self._show(trace, "", len(trace) - 1, growing=True)
        self.trace_changed.emit()
        self._tell_end()

    def show_grown(self, trace: Trace) -> None:
        """Show the same trace with more frames; the playhead stays at its end."""
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
        """Pin variables to these values and unpin all others. moved: those whose values change."""
        trace, bound = self._held(self.now.recorded, pins), self._bound_for(self.now.recorded)
        self._replace(pins=dict(pins), trace=trace, bound=bound, tracks=Tracks(bound, trace, self.tracks, moved=moved))
        self.project_changed.emit()

    def _held(self, trace: Trace, pins: Mapping[str, Value]) -> Trace:
        return pinned(trace, pins, self.now.kinds) if pins else trace

    def set_trace_name(self, name: str) -> None:
        """Note that the visible trace was saved in the project."""
        self._replace(trace_name=name)
        self.view_changed.emit()

    def lies_elsewhere(self, name: str, file: Path) -> None:
        """Note that a recording's file is outside the project's folder."""
        self._replace(elsewhere={**self.now.elsewhere, name: file})

    def read_in(self, recordings: Mapping[Path, Reading]) -> None:
        """Add recordings that were read."""
        if any(self.now.recordings.get(path) is not reading for path, reading in recordings.items()):
            self._replace(recordings={**self.now.recordings, **recordings})
            bound = self._bound_for(self.trace)
            if bound is not self.bound:  # another recording has further events; that is not the user's doing
                untouched = self.untouched
                self.evaluated(bound, Tracks(bound, self.trace, self.tracks))
                self.untouched = untouched
            self.recordings_changed.emit()

    def saved_as(self, path: Path) -> None:
        """Note that the project was saved in this file."""
        moved = path.parent != self.folder
        # Saving under the same name changes nothing for running jobs.
        now = self.now
        self._replace(path=now.path if path == now.path else path, elsewhere={} if now.elsewhere else now.elsewhere)
        if moved:  # the assets' folder changed
            bound = self._bound_for(self.now.recorded)
            self.evaluated(bound, Tracks(bound, self.trace, self.tracks))
        self.history.mark_saved()
        self.state_changed.emit()


def _several(idents: Sequence[str]) -> Selection:
    return Selection(widget=idents[0], more=tuple(idents[1:])) if idents else Selection()


def sources(widget: BoundWidget) -> list[str]:
    """Return the variables a widget uses, the main input's first."""
    names: dict[str, None] = {}
    for step in widget.steps():
        names.update(dict.fromkeys(step.sources()))
    ordered = [name for step in widget.inputs.values() for name in step.sources()]
    return list(dict.fromkeys([*ordered, *names]))


def _whose(screen: Screen) -> tuple[str, int]:
    """Return the name of a screen, or of the screen a part belongs to, and the part's slot."""
    return (screen.of, screen.slot) if isinstance(screen, ScreenPart) else (screen.name, 0)
