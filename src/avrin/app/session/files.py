"""Files of a session: its project, its recordings, and edits kept against a crash."""

from __future__ import annotations

import logging
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from avrin.app.session.jobs import Work
from avrin.model import AvrinError, Project, Recording, dumps, inside, load, loads, replace, rescue_file, save
from avrin.trace import KIND_OF, UNSAID, Clock, ColumnKind, Plan, Trace, open_trace, save_trace

if TYPE_CHECKING:
    from avrin.app.session.session import Session

__all__ = ["Files"]

log = logging.getLogger(__name__)
KEEP_AFTER = 500  # milliseconds until an edit is kept against a crash
READ_AT_ONCE = 6_000_000  # bytes of a recording that is read while the window waits


class Files(QObject):
    """Belongs to a session, which shows what is opened here."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.work = Work(self)  # reading and making recordings
        self._keeping = QTimer(self)
        self._keeping.setSingleShot(True)
        self._keeping.timeout.connect(self.keep_unsaved)
        self._tried: dict[str, ColumnKind] = {}

    # -- the project --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open a project and its first trace. Raises AvrinError, and then nothing has changed."""
        session = self.session
        project, warnings = load(path)
        for warning in warnings:
            log.warning("%s: %s", path.name, warning)
        unsaved = self._unsaved(path)
        brought = unsaved is not None and unsaved != project
        session.begin(path, project, unsaved if brought else None)
        if brought:
            session.said.emit("Brought back edits that had not been saved", False)
        try:
            if project.traces:
                self.show_trace(project.traces[0].path)
            else:
                session.show(None, "")
        except AvrinError as error:
            session.said.emit(str(error), True)
            session.show(None, "")
        session.view_changed.emit()
        session.state_changed.emit()
        session.untouched = True

    @staticmethod
    def _unsaved(path: Path) -> Project | None:
        """Edits of an earlier session that were not saved and are newer than the file."""
        rescued = rescue_file(path)
        try:
            if rescued.exists() and rescued.stat().st_mtime > path.stat().st_mtime:
                return loads(rescued.read_bytes())[0]
        except (AvrinError, OSError) as error:
            log.warning("unsaved edits could not be read back: %s", error)
        return None

    def save(self, path: Path | None = None) -> None:
        """Write the project. Raises AvrinError when it cannot be written, and then nothing is lost."""
        target = path or self.session.path
        assert target is not None  # the window asks for a name first
        save(self.session.project, target)
        self._keeping.stop()
        rescue_file(target).unlink(missing_ok=True)
        if self.session.path is not None:
            rescue_file(self.session.path).unlink(missing_ok=True)
        self.session.path = target
        self.session.history.mark_saved()
        self.session.state_changed.emit()

    def keep_unsaved(self) -> None:
        """Put unsaved edits where the next start finds them, should this one end badly."""
        if self.session.path is None or not self.session.history.edited:
            return
        target = rescue_file(self.session.path)
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_text(dumps(self.session.project), encoding="utf-8")
        except OSError as error:
            log.warning("unsaved edits could not be kept: %s", error)

    def forget_unsaved(self) -> None:
        """Edits the user let go need no keeping."""
        self._keeping.stop()
        if self.session.path is not None:
            rescue_file(self.session.path).unlink(missing_ok=True)

    def edited(self) -> None:
        """An edit was made: keep it before long, and read what a variable's new type means for the recording."""
        if not self._keeping.isActive():
            self._keeping.start(KEEP_AFTER)
        self._follow_types()

    # -- recordings ---------------------------------------------------------------------------------------------------

    def show_trace(self, name: str, clock: Clock | None = None) -> None:
        """Look at one of the project's traces. Raises AvrinError when it cannot be read.

        clock: how it tells the time, where that is not what the project says.
        """
        listed = self.session.project.recording(name)
        if clock is None:
            clock = Clock.of(listed) if listed is not None else UNSAID
        self._load(inside(self.session.folder, name), name, clock)

    def add_trace(self, path: Path) -> None:
        """Load a recording, which must lie in the project's folder. Raises AvrinError."""
        try:
            name = path.resolve().relative_to(self.session.folder.resolve()).as_posix()
        except ValueError:
            raise AvrinError(
                "lies outside the project's folder",
                place=(path.name,),
                advice=f"Copy it into {self.session.folder} first",
            ) from None
        self._load(path, name, UNSAID)
        if self.session.project.recording(name) is None:
            self.session.edit(
                replace(self.session.project, traces=(*self.session.project.traces, Recording(path=name))),
                f"add {path.stem}",
            )

    def make_trace(self) -> None:
        """Make a trace that visits every threshold, and look at it; in the background, for it takes a while."""
        if self.session.path is None:
            raise AvrinError("the project has no folder yet", advice="Save it first")
        bound, number = self.session.bound, 1
        while (
            self.session.project.recording(name := f"traces/made-{number}.csv") or (self.session.folder / name).exists()
        ):
            number += 1
        target = inside(self.session.folder, name)
        self.session.said.emit("Making a trace that visits every threshold …", False)

        def job() -> Trace:
            from avrin.ladder import made_for

            trace = made_for(bound, Plan(), target.stem)
            target.parent.mkdir(exist_ok=True)
            save_trace(trace, target)
            return trace

        def done(found: Trace | AvrinError) -> None:
            if isinstance(found, AvrinError):
                self.session.said.emit(str(found), True)
                return
            self.session.show(found, name)
            recording = Recording(path=name, note="made: ramps, steps, jumps, a restart, random walks")
            self.session.edit(
                replace(self.session.project, traces=(*self.session.project.traces, recording)), f"make {target.stem}"
            )
            self.session.said.emit(f"Made {name}: {len(found):,} frames", False)

        self.work.ask(job, done)

    def _load(self, path: Path, name: str, clock: Clock) -> None:
        """Look at a recording, read in the background where that takes long. Raises AvrinError when it cannot be read."""
        declared = self.session.project.all_variables()
        if not path.exists() or path.stat().st_size <= READ_AT_ONCE:
            self.session.show(open_trace(path, declared, clock), name)
            return
        self.session.said.emit(f"Opening {path.name} …", False)
        if self.session.tracks.bound is not self.session.bound:
            self.session.show(None, "")  # what is shown meanwhile belongs to another project

        def done(found: Trace | AvrinError) -> None:
            if isinstance(found, AvrinError):
                self.session.said.emit(str(found), True)
            else:
                self.session.show(found, name)
                self.session.said.emit(f"{path.name}: {len(found):,} frames", False)

        self.work.ask(lambda: open_trace(path, declared, clock), done)

    def _follow_types(self) -> None:
        """Read the recording again where variables are declared as another kind than was read."""
        session = self.session
        odd: dict[str, ColumnKind] = {}
        for name, variable in session.project.all_variables().items():
            column = session.trace.columns.get(name)
            if column is not None and column.kind != KIND_OF[variable.type] and name not in session.hand.pins:
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
