"""Everything that is open and looked at, as one immutable value with a number for each of its parts.

Whoever works from a snapshot can tell later whether the parts it read are still those: their numbers are the same.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Literal, get_args

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from avrin.model import USUAL_SCREEN, Plate, Project, Recording, Screen, inside
from avrin.texts import OWN
from avrin.trace import KIND_OF, ColumnKind, Trace, Value
from avrin.widgets import Bound, Tracks, bind

__all__ = ["PARTS", "Part", "Reading", "Selection", "Snapshot", "View", "nothing_recorded"]

Part = Literal["file", "project", "recordings", "trace", "pins", "tracks", "view", "selection", "playhead"]
PARTS: tuple[Part, ...] = get_args(Part)
# Which part a field of the snapshot belongs to, where it is not called as the part is.
PART_OF: dict[str, Part] = {
    "path": "file", "elsewhere": "file",
    "bound": "tracks", "recorded": "trace", "trace_name": "trace", "growing": "trace", "frame": "playhead",
}  # fmt: skip


class Selection(Struct, frozen=True):
    """What is chosen: a widget by id, or a variable by name, or, with both empty, nothing. more: other widgets with it."""

    widget: str = ""
    variable: str = ""
    more: tuple[str, ...] = ()

    @property
    def widgets(self) -> tuple[str, ...]:
        """The ids of all widgets that are chosen, the first as it was chosen first."""
        return (self.widget, *self.more) if self.widget else ()


class View(Struct, frozen=True):
    """What the HUD is previewed on. plate: the picture behind it, None for a plain ground. language: of its texts.

    follows: the recording chooses the plate where it can; then `plate` is for where it does not.
    """

    screen: Screen = USUAL_SCREEN
    plate: Plate | None = None
    follows: bool = False
    language: str = OWN


class Reading(Struct, frozen=True):
    """A recording as it was read. trace: None where it cannot be. kinds: of the variables declared then.

    listed: what the project said of it then.
    """

    trace: Trace | None
    kinds: Mapping[str, ColumnKind]
    listed: Recording | None = None


def nothing_recorded() -> Trace:
    """One frame without columns: what is looked at where no recording is."""
    return Trace.make("", np.zeros(1), {})


class Snapshot(Struct, frozen=True):
    """One state of a session.

    path: the project's file, None where it has none yet. elsewhere: where recordings lie that are not in its folder yet, by
    their paths in the project. project: as edited. bound: the project as it was last evaluated:
    a moment behind `project` while that takes long; `tracks` are of it.
    recordings: those of the project that have been read, by their absolute paths.
    recorded: the recording that is looked at; trace: the same, with pins held; trace_name: its key in the project, ""
    where it lies in none. growing: more frames are to come. frame: the playhead, a frame of the trace.
    numbers: of the parts, each counted up when a part is replaced.
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
        """Before anything is opened."""
        project, trace = Project(), nothing_recorded()
        bound = bind(project)
        return cls(None, project, bound, {}, trace, trace, "", False, {}, Tracks(bound, trace), View(), Selection(), 0)

    @property
    def folder(self) -> Path:
        """The project's folder; the present one where it has no file."""
        return self.path.parent if self.path else Path.cwd()

    def where(self, recording: Recording) -> Path:
        """The file of a recording. Raises AvrinError for a path that leaves the project's folder."""
        return self.elsewhere.get(recording.path) or inside(self.folder, recording.path)

    def identity(self, recording: Recording) -> Path:
        """What tells a recording from all others, of other projects too: its file, and its case."""
        file = (self.elsewhere.get(recording.path) or self.folder / recording.path).absolute()
        return file.with_name(f"{file.name}#{recording.case}") if recording.case else file

    @property
    def kinds(self) -> dict[str, ColumnKind]:
        """What the declared variables hold."""
        return {name: KIND_OF[variable.type] for name, variable in self.project.all_variables().items()}

    def replaced(self, *, grown: bool = False, **fields: object) -> tuple[Snapshot, frozenset[Part]]:
        """The snapshot with other fields, and the parts that became others by it.

        grown: the trace and its tracks only go on: what holds of their beginning still does, so they are no other parts.
        """
        parts = {part_of(name) for name, value in fields.items() if value is not getattr(self, name)}
        if grown:
            parts -= {"trace", "tracks"}
        numbers = {**self.numbers, **{part: self.numbers[part] + 1 for part in parts}} if parts else self.numbers
        return replace(self, numbers=numbers, **fields), frozenset(parts)

    def agrees(self, other: Snapshot, parts: Iterable[Part]) -> bool:
        """Whether these parts are the same in both. Both must be of one session."""
        return all(self.numbers[part] == other.numbers[part] for part in parts)


def part_of(name: str) -> Part:
    """The part that a field belongs to."""
    return PART_OF.get(name, name)  # type: ignore[arg-type]  # a field that is not listed is called as its part
