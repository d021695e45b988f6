"""The recordings of the project: show, add, configure the clock, remove, generate."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TypeVar

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started
from avrin.app.services.journaling import Ask
from avrin.binding.declarations import all_declared
from avrin.editor.changes import Change
from avrin.editor.edits import edit
from avrin.editor.opening import lies_elsewhere, show
from avrin.editor.recordings import as_known, read_alike
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.execution.locations import at_hand, locations
from avrin.onboarding.recordings import listed_as, taken_in
from avrin.project.numbers import plain_rate
from avrin.project.project import Project, Recording
from avrin.render.values import clock
from avrin.storage.files import inside
from avrin.storage.folders import folder_for
from avrin.storage.reading import plain_file
from avrin.trace.clock import EACH_ROW, Clock  # fmt: skip
from avrin.trace.copying import beside, copy_file, files_of  # fmt: skip
from avrin.trace.frames import KIND_OF, ColumnKind, Trace  # fmt: skip
from avrin.trace.generate import Plan
from avrin.trace.progress import hearing  # fmt: skip
from avrin.trace.store import open_guessing, open_listed, save_trace  # fmt: skip

__all__ = ["READ_AT_ONCE", "Traces", "Unsure", "timed_by"]

T = TypeVar("T")
Unsure = Mapping[str, tuple[Clock, ...]]  # by a recording's key: its possible clocks, the one in use first
TIME = "time"
READ_AT_ONCE = 6_000_000  # bytes of a recording read synchronously


class Traces(QObject):
    """Reads what the editor shows. jobs: reading and generating recordings."""

    asked = Signal(object)  # an Ask
    answered = Signal(str)  # the key of a question that needs no answer any more
    _progressed = Signal(str)  # progress of a reading, from the worker thread

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self._progressed.connect(self._report_progress)
        self.jobs = Jobs(self, editor, "file")
        self._read_as: tuple[str, Recording, dict[str, ColumnKind]] | None = None
        editor.follow("recordings", self)

    def on_change(self, change: Change) -> None:
        """Read the visible recording again if need be."""
        if change.of("opened"):
            self.answered.emit(TIME)
        else:
            self._follow()

    def _report_progress(self, text: str) -> None:
        self._editor.say(text)

    def is_read(self, listed: Recording | None, trace: Trace | None) -> None:
        """Note how the visible recording was read; None for nothing."""
        self._read_as = (
            (listed.key, listed, self._odd_kinds(trace)) if listed is not None and trace is not None else None
        )

    def show(self, key: str, listed: Recording | None = None) -> None:
        """Show one of the project's traces. Raises AvrinError if it cannot be read.

        listed: its entry, if it differs from the project's.
        """
        found = listed or self._editor.now.project.recording(key) or Recording(path=key)
        self._load(self._editor.now.where(found), found)

    def look_at(self, trace: str) -> bool:
        """Show one of the project's recordings by name; return False, with a message, if that fails."""
        now = self._editor.now
        named = {reading.trace.name: path for path, reading in now.recordings.items() if reading.trace is not None}
        listed = {now.identity(one): one.key for one in now.project.traces}
        name = listed.get(named.get(trace, now.folder), "")
        if not name or name == now.trace_name:
            return True
        try:
            self.show(name)
        except AvrinError as error:
            self._editor.say(str(error), error=True)
            return False
        return True

    def visit(self, where: str, name: str, run: int = 0, seconds: float = 0.0, *, share: float = 0.0) -> None:
        """Show an external recording at a time of a run; without a run at a share of it, 0–1.

        where: a folder, a file or a URL; name: its name there.
        """
        from avrin.execution.task import as_listed  # late: 1 ms

        now, declared = self._editor.now, self._editor.now.project.all_variables()
        known = {str(now.identity(one)): one for one in self._editor.now.project.traces if not one.case}
        usual = as_listed(self._editor.now.project)

        def read(breathe: Callable[[], None]) -> tuple[Trace, str]:
            place = next((one for one in locations([where]) if one.name == name), None)
            breathe()
            if place is None:
                raise AvrinError("does not exist any more", place=(name,), advice="Sweep again")
            own = known.get(place.path)
            with at_hand(place) as path:
                trace = open_listed(path, declared, own or replace(usual, path=path.name), name)
            return trace, own.key if own is not None else ""

        def done(result: tuple[Trace, str], _: Snapshot) -> None:
            trace, key = result
            first, end = next(((a, b) for number, a, b in trace.runs() if number == run), (0, 1))
            if run:
                frame = first + int(np.searchsorted(trace.t[first:end], seconds))
            else:
                frame = trace.frame_at(share * (trace.length + trace.frame_time))
            self.is_read(self._editor.now.project.recording(key), trace if key else None)
            self._editor.do(show, trace, key, min(frame, max(0, len(trace) - 1)))
            at = clock(float(trace.axis[self._editor.now.frame])) if len(trace) else "0:00"
            more = "" if key else ", which does not belong to the project"
            self._editor.say(f"{at} of {name}{more}.  Ctrl+1 shows it")

        self.jobs.submit(self.reading_job(f"Opening {name}", read), done)

    def add(self, paths: Sequence[Path]) -> None:
        """Add recordings, declare what is new in them and show the first. One undo step.

        External ones are copied into the project's folder, now or when it is first saved. Raises AvrinError.
        """
        editor = self._editor
        for path in paths:
            plain_file(path)
        files, lent = self._names_for(paths)
        known = {one.path for one in editor.now.project.traces}
        wanted = [name for name in files if name not in known]
        copies: list[tuple[Path, Path]] = []
        if editor.now.path is not None:
            for name, file in lent.items():
                to = editor.now.folder / name
                copies += [(one, to if one == file else beside(to)) for one in files_of(file)]

        def read(breathe: Callable[[], None] = lambda: None) -> list[tuple[Trace, tuple[Clock, ...]]]:
            for source, to in copies:
                copy_file(source, to, lambda _: breathe())
            return [open_guessing(files[name]) for name in wanted]

        def take(traces: list[tuple[Trace, tuple[Clock, ...]]]) -> None:
            for name in lent if editor.now.path is None else ():
                editor.do(lies_elsewhere, name, lent[name])
            self._take_in(wanted, traces, next(iter(files)))

        if sum(file.stat().st_size for file in files.values()) <= READ_AT_ONCE:
            take(read())
        else:
            title = f"Opening {next(iter(files.values())).name}"
            self.jobs.submit(self.reading_job(title, read), lambda traces, _: take(traces))

    def _names_for(self, paths: Sequence[Path]) -> tuple[dict[str, Path], dict[str, Path]]:
        """Return the files by their paths in the project, and those of them that are external."""
        editor, folder = self._editor, self._editor.now.folder.resolve()
        inner: dict[str, Path] = {}
        outer: list[Path] = []
        for path in paths:
            if editor.now.path is not None and path.resolve().is_relative_to(folder):
                inner[path.resolve().relative_to(folder).as_posix()] = path
            else:
                outer.append(path.absolute())
        again = {file: name for name, file in editor.now.elsewhere.items()}
        fresh = [path for path in outer if path not in again]
        known = [one.path for one in editor.now.project.traces]
        names = listed_as(fresh, [*known, *inner, *self._taken(fresh)])
        lent = dict(zip(names, fresh, strict=True))
        return {**inner, **lent, **{again[path]: path for path in outer if path in again}}, lent

    def _taken(self, fresh: Sequence[Path]) -> list[str]:
        """Return names in the project's folder that other files already have."""
        if self._editor.now.path is None:
            return []
        folder = self._editor.now.folder / "traces"
        return [f"traces/{one.name}" for one in folder.iterdir()] if fresh and folder.is_dir() else []

    def reading_job(self, title: str, read: Callable[[Callable[[], None]], T]) -> Callable[[Started], T]:
        """Return a job that reads, reports progress and can be cancelled."""
        self._editor.say(f"{title} …  Esc stops it")

        def work(started: Started) -> T:
            def heard(share: float) -> None:
                started.breathe()
                started.emit(lambda: self._progressed.emit(f"{title}, {share:.0%} …  Esc stops it"))

            with hearing(heard):
                return read(started.breathe)

        return work

    def _take_in(self, names: list[str], traces: list[tuple[Trace, tuple[Clock, ...]]], shown: str) -> None:
        project, unsure = self._editor.now.project, dict[str, tuple[Clock, ...]]()
        for name, (trace, choices) in zip(names, traces, strict=True):
            listed = timed_by(Recording(path=name), choices)
            project, _ = taken_in(project, listed, trace)
            if choices:
                unsure[listed.key] = choices
        if project != self._editor.now.project:
            label = f"add {Path(names[0]).stem}" if len(names) == 1 else f"add {len(names)} recordings"
            self._editor.do(edit, project, label)
        self.show(shown)
        self.ask_about_time(unsure)

    def ask_about_time(self, unsure: Unsure) -> None:
        """Ask for the time column of recordings for which it was not recognised, one after another."""
        if not unsure:
            return
        (key, choices), *others = unsure.items()
        rest = dict(others)
        listed = self._editor.now.project.recording(key)
        if listed is None:
            return

        def take(clock: Clock) -> None:
            self.answered.emit(TIME)
            try:
                if clock != choices[0]:
                    self.say(key, time=clock.time, unit=clock.unit, rate=clock.rate)
            except AvrinError as error:
                self._editor.say(str(error), error=True)
            self.ask_about_time(rest)

        text = f"No column of {listed.title} is recognised as the time. Using {_clock_words(choices[0])}"
        words = ["that is correct", *map(_clock_words, choices[1:])]
        answers = (partial(take, clock) for clock in choices)
        self.asked.emit(Ask(TIME, text, tuple(zip(words, answers, strict=True))))

    def say(self, key: str, **changes: object) -> None:
        """Change a recording's entry: its clock or run column. One undo step.

        The recording is read again. Raises AvrinError if that fails, and then nothing has changed.
        """
        editor = self._editor
        listed = editor.now.project.recording(key)
        if listed is None:
            return
        changed = replace(listed, **changes)
        declared = editor.now.project.all_variables()
        trace = open_listed(
            editor.now.where(changed), declared, changed, editor.now.project.recording_name(changed.key)
        )
        traces = tuple(changed if one.key == key else one for one in editor.now.project.traces)
        project = replace(editor.now.project, traces=traces)
        if editor.now.project.variables and all(v.guessed for v in editor.now.project.variables):
            project = self._as_recorded(project, trace)
        self.is_read(changed, trace)
        editor.do(show, trace, changed.key)
        editor.do(edit, project, f"settings of {listed.title}")

    def _as_recorded(self, project: Project, trace: Trace) -> Project:
        """Update guessed declarations after a recording changed: remove missing columns, declare new ones."""
        used = {name for w in self._editor.now.bound.widgets.values() for step in w.steps() for name in step.sources()}
        kept = tuple(v for v in project.variables if v.name in trace.columns or v.name in used or not v.guessed)
        return all_declared(replace(project, variables=kept), trace)

    def remove(self, key: str) -> None:
        """Remove a recording from the project; its file remains. One undo step."""
        editor = self._editor
        listed = editor.now.project.recording(key)
        if listed is None:
            return
        rest = tuple(one for one in editor.now.project.traces if one.key != key)
        editor.do(edit, replace(editor.now.project, traces=rest), f"remove {listed.title}")
        if editor.now.trace_name == key:
            if rest:
                self.show(rest[0].key)
            else:
                editor.do(show, None, "")

    def found_at(self, key: str, file: Path) -> None:
        """Locate a recording's missing file. Raises AvrinError if it cannot be read."""
        editor = self._editor
        listed = editor.now.project.recording(key)
        if listed is None:
            return
        plain_file(file)
        if editor.now.path is None:
            editor.do(lies_elsewhere, listed.path, file.absolute())
        else:
            copy_file(file, folder_for(inside(editor.now.folder, listed.path)), lambda _: None)
        self.show(key)

    def make(self) -> None:
        """Generate a trace that visits every threshold, in the background, and show it.

        Raises AvrinError if the project has no folder.
        """
        if self._editor.now.path is None:
            raise AvrinError("the project has no folder yet", advice="Save it first")
        bound, number = self._editor.now.bound, 1
        while (
            self._editor.now.project.recording(name := f"traces/made-{number}.csv")
            or (self._editor.now.folder / name).exists()
        ):
            number += 1
        target = inside(self._editor.now.folder, name)
        self._editor.say("Making a trace that visits every threshold …")

        def make(_: Started) -> Trace:
            from avrin.ladder.generated_trace import made_for  # late: 4 ms

            trace = made_for(bound, Plan(), target.stem)
            save_trace(trace, folder_for(target))
            return trace

        def done(result: Trace, _: Snapshot) -> None:
            self._show(result, Recording(path=name))
            recording = Recording(path=name, note="made: ramps, steps, jumps, a restart, random walks")
            self._editor.do(
                edit,
                replace(self._editor.now.project, traces=(*self._editor.now.project.traces, recording)),
                f"make {target.stem}",
            )
            self._editor.say(f"Made {name}: {len(result):,} frames")

        self.jobs.submit(make, done)

    def _load(self, path: Path, listed: Recording) -> None:
        """Show a recording; large ones are read in the background. Raises AvrinError if it cannot be read."""
        now, declared = self._editor.now, self._editor.now.project.all_variables()
        name = self._editor.now.project.recording_name(listed.key)

        def read() -> Trace:
            return as_known(now, listed, open_listed(path, declared, listed, name))

        if not path.exists() or path.stat().st_size <= READ_AT_ONCE:
            self._show(read(), listed)
            return
        if not self._editor.now.trace_name and not self._editor.now.growing:
            self._editor.do(show, None, "")  # nothing yet of a project just opened

        def done(result: Trace, _: Snapshot) -> None:
            self._show(result, listed)
            self._editor.say(f"{path.name}: {len(result):,} frames")

        self.jobs.submit(self.reading_job(f"Opening {path.name}", lambda _: read()), done)

    def _show(self, trace: Trace, listed: Recording, frame: int = 0) -> None:
        self.is_read(listed, trace)
        self._editor.do(show, trace, listed.key, frame)

    def _odd_kinds(self, trace: Trace) -> dict[str, ColumnKind]:
        """Return variables declared as another kind than the trace's columns."""
        odd: dict[str, ColumnKind] = {}
        for name, variable in self._editor.now.project.all_variables().items():
            column = trace.columns.get(name)
            if column is not None and column.kind != KIND_OF[variable.type] and name not in self._editor.now.pins:
                odd[name] = KIND_OF[variable.type]
        return odd

    def _follow(self) -> None:
        """Read the recording again if its entry or its variables' declarations changed."""
        editor = self._editor
        listed = editor.now.project.recording(editor.now.trace_name)
        if listed is None or self._read_as is None or editor.now.growing:
            return
        key, before, tried = self._read_as
        odd = self._odd_kinds(editor.now.recorded)
        if key == listed.key and read_alike(before, listed) and odd == tried:
            return
        self._read_as = (listed.key, listed, odd)
        try:
            trace = open_listed(
                editor.now.where(listed),
                editor.now.project.all_variables(),
                listed,
                editor.now.project.recording_name(listed.key),
            )
        except AvrinError as error:
            editor.say(str(error), error=True)
            return
        same_clock = len(trace) == len(editor.now.trace)
        editor.do(show, trace, listed.key, editor.now.frame if same_clock else 0)


def timed_by(listed: Recording, choices: Sequence[Clock]) -> Recording:
    """Return a recording's entry with the first of its possible clocks; unchanged if its time column is known."""
    if not choices:
        return listed
    clock = choices[0]
    return replace(listed, time=clock.time, unit=clock.unit, rate=clock.rate)


def _clock_words(clock: Clock) -> str:
    if clock.time == EACH_ROW:
        return f"one frame per row, {plain_rate(clock.rate)} per second"
    unit = {"s": "in seconds", "ms": "in ms", "us": "in µs", "frames": f"in frames, {plain_rate(clock.rate)} a second"}
    return f"‘{clock.time}’ {unit.get(clock.unit, 'in seconds')}"
