"""The whole editor state as one immutable value, with a version number for each of its parts.

Work started from a snapshot can compare versions later to find out whether the parts it read have changed.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Literal, get_args

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from avrin.i18n.own_language import OWN
from avrin.model.files import inside
from avrin.model.project import USUAL_SCREEN, Plate, Project, Recording, Screen
from avrin.trace.frames import KIND_OF, ColumnKind, Trace, Value
from avrin.widgets.binding import Bound, bind
from avrin.widgets.tracks import Tracks

__all__ = ["PARTS", "Part", "Reading", "Selection", "Snapshot", "View", "nothing_recorded"]

Part = Literal["file", "project", "recordings", "trace", "pins", "tracks", "view", "selection", "playhead"]
PARTS: tuple[Part, ...] = get_args(Part)
# The part of each field whose name differs from the part's.
PART_OF: dict[str, Part] = {
    "path": "file", "elsewhere": "file",
    "bound": "tracks", "recorded": "trace", "trace_name": "trace", "growing": "trace", "frame": "playhead",
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


def nothing_recorded() -> Trace:
    """Return a trace of one frame without columns, shown without a recording."""
    return Trace.make("", np.zeros(1), {})


class Snapshot(Struct, frozen=True):
    """One state of the editor.

    path: the project's file, None if it has none. elsewhere: files of external recordings, by
    their paths in the project. project: as edited. bound: the project as last evaluated,
    slightly behind `project` during slow edits; `tracks` belong to it.
    recordings: those of the project that have been read, by absolute path.
    recorded: the visible recording; trace: the same with pins applied; trace_name: its key in the project, ""
    if it is not saved. growing: more frames will follow. frame: the playhead, a frame of the trace.
    numbers: version of each part, incremented when it is replaced.
    """

    path: Path | None
    project: Project
    bound: Bound
    recordings: Mapping[Path, Reading]
    recorded: Trace
    trace: Trace
    trace_name: str
    growing: bool
    pins: Mapping[str, Value]
    tracks: Tracks
    view: View
    selection: Selection
    frame: int
    elsewhere: Mapping[str, Path] = field(default_factory=dict)
    numbers: Mapping[Part, int] = field(default_factory=lambda: dict.fromkeys(PARTS, 0))

    @classmethod
    def empty(cls) -> Snapshot:
        """Return the state before anything is opened."""
        project, trace = Project(), nothing_recorded()
        bound = bind(project)
        return cls(None, project, bound, {}, trace, trace, "", False, {}, Tracks(bound, trace), View(), Selection(), 0)

    @property
    def folder(self) -> Path:
        """The project's folder; the current one without a file."""
        return self.path.parent if self.path else Path.cwd()

    def where(self, recording: Recording) -> Path:
        """Return a recording's file. Raises AvrinError for a path outside the project's folder."""
        return self.elsewhere.get(recording.path) or inside(self.folder, recording.path)

    def identity(self, recording: Recording) -> Path:
        """Return a recording's unique identity across projects: its file, and its case."""
        file = (self.elsewhere.get(recording.path) or self.folder / recording.path).absolute()
        return file.with_name(f"{file.name}#{recording.case}") if recording.case else file

    @property
    def kinds(self) -> dict[str, ColumnKind]:
        """The kinds of declared variables."""
        return {name: KIND_OF[variable.type] for name, variable in self.project.all_variables().items()}

    def replaced(self, *, grown: bool = False, **fields: object) -> tuple[Snapshot, frozenset[Part]]:
        """Return the snapshot with changed fields, and the set of changed parts.

        grown: the trace and its tracks were only extended: results for their beginning stay
        valid, so these parts keep their version.
        """
        parts = {part_of(name) for name, value in fields.items() if value is not getattr(self, name)}
        if grown:
            parts -= {"trace", "tracks"}
        numbers = {**self.numbers, **{part: self.numbers[part] + 1 for part in parts}} if parts else self.numbers
        return replace(self, numbers=numbers, **fields), frozenset(parts)

    def agrees(self, other: Snapshot, parts: Iterable[Part]) -> bool:
        """Return whether these parts are equal in both. Both must be of one session."""
        return all(self.numbers[part] == other.numbers[part] for part in parts)


def part_of(name: str) -> Part:
    """Return the part a field belongs to."""
    return PART_OF.get(name, name)  # type: ignore[arg-type]  # a field that is not listed is called as its part
