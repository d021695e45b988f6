"""Commands that open projects and show recordings."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.editor.changes import PARTS, StatePart
from avrin.editor.evaluation import bound_over, evaluated, with_tracks
from avrin.editor.history import History
from avrin.editor.snapshot import Reading, Selection, Snapshot, View, nothing_recorded
from avrin.kinds.registry import KINDS
from avrin.project.project import USUAL_SCREEN, Project, ScreenPart
from avrin.storage.view_state import ViewState
from avrin.trace.frames import Trace, Value
from avrin.trace.growing import pinned

__all__ = [
    "begin",
    "follow_paths",
    "held",
    "lies_elsewhere",
    "over",
    "read_in",
    "saved_as",
    "set_access",
    "set_trace_name",
    "show",
]

# What is another's with another project, even where it looks the same.
OF_THE_PROJECT: tuple[StatePart, ...] = tuple(
    part for part in PARTS if part not in ("access", "grown", "message", "waiting")
)


def begin(
    now: Snapshot,
    path: Path | None,
    project: Project,
    unsaved: Project | None,
    trace: Trace | None = None,
    name: str = "",
    elsewhere: Mapping[str, Path] | None = None,
    label: str = "recovered edits",
    layout: ViewState | None = None,
) -> Snapshot:
    """Open another project, over a recording or none. unsaved: recovered edits of it.

    name: the recording's key in the project. elsewhere: of external recordings.
    label: of the step that undoes the recovered edits. layout: as the window last showed the project.
    """
    history = History.of(project)
    if unsaved is not None:
        history = history.pushed(unsaved, label)
    project = history.project
    fed = [w for w in project.widgets if w.kind in KINDS and any(i.needed for i in KINDS[w.kind].inputs)]
    first = next(iter([*fed, *project.widgets]), None)
    view = View(
        project.whole_screens[0] if project.screens else USUAL_SCREEN, project.plates[0] if project.plates else None,
        follows=any(plate.when for plate in project.plates),
    )  # fmt: skip
    trace = trace or nothing_recorded()
    folder = path.parent if path is not None else Path.cwd()
    slot = view.screen.slot if isinstance(view.screen, ScreenPart) else None
    bound = bind(project, events=trace.event_kinds, folder=folder, slot=slot)  # in a graph of its own
    return now.replaced(
        *OF_THE_PROJECT,
        path=path, elsewhere=elsewhere or {}, history=history, bound=bound, earlier_bound=bound, waiting=None, recordings={},
        recorded=trace, trace=trace, trace_name=name, latest=name, growing=False, pins={}, drive=None, unkept=False,
        tracks=Tracks(bound, trace), view=view, frame=0, selection=Selection(widget=first.id if first is not None else ""),
        layout=layout or ViewState(), slots={}, opened=now.opened + 1,
    )  # fmt: skip


def show(now: Snapshot, trace: Trace | None, name: str, frame: int = 0) -> Snapshot:
    """Show another recording, or none; a drive ends. name: its key in the project. frame: where the playhead goes."""
    ended = now.replaced(latest=name, drive=None, unkept=False)
    return over(ended, trace or nothing_recorded(), name, frame)


def over(now: Snapshot, recorded: Trace, name: str, frame: int, *, growing: bool = False) -> Snapshot:
    """Evaluate the project over another recording, with the pins of now."""
    trace, bound = held(now, recorded, now.pins), bound_over(now, recorded)
    return with_tracks(
        now, bound, Tracks(bound, trace),
        recorded=recorded, trace=trace, trace_name=name, growing=growing, frame=min(frame, max(0, len(trace) - 1)),
    )  # fmt: skip


def held(now: Snapshot, trace: Trace, pins: Mapping[str, Value]) -> Trace:
    """Return a trace with variables pinned."""
    return pinned(trace, pins, now.kinds) if pins else trace


def set_trace_name(now: Snapshot, name: str) -> Snapshot:
    """Note that the visible trace was saved in the project."""
    return now.replaced(trace_name=name)


def follow_paths(now: Snapshot, paths: Mapping[str, str]) -> Snapshot:
    """Follow recordings that were saved at other paths. paths: their keys in the project, by the earlier ones."""
    return now.replaced(
        trace_name=paths.get(now.trace_name, now.trace_name), latest=paths.get(now.latest, now.latest),
    )  # fmt: skip


def lies_elsewhere(now: Snapshot, name: str, file: Path) -> Snapshot:
    """Note that a recording's file is outside the project's folder."""
    return now.replaced(elsewhere={**now.elsewhere, name: file})


def read_in(now: Snapshot, recordings: Mapping[Path, Reading]) -> Snapshot:
    """Add recordings that were read. Rules know their events from now on."""
    if all(now.recordings.get(path) is reading for path, reading in recordings.items()):
        return now
    now = now.replaced(recordings={**now.recordings, **recordings})
    bound = bound_over(now, now.trace)
    return now if bound is now.bound else evaluated(now, bound, Tracks(bound, now.trace, now.tracks))


def saved_as(now: Snapshot, path: Path) -> Snapshot:
    """Note that the project was saved in this file."""
    moved = path.parent != now.folder
    now = now.replaced(
        # Saving under the same name changes nothing for running jobs.
        path=now.path if path == now.path else path, elsewhere={} if now.elsewhere else now.elsewhere,
        history=now.history.marked_saved(),
    )  # fmt: skip
    if not moved:
        return now
    bound = bound_over(now, now.recorded)  # the assets' folder changed
    return evaluated(now, bound, Tracks(bound, now.trace, now.tracks))


def set_access(now: Snapshot, *, read_only: bool) -> Snapshot:
    """Note whether another window has the project open."""
    return now.replaced(read_only=read_only)
