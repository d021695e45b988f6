"""Make a recording of the marked stretch: under a new name, added to the project, its texts replaced if asked for."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QWidget

from avrin.app.controls.file_dialogs import ask_target
from avrin.app.services.workspace import Workspace
from avrin.binding.places import rule_at, rule_places
from avrin.errors import AvrinError
from avrin.trace.cutting import cut, quoted, with_made_up_names
from avrin.trace.formats import FILE_FILTER
from avrin.trace.store import save_trace

__all__ = ["save_stretch"]


def save_stretch(parent: QWidget, workspace: Workspace, stretch: tuple[float, float] | None, *, made_up: bool) -> None:
    """Ask for a file, write the stretch of the visible recording there, and add it to the project. Raises AvrinError.

    stretch: in seconds, both ends included. made_up: texts that no rule names are replaced by made-up names.
    """
    now = workspace.editor.now
    if stretch is None:
        raise AvrinError("no stretch is marked", advice="Drag along the time axis with Shift held")
    first, end = now.trace.frame_at(stretch[0]), now.trace.frame_at(stretch[1]) + 1
    trace = cut(now.recorded, first, end)
    if made_up:
        rules = (rule_at(now.project, place) for place in rule_places(now.project))
        trace = with_made_up_names(trace, quoted(rules))
    folder = now.folder / "traces" if now.path is not None and (now.folder / "traces").is_dir() else now.folder
    start = (folder if now.path is not None else Path.home()) / f"{now.recorded.name}-cut.csv"
    chosen = ask_target(parent, "A recording of the marked stretch", start, FILE_FILTER)
    if chosen is None:
        return
    target = chosen if chosen.suffix else chosen.with_suffix(".csv")
    listed = now.project.recording(now.trace_name)
    if listed is not None and target.resolve() == now.where(listed).resolve():
        raise AvrinError(f"{target.name} is the recording it is cut from", advice="Choose another name")
    save_trace(trace, target)
    workspace.traces.add([target])
    workspace.editor.say(f"{target.name}: {len(trace):,} frames, {trace.length:.1f} s")
