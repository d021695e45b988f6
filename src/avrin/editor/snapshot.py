"""The whole editor state as one immutable value, with a version number for each of its parts.

Work started from a snapshot can compare versions later to find out whether the parts it read have changed.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import cast

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.declarations import declared
from avrin.binding.derived import derived_users
from avrin.binding.live import Live
from avrin.binding.places import RulePlace, rule_at
from avrin.binding.tracks import Tracks
from avrin.editor.changes import PARTS, StatePart
from avrin.editor.history import History
from avrin.i18n.own_language import OWN
from avrin.project.project import USUAL_SCREEN, Plate, Project, Recording, Screen, Variable
from avrin.storage.files import inside
from avrin.storage.view_state import ViewState
from avrin.trace.declare import guess
from avrin.trace.frames import KIND_OF, Column, ColumnKind, Trace, Value

__all__ = ["Drive", "Message", "Reading", "Selection", "Snapshot", "View", "nothing_recorded", "sources"]

# The part of each field whose name differs from the part's; None: of none.
PART_OF: dict[str, StatePart | None] = {
    "path": "file", "elsewhere": "file", "read_only": "access", "just_moved": None,
    "bound": "tracks", "earlier_bound": None, "recorded": "recording", "trace_name": "view", "growing": "recording",
    "latest": None, "frame": "playhead", "speed": "playing", "drive": "driving", "unkept": "driving", "slots": None,
}  # fmt: skip


class Selection(Struct, frozen=True):
    """A widget by id, a variable by name, or, with both empty, nothing. more: further selected widgets."""

    widget: str = ""
    variable: str = ""
    more: tuple[str, ...] = ()

    @property
    def widgets(self) -> tuple[str, ...]:
        """The ids of all selected widgets, in order of selection."""
        return (self.widget, *self.more) if self.widget else ()


class View(Struct, frozen=True):
    """The preview settings. plate: None for a plain background. language: of texts.

    follows: the recording selects the plate if it can; `plate` is the fallback.
    """

    screen: Screen = USUAL_SCREEN
    plate: Plate | None = None
    follows: bool = False
    language: str = OWN


class Reading(Struct, frozen=True):
    """A recording as read. trace: None if it is unreadable. kinds: of the variables declared at that time.

    listed: its entry at that time.
    """

    trace: Trace | None
    kinds: Mapping[str, ColumnKind]
    listed: Recording | None = None


class Message(Struct, frozen=True):
    """Something to tell the user, and whether it is an error."""

    text: str
    error: bool = False


class Drive(Struct, frozen=True, eq=False):
    """A drive by hand. live: the recording it makes, which grows in place. pending: seconds not yet a whole frame.

    running: False once it was stopped; it can go on as long as its trace is visible.
    """

    live: Live
    pending: float = 0.0
    running: bool = True


def nothing_recorded() -> Trace:
    """Return a trace of one frame without columns, shown without a recording."""
    return Trace.make("", np.zeros(1), {})


class Snapshot(Struct, frozen=True, eq=False):
    """One state of the editor.

    path: the project's file, None if it has none. elsewhere: files of external recordings, by their paths in the project.
    history: the project with its undo steps. read_only: another window has the project open.
    just_moved: the latest edit changed nothing but positions.
    bound: the project as last evaluated, slightly behind `project` during slow edits; `tracks` belong to it.
    earlier_bound: the one before. waiting: what is being evaluated in the background.
    recordings: those of the project that have been read, by absolute path.
    recorded: the visible recording; trace: the same with pins applied; trace_name: its key in the project, ""
    if it is not saved. latest: the project's recording viewed last. growing: more frames will follow.
    frame: the playhead, a frame of the trace. playing, speed: of the playback clock.
    drive: values set by hand; unkept: the visible trace was driven and is not saved yet.
    layout: widgets hidden and locked, and how lanes are sorted. slots: of repeated widgets, the copy clicked last.
    ground: the mean colour of the plate as drawn, "#rrggbb"; "" until known. opened: counts opened projects.
    versions: of each part, incremented when it is replaced.
    """

    path: Path | None
    history: History
    bound: Bound
    earlier_bound: Bound
    recorded: Trace
    trace: Trace
    tracks: Tracks
    recordings: Mapping[Path, Reading] = field(default_factory=dict)
    trace_name: str = ""
    latest: str = ""
    growing: bool = False
    pins: Mapping[str, Value] = field(default_factory=dict)
    view: View = View()
    selection: Selection = Selection()
    frame: int = 0
    playing: bool = False
    speed: float = 1.0
    elsewhere: Mapping[str, Path] = field(default_factory=dict)
    read_only: bool = False
    just_moved: bool = False
    waiting: Bound | None = None
    drive: Drive | None = None
    unkept: bool = False
    layout: ViewState = ViewState()
    slots: Mapping[str, int] = field(default_factory=dict)
    ground: str = ""
    opened: int = 0
    message: Message = Message("")
    versions: Mapping[StatePart, int] = field(default_factory=lambda: dict.fromkeys(PARTS, 0))

    @classmethod
    def empty(cls) -> Snapshot:
        """Return the state before anything is opened."""
        project, trace = Project(), nothing_recorded()
        bound = bind(project)
        return cls(None, History.of(project), bound, bound, trace, trace, Tracks(bound, trace))

    # -- the project --------------------------------------------------------------------------------------------------

    @property
    def project(self) -> Project:
        """The current project."""
        return self.history.project

    @property
    def folder(self) -> Path:
        """The project's folder; the current one without a file."""
        return self.path.parent if self.path else Path.cwd()

    @property
    def widget(self) -> BoundWidget | None:
        """The selected widget, if any."""
        return self.bound.widgets.get(self.selection.widget)

    @property
    def chosen(self) -> tuple[str, ...]:
        """The ids of the selected existing widgets, in order of selection."""
        known = {widget.id for widget in self.project.widgets}
        return tuple(ident for ident in self.selection.widgets if ident in known)

    @property
    def hidden(self) -> tuple[str, ...]:
        """Existing widgets hidden in the editor."""
        known = {widget.id for widget in self.project.widgets}
        return tuple(ident for ident in self.layout.hidden if ident in known)

    @property
    def locked(self) -> tuple[str, ...]:
        """Existing widgets locked in the editor: they cannot be moved or clicked in the picture."""
        known = {widget.id for widget in self.project.widgets}
        return tuple(ident for ident in self.layout.locked if ident in known)

    @property
    def kinds(self) -> dict[str, ColumnKind]:
        """The kinds of declared variables."""
        return {name: KIND_OF[variable.type] for name, variable in self.project.all_variables().items()}

    def variable(self, name: str) -> Variable | None:
        """Return the declaration of a variable or roster field, or None."""
        return self.project.all_variables().get(name)

    def undeclared(self, name: str) -> Variable | None:
        """Return a guessed declaration of an undeclared column; a roster's field has its short name."""
        if name not in self.trace.columns or self.variable(name) is not None:
            return None
        return guess(self.trace, name)

    def declared(self, name: str) -> Project:
        """Return the project with a trace's column declared; for a roster's field, the whole roster as recorded."""
        return declared(self.project, self.trace, name)

    def is_derived(self, name: str) -> bool:
        """Return whether a name is a derived value."""
        return any(derived.name == name for derived in self.project.derived)

    def users(self, name: str) -> list[str]:
        """Return the ids of widgets that use a variable or a derived value."""
        if self.is_derived(name):
            return derived_users(self.project, name)
        return [ident for ident, widget in self.bound.widgets.items() if name in sources(widget)]

    def rule_text(self, place: RulePlace) -> str:
        """Return the rule at a place, "" if it is empty."""
        return rule_at(self.project, place)

    # -- recordings ---------------------------------------------------------------------------------------------------

    def where(self, recording: Recording) -> Path:
        """Return a recording's file. Raises AvrinError for a path outside the project's folder."""
        return self.elsewhere.get(recording.path) or inside(self.folder, recording.path)

    def identity(self, recording: Recording) -> Path:
        """Return a recording's unique identity across projects: its file, and its case."""
        file = (self.elsewhere.get(recording.path) or self.folder / recording.path).absolute()
        return file.with_name(f"{file.name}#{recording.case}") if recording.case else file

    def may_have(self, listed: Recording, name: str) -> bool:
        """Return whether a recording contains a name; an unread one may."""
        reading = self.recordings.get(self.identity(listed))
        trace = self.recorded if listed.key == self.trace_name else reading.trace if reading is not None else None
        return trace is None or name in trace.columns

    # -- at the playhead ----------------------------------------------------------------------------------------------

    @property
    def seconds(self) -> float:
        """The playhead in seconds on the time axis."""
        return float(self.trace.axis[self.frame]) if len(self.trace) else 0.0

    @property
    def plate(self) -> Plate | None:
        """The plate behind the HUD."""
        if self.view.follows and len(self.trace):
            return self.tracks.plate(min(self.frame, len(self.tracks.trace) - 1)) or self.view.plate
        return self.view.plate

    @property
    def live(self) -> Live | None:
        """The running drive, if any."""
        return self.drive.live if self.drive is not None and self.drive.running else None

    def value(self, name: str) -> Value:
        """Return the current value of a variable or derived value."""
        column = self.column(name)
        return column[self.frame] if column is not None and len(column.data) else None

    def happened_so_far(self, event: str) -> int:
        """Return how often an event has happened in this run up to the playhead, like the function `events`."""
        trace, frames = self.trace, self.tracks.occurrences(event).frames
        begun = int(trace.run_starts[np.searchsorted(trace.run_starts, self.frame, "right") - 1])
        first, last = np.searchsorted(frames, [begun, self.frame + 1]).tolist()
        return int(last - first)

    def column(self, name: str) -> Column | None:
        """Return the values of a variable or derived value over the trace, or None."""
        if (recorded := self.trace.find(name)) is not None:
            return recorded
        if self.is_derived(name) and RulePlace("derived", name) not in self.bound.errors:
            return self.tracks.column(self.bound.scope.derived(name))
        return None

    def recorded_column(self, name: str) -> Column | None:
        """Return a recorded column, ignoring pins."""
        return self.recorded.columns.get(name)

    # -- versions -----------------------------------------------------------------------------------------------------

    def replaced(self, *more: StatePart, grown: bool = False, **fields: object) -> Snapshot:
        """Return the snapshot with changed fields, and newer versions of their parts.

        more: further parts that differ, though no field of theirs does. grown: the trace and its tracks were only extended:
        results for their beginning stay valid, so these parts keep their version.
        """
        named = (name for name, value in fields.items() if value is not getattr(self, name))
        parts: set[StatePart | None] = {PART_OF.get(name, cast("StatePart", name)) for name in named} | {*more}
        history = fields.get("history")
        if isinstance(history, History) and history.project is not self.project:
            parts.add("project")
        if grown:
            parts = parts - {"recording", "trace", "tracks"} | {"grown"}
        if not parts - {None}:
            return replace(self, **fields)
        versions = {part: number + (part in parts) for part, number in self.versions.items()}
        return replace(self, versions=versions, **fields)

    def changes_since(self, earlier: Snapshot) -> frozenset[StatePart]:
        """Return the parts that differ from an earlier snapshot of the same editor."""
        if self.versions is earlier.versions:
            return frozenset()
        return frozenset(part for part in PARTS if self.versions[part] != earlier.versions[part])

    def agrees(self, other: Snapshot, parts: Iterable[StatePart]) -> bool:
        """Return whether these parts are equal in both. Both must be of one editor."""
        return all(self.versions[part] == other.versions[part] for part in parts)

    def said(self, text: str, *, error: bool = False) -> Snapshot:
        """Return it with a message to the user."""
        return self.replaced(message=Message(text, error))


def sources(widget: BoundWidget) -> list[str]:
    """Return the variables a widget uses, the main input's first."""
    names: dict[str, None] = {}
    for step in widget.steps():
        names.update(dict.fromkeys(step.sources()))
    ordered = [name for step in widget.inputs.values() for name in step.sources()]
    return list(dict.fromkeys([*ordered, *names]))
