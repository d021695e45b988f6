"""Files of a session: its project, its recordings, and edits kept against a crash."""

from __future__ import annotations

import logging
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer

from avrin.app.session.jobs import Jobs, Started
from avrin.app.session.present import Present
from avrin.app.session.snapshot import Snapshot
from avrin.model import (
    AvrinError,
    Project,
    Recording,
    dumps,
    folder_for,
    inside,
    load,
    loads,
    read_whole,
    rescue_file,
    save,
)
from avrin.trace import KIND_OF, UNSAID, Clock, ColumnKind, Plan, Trace, open_trace, save_trace

__all__ = ["Files"]

log = logging.getLogger(__name__)
KEEP_AFTER = 500  # milliseconds until an edit is kept against a crash
READ_AT_ONCE = 6_000_000  # bytes of a recording that is read while the window waits


MOST_RESCUED = 64 * 2**20  # bytes


class Files(QObject):
    """Belongs to a session, which shows what is opened here. jobs: reading and making recordings."""

    def __init__(self, present: Present) -> None:
        super().__init__(present)
        self._present = present
        self.jobs = Jobs(self, present, "file")
        self._keeping = QTimer(self)
        self._keeping.setSingleShot(True)
        self._keeping.timeout.connect(self.keep_unsaved)
        self._tried: dict[str, ColumnKind] = {}
        present.edited.connect(self._edited)

    # -- the project --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open a project and its first trace. Raises AvrinError, and then nothing has changed."""
        session = self._present
        project, warnings = load(path)
        unsaved = self._unsaved(path)
        brought = unsaved is not None and unsaved != project
        first = project.traces[0].path if project.traces else ""
        try:
            trace = self._read_at_once(path.parent, project, first)
        except AvrinError as error:
            trace, wrong = None, str(error)
        else:
            wrong = ""
        session.begin(path, project, unsaved if brought else None, trace, first if trace is not None else "")
        if brought:
            session.said.emit("Brought back edits that had not been saved", False)
        if wrong:
            session.said.emit(wrong, True)
        elif first and trace is None:
            self.show_trace(first)
        session.view_changed.emit()
        session.state_changed.emit()
        self._tell([*warnings, *session.bound.warnings.values()])
        session.untouched = True

    @staticmethod
    def _read_at_once(folder: Path, project: Project, name: str) -> Trace | None:
        """A recording that is read while the window waits; None where there is none, or where it takes longer."""
        listed = project.recording(name)
        path = inside(folder, name) if listed is not None else None
        if path is None or listed is None or (path.exists() and path.stat().st_size > READ_AT_ONCE):
            return None
        return open_trace(path, project.all_variables(), Clock.of(listed), project.called(name))

    def _tell(self, warnings: list[str]) -> None:
        """What is odd in the file but stops nothing: the first of it, and how much more there is in the log."""
        for warning in warnings:
            log.info("%s", warning)
        if warnings:
            more = f", and {len(warnings) - 1} more like it" if len(warnings) > 1 else ""
            self._present.said.emit(f"{warnings[0]}{more}", False)

    @staticmethod
    def _unsaved(path: Path) -> Project | None:
        """Edits of an earlier session that were not saved and are newer than the file."""
        rescued = rescue_file(path)
        try:
            if rescued.exists() and rescued.stat().st_mtime > path.stat().st_mtime:
                return loads(read_whole(rescued, MOST_RESCUED))[0]
        except (AvrinError, OSError) as error:
            log.warning("unsaved edits could not be read back: %s", error)
        return None

    def save(self, path: Path | None = None) -> None:
        """Write the project. Raises AvrinError when it cannot be written, and then nothing is lost."""
        target = path or self._present.path
        assert target is not None  # the window asks for a name first
        save(self._present.project, target)
        self._keeping.stop()
        rescue_file(target).unlink(missing_ok=True)
        if self._present.path is not None:
            rescue_file(self._present.path).unlink(missing_ok=True)
        self._present.saved_as(target)

    def keep_unsaved(self) -> None:
        """Put unsaved edits where the next start finds them, should this one end badly."""
        if self._present.path is None or not self._present.history.edited:
            return
        target = rescue_file(self._present.path)
        try:
            folder_for(target).write_text(dumps(self._present.project), encoding="utf-8")
        except (AvrinError, OSError) as error:
            log.warning("unsaved edits could not be kept: %s", error)

    def forget_unsaved(self) -> None:
        """Edits the user let go need no keeping."""
        self._keeping.stop()
        if self._present.path is not None:
            rescue_file(self._present.path).unlink(missing_ok=True)

    def _edited(self) -> None:
        """An edit was made: keep it before long, and read what a variable's new type means for the recording."""
        if not self._keeping.isActive():
            self._keeping.start(KEEP_AFTER)
        self._follow_types()

    # -- recordings ---------------------------------------------------------------------------------------------------

    def show_trace(self, name: str, clock: Clock | None = None) -> None:
        """Look at one of the project's traces. Raises AvrinError when it cannot be read.

        clock: how it tells the time, where that is not what the project says.
        """
        listed = self._present.project.recording(name)
        if clock is None:
            clock = Clock.of(listed) if listed is not None else UNSAID
        self._load(inside(self._present.folder, name), name, clock)

    def add_trace(self, path: Path) -> None:
        """Load a recording, which must lie in the project's folder. Raises AvrinError."""
        try:
            name = path.resolve().relative_to(self._present.folder.resolve()).as_posix()
        except ValueError:
            raise AvrinError(
                "lies outside the project's folder",
                place=(path.name,),
                advice=f"Copy it into {self._present.folder} first",
            ) from None
        self._load(path, name, UNSAID)
        if self._present.project.recording(name) is None:
            self._present.edit(
                replace(self._present.project, traces=(*self._present.project.traces, Recording(path=name))),
                f"add {path.stem}",
            )

    def make_trace(self) -> None:
        """Make a trace that visits every threshold, and look at it; in the background, for it takes a while.

        Raises AvrinError while the project has no folder.
        """
        if self._present.path is None:
            raise AvrinError("the project has no folder yet", advice="Save it first")
        bound, number = self._present.bound, 1
        while (
            self._present.project.recording(name := f"traces/made-{number}.csv")
            or (self._present.folder / name).exists()
        ):
            number += 1
        target = inside(self._present.folder, name)
        self._present.said.emit("Making a trace that visits every threshold …", False)

        def make(_: Started) -> Trace:
            from avrin.ladder import made_for

            trace = made_for(bound, Plan(), target.stem)
            save_trace(trace, folder_for(target))
            return trace

        def done(found: Trace, _: Snapshot) -> None:
            self._present.show(found, name)
            recording = Recording(path=name, note="made: ramps, steps, jumps, a restart, random walks")
            self._present.edit(
                replace(self._present.project, traces=(*self._present.project.traces, recording)), f"make {target.stem}"
            )
            self._present.said.emit(f"Made {name}: {len(found):,} frames", False)

        self.jobs.ask(make, done)

    def _load(self, path: Path, name: str, clock: Clock) -> None:
        """Look at a recording, read in the background where that takes long. Raises AvrinError when it cannot be read."""
        declared, called = self._present.project.all_variables(), self._present.project.called(name)
        if not path.exists() or path.stat().st_size <= READ_AT_ONCE:
            self._present.show(open_trace(path, declared, clock, called), name)
            return
        self._present.said.emit(f"Opening {path.name} …", False)
        if not self._present.trace_name and not self._present.now.growing:
            self._present.show(None, "")  # nothing yet of a project that was just opened

        def done(found: Trace, _: Snapshot) -> None:
            self._present.show(found, name)
            self._present.said.emit(f"{path.name}: {len(found):,} frames", False)

        self.jobs.ask(lambda _: open_trace(path, declared, clock, called), done)

    def _follow_types(self) -> None:
        """Read the recording again where variables are declared as another kind than was read."""
        session = self._present
        odd: dict[str, ColumnKind] = {}
        for name, variable in session.project.all_variables().items():
            column = session.now.recorded.columns.get(name)
            if column is not None and column.kind != KIND_OF[variable.type] and name not in session.now.pins:
                odd[name] = KIND_OF[variable.type]
        if odd == self._tried:
            return
        self._tried = odd
        if odd and session.trace_name:
            listed = session.project.recording(session.trace_name)
            clock = Clock.of(listed) if listed is not None else UNSAID
            path = inside(session.folder, session.trace_name)
            try:
                trace = open_trace(path, session.project.all_variables(), clock)
            except AvrinError as error:
                session.said.emit(str(error), True)
                return
            session.show(trace, session.trace_name, session.frame)
