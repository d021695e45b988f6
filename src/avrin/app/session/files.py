"""Files of a session: its project, its recordings, and edits kept against a crash."""

from __future__ import annotations

import logging
import shutil
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.session.jobs import Jobs, Started
from avrin.app.session.present import Present
from avrin.app.session.recordings import read_alike
from avrin.app.session.snapshot import Snapshot
from avrin.model import (
    AvrinError,
    Draft,
    Project,
    Recording,
    dumps,
    folder_for,
    forget_draft,
    inside,
    keep_draft,
    load,
    load_draft,
    loads,
    new_draft,
    opened_now,
    plain_file,
    read_whole,
    rescue_file,
    save,
)
from avrin.trace import KIND_OF, ColumnKind, Plan, Trace, open_listed, open_trace, save_trace

__all__ = ["Files"]

log = logging.getLogger(__name__)
KEEP_AFTER = 500  # milliseconds until an edit is kept against a crash
READ_AT_ONCE = 6_000_000  # bytes of a recording that is read while the window waits
COPY_AT_ONCE = 64 * 2**20  # bytes that are copied while the window waits
COPIED = 8 * 2**20  # bytes from one word of progress to the next
MOST_RESCUED = 64 * 2**20  # bytes


class Files(QObject):
    """Belongs to a session, which shows what is opened here. jobs: reading and making recordings."""

    progressed = Signal(str)  # how far a long work has come

    def __init__(self, present: Present) -> None:
        super().__init__(present)
        self._present = present
        self.jobs = Jobs(self, present, "file")
        self._keeping = QTimer(self)
        self._keeping.setSingleShot(True)
        self._keeping.timeout.connect(self.keep_unsaved)
        self._read_as: tuple[str, Recording, dict[str, ColumnKind]] | None = None
        self.draft: Path | None = None  # where a project without a file is kept
        present.edited.connect(self._edited)
        self.progressed.connect(lambda text: present.said.emit(text, False))

    # -- the project --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open a project and its first trace. Raises AvrinError, and then nothing has changed."""
        project, warnings = load(path)
        unsaved = self._unsaved(path)
        brought = unsaved is not None and unsaved != project
        self._show_project(path, project, unsaved if brought else None, {})
        self.draft = None
        QTimer.singleShot(0, lambda: opened_now(path))  # no start waits for it
        if brought:
            self._present.said.emit("Brought back edits that had not been saved", False)
        self._tell([*warnings, *self._present.bound.warnings.values()])
        self._present.untouched = True

    def open_draft(self, path: Path) -> None:
        """Open a project that was never saved. Raises AvrinError, and then nothing has changed."""
        draft = load_draft(path)
        self._show_project(None, Project(title=draft.project.title), draft.project, draft.elsewhere)
        self.draft = path

    def begin_empty(self) -> None:
        """Begin a project without recordings."""
        self._show_project(None, Project(), None, {})
        self.draft = new_draft()

    def begin_over(self, paths: Sequence[Path], done: Callable[[], None] = lambda: None) -> None:
        """Begin a project over recordings, everything in them declared; read in the background where that takes long.

        done: called once it is there. Raises AvrinError where one cannot be read, and then nothing has changed.
        """
        from avrin.begin import listed_as

        names = listed_as([path.absolute() for path in paths])
        elsewhere = {name: path.absolute() for name, path in zip(names, paths, strict=True)}
        listed = [Recording(path=name) for name in names]

        def read() -> list[Trace]:
            return [open_trace(elsewhere[one.path]) for one in listed]

        def begun(traces: list[Trace]) -> None:
            self._begin_with(listed, traces, elsewhere)
            done()

        for path in paths:
            plain_file(path)
        size = sum(path.stat().st_size for path in paths)
        if size <= READ_AT_ONCE:
            begun(read())
            return
        self._present.said.emit(f"Opening {paths[0].name}, {size / 1e6:,.0f} MB …  Esc stops it", False)
        self.jobs.ask(lambda _: read(), lambda traces, _: begun(traces))

    def _begin_with(self, listed: list[Recording], traces: list[Trace], elsewhere: Mapping[str, Path]) -> None:
        from avrin.begin import begun

        project, named = begun(list(zip(listed, traces, strict=True)))
        first = project.traces[0]
        trace = replace_name(named[0], project.called(first.key))
        bare = Project(title=project.title, traces=tuple(Recording(path=one.path) for one in project.traces))
        self._present.begin(None, bare, project, trace, first.key, elsewhere, "declaration of all that was recorded")
        self._read_as = (first.key, first, self._odd_kinds(trace))
        self.draft = new_draft()
        self._present.select_widget("")
        self._present.view_changed.emit()
        self._present.state_changed.emit()
        self.keep_unsaved()

    def _show_project(
        self, path: Path | None, project: Project, unsaved: Project | None, elsewhere: Mapping[str, Path]
    ) -> None:
        session = self._present
        whole = unsaved or project
        first = whole.traces[0] if whole.traces else None
        folder = path.parent if path is not None else Path.cwd()
        trace, wrong = None, ""
        try:
            trace = _read_at_once(folder, whole, first, elsewhere)
        except AvrinError as error:
            wrong = str(error)
        session.begin(path, project, unsaved, trace, first.key if trace is not None and first else "", elsewhere)
        self._read_as = (first.key, first, {}) if trace is not None and first is not None else None
        if wrong:
            session.said.emit(wrong, True)
        elif first is not None and trace is None:
            try:
                self.show_trace(first.key)
            except AvrinError as error:
                session.said.emit(str(error), True)
        session.view_changed.emit()
        session.state_changed.emit()

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

    # -- saving -------------------------------------------------------------------------------------------------------

    def save(self, path: Path | None = None, done: Callable[[], None] = lambda: None) -> None:
        """Write the project, and copy recordings that lie elsewhere beside it; in the background where that takes long.

        done: called once it is written. Raises AvrinError when it cannot be written, and then nothing is lost.
        """
        session = self._present
        target = path or session.path
        assert target is not None  # the window asks for a name first
        project, copies = self._gathered(target)
        size = sum(source.stat().st_size for source, _ in copies if source.exists())
        if size <= COPY_AT_ONCE:
            for source, to in copies:
                _copy(source, to, lambda _: None)
            self._saved(project, target)
            done()
            return

        def copy(started: Started) -> None:
            copied = 0

            def told(more: int) -> None:
                nonlocal copied
                started.breathe()
                copied += more
                self.progressed.emit(f"Copying recordings, {copied / size:.0%} …  Esc stops it")

            for source, to in copies:
                _copy(source, to, told)

        def copied(_: None, __: Snapshot) -> None:
            try:
                self._saved(project, target)
            except AvrinError as error:
                session.said.emit(str(error), True)
                return
            done()

        self.jobs.ask(copy, copied)

    def _gathered(self, target: Path) -> tuple[Project, list[tuple[Path, Path]]]:
        """The project as it will lie in a file, and which files have to be copied for that, from and to."""
        session, copies = self._present, []
        moved: dict[str, str] = {}
        folder, before = target.absolute().parent, session.folder.absolute()
        for listed in {one.path: one for one in session.project.traces}.values():
            source = session.now.elsewhere.get(listed.path)
            if source is None:
                if session.path is None or folder == before:
                    continue
                source = inside(before, listed.path)
            if source.resolve().is_relative_to(folder.resolve()):
                moved[listed.path] = source.resolve().relative_to(folder.resolve()).as_posix()
                continue
            to = moved[listed.path] = _free_place(folder, listed.path, source)
            if not (folder / to).exists():
                copies += [(one, folder / to if one == source else _beside(folder / to)) for one in _files_of(source)]
        taken = {to for own, to in moved.items() if own != to}
        traces = tuple(
            replace(one, path=moved.get(one.path, one.path)) if moved.get(one.path) in taken else one
            for one in session.project.traces
        )
        return replace(session.project, traces=traces), copies

    def _saved(self, project: Project, target: Path) -> None:
        session = self._present
        if project.title == "Untitled" and self.draft is not None:
            project = replace(project, title=target.stem)
        save(project, target)
        shown = session.project.recording(session.trace_name)
        if project != session.project:
            at = session.project.traces.index(shown) if shown is not None else -1
            session.edit(project, f"save as {target.name}")
            if at >= 0:
                session.named(project.traces[at].key)
                self._read_as = (project.traces[at].key, project.traces[at], self._odd_kinds(session.now.recorded))
        self._keeping.stop()
        for path in (target, session.path):
            if path is not None:
                rescue_file(path).unlink(missing_ok=True)
        if self.draft is not None:
            forget_draft(self.draft)
            self.draft = None
        session.saved_as(target)
        opened_now(target)

    def keep_unsaved(self) -> None:
        """Put unsaved edits where the next start finds them, should this one end badly."""
        session = self._present
        if not session.history.edited:
            return
        try:
            if session.path is not None:
                folder_for(rescue_file(session.path)).write_text(dumps(session.project), encoding="utf-8")
            elif self.draft is not None:
                keep_draft(self.draft, Draft(session.project, session.now.elsewhere))
        except (AvrinError, OSError) as error:
            log.warning("unsaved edits could not be kept: %s", error)

    def forget_unsaved(self) -> None:
        """Edits the user let go need no keeping."""
        self._keeping.stop()
        if self._present.path is not None:
            rescue_file(self._present.path).unlink(missing_ok=True)
        elif self.draft is not None:
            forget_draft(self.draft)

    def _edited(self) -> None:
        """An edit was made: keep it before long, and read the recording as it is listed and declared now."""
        if not self._keeping.isActive():
            self._keeping.start(KEEP_AFTER)
        self._follow_listing()

    # -- recordings ---------------------------------------------------------------------------------------------------

    def show_trace(self, key: str, listed: Recording | None = None) -> None:
        """Look at one of the project's traces. Raises AvrinError when it cannot be read.

        listed: what is said of it, where that is not what the project says.
        """
        found = listed or self._present.project.recording(key) or Recording(path=key)
        self._load(self._present.now.where(found), found)

    def add_trace(self, path: Path) -> None:
        """Add a recording, and look at it.

        One from outside the project's folder is copied there, or waits for the first saving. Raises AvrinError.
        """
        self.add_traces([path])

    def add_traces(self, paths: Sequence[Path]) -> None:
        """Add recordings, and look at the first; everything new in them is declared. One undo step. Raises AvrinError."""
        from avrin.begin import listed_as

        session = self._present
        folder = session.folder.resolve()
        for path in paths:
            plain_file(path)
        inner: dict[str, Path] = {}
        outer: list[Path] = []
        for path in paths:
            if session.path is not None and path.resolve().is_relative_to(folder):
                inner[path.resolve().relative_to(folder).as_posix()] = path
            else:
                outer.append(path.absolute())
        known = {one.path for one in session.project.traces}
        again = {file: name for name, file in session.now.elsewhere.items()}
        fresh = [path for path in outer if path not in again]
        names = listed_as(fresh, [*known, *inner, *self._taken(fresh)])
        lent = dict(zip(names, fresh, strict=True))
        if session.path is not None:
            for name, file in lent.items():
                for one in _files_of(file):
                    to = folder / name
                    _copy(one, to if one == file else _beside(to), lambda _: None)
        files = {**inner, **lent, **{again[path]: path for path in outer if path in again}}
        size = sum(file.stat().st_size for file in files.values())
        wanted = [name for name in files if name not in known]

        def read() -> list[Trace]:
            return [open_trace(files[name]) for name in wanted]

        def take(traces: list[Trace]) -> None:
            for name in lent if session.path is None else ():
                session.lies_elsewhere(name, lent[name])
            self._take_in(wanted, traces, next(iter(files)))

        if size <= READ_AT_ONCE:
            take(read())
        else:
            session.said.emit(f"Opening {next(iter(files.values())).name} …  Esc stops it", False)
            self.jobs.ask(lambda _: read(), lambda traces, _: take(traces))

    def _taken(self, fresh: Sequence[Path]) -> list[str]:
        """Names in the project's folder that files have which are not those to be added."""
        if self._present.path is None:
            return []
        folder = self._present.folder / "traces"
        return [f"traces/{one.name}" for one in folder.iterdir()] if fresh and folder.is_dir() else []

    def _take_in(self, names: list[str], traces: list[Trace], shown: str) -> None:
        from avrin.begin import taken_in

        project = self._present.project
        for name, trace in zip(names, traces, strict=True):
            project, _ = taken_in(project, Recording(path=name), trace)
        if project != self._present.project:
            label = f"add {Path(names[0]).stem}" if len(names) == 1 else f"add {len(names)} recordings"
            self._present.edit(project, label)
        self.show_trace(shown)

    def say(self, key: str, **changes: object) -> None:
        """Say something else of a recording: how it tells the time, what tells runs apart. One undo step.

        It is read so, and kept if it can be read so. Raises AvrinError, and then nothing has changed.
        """
        session = self._present
        listed = session.project.recording(key)
        if listed is None:
            return
        changed = replace(listed, **changes)
        declared = session.project.all_variables()
        trace = open_listed(session.now.where(changed), declared, changed, session.project.called(changed.key))
        traces = tuple(changed if one.key == key else one for one in session.project.traces)
        project = replace(session.project, traces=traces)
        if session.project.variables and all(v.guessed for v in session.project.variables):
            project = self._as_recorded(project, trace)
        self._read_as = (changed.key, changed, {})
        session.show(trace, changed.key)
        session.edit(project, f"what is said of {listed.title}")
        session.view_changed.emit()

    def _as_recorded(self, project: Project, trace: Trace) -> Project:
        """What was only guessed follows the recording: what is a column no longer goes, what is one now is declared."""
        from avrin.widgets import all_declared

        used = {name for w in self._present.bound.widgets.values() for step in w.steps() for name in step.sources()}
        kept = tuple(v for v in project.variables if v.name in trace.columns or v.name in used or not v.guessed)
        return all_declared(replace(project, variables=kept), trace)

    def without_trace(self, key: str) -> None:
        """Take a recording off the project's list; its file stays where it is. One undo step."""
        session = self._present
        listed = session.project.recording(key)
        if listed is None:
            return
        rest = tuple(one for one in session.project.traces if one.key != key)
        session.edit(replace(session.project, traces=rest), f"removal of {listed.title}")
        if session.trace_name == key:
            if rest:
                self.show_trace(rest[0].key)
            else:
                session.show(None, "")

    def found_at(self, key: str, file: Path) -> None:
        """A recording whose file was missing lies there. Raises AvrinError where it cannot be read."""
        session = self._present
        listed = session.project.recording(key)
        if listed is None:
            return
        plain_file(file)
        if session.path is None:
            session.lies_elsewhere(listed.path, file.absolute())
        else:
            _copy(file, folder_for(inside(session.folder, listed.path)), lambda _: None)
        self.show_trace(key)

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
            self._show(found, Recording(path=name))
            recording = Recording(path=name, note="made: ramps, steps, jumps, a restart, random walks")
            self._present.edit(
                replace(self._present.project, traces=(*self._present.project.traces, recording)), f"make {target.stem}"
            )
            self._present.said.emit(f"Made {name}: {len(found):,} frames", False)

        self.jobs.ask(make, done)

    def _load(self, path: Path, listed: Recording) -> None:
        """Look at a recording, read in the background where that takes long. Raises AvrinError when it cannot be read."""
        declared = self._present.project.all_variables()
        name = self._present.project.called(listed.key)
        if not path.exists() or path.stat().st_size <= READ_AT_ONCE:
            self._show(open_listed(path, declared, listed, name), listed)
            return
        self._present.said.emit(f"Opening {path.name} …", False)
        if not self._present.trace_name and not self._present.now.growing:
            self._present.show(None, "")  # nothing yet of a project that was just opened

        def done(found: Trace, _: Snapshot) -> None:
            self._show(found, listed)
            self._present.said.emit(f"{path.name}: {len(found):,} frames", False)

        self.jobs.ask(lambda _: open_listed(path, declared, listed, name), done)

    def _show(self, trace: Trace, listed: Recording, frame: int = 0) -> None:
        self._read_as = (listed.key, listed, self._odd_kinds(trace))
        self._present.show(trace, listed.key, frame)

    def _odd_kinds(self, trace: Trace) -> dict[str, ColumnKind]:
        """Variables declared as another kind than a trace has them."""
        odd: dict[str, ColumnKind] = {}
        for name, variable in self._present.project.all_variables().items():
            column = trace.columns.get(name)
            if column is not None and column.kind != KIND_OF[variable.type] and name not in self._present.now.pins:
                odd[name] = KIND_OF[variable.type]
        return odd

    def _follow_listing(self) -> None:
        """Read the recording again where it is listed, or its variables are declared, otherwise than it was read."""
        session = self._present
        listed = session.project.recording(session.trace_name)
        if listed is None or self._read_as is None or session.now.growing:
            return
        key, before, tried = self._read_as
        odd = self._odd_kinds(session.now.recorded)
        if key == listed.key and read_alike(before, listed) and odd == tried:
            return
        self._read_as = (listed.key, listed, odd)
        try:
            trace = open_listed(
                session.now.where(listed), session.project.all_variables(), listed, session.project.called(listed.key)
            )
        except AvrinError as error:
            session.said.emit(str(error), True)
            return
        same_clock = len(trace) == len(session.trace)
        session.show(trace, listed.key, session.frame if same_clock else 0)


def replace_name(trace: Trace, name: str) -> Trace:
    """The trace, called otherwise."""
    return Trace(name, trace.t, trace.run, trace.columns, trace.events, trace.clock)


def _read_at_once(
    folder: Path, project: Project, listed: Recording | None, elsewhere: Mapping[str, Path]
) -> Trace | None:
    """A recording that is read while the window waits; None where there is none, or where it takes longer."""
    if listed is None:
        return None
    path = elsewhere.get(listed.path) or inside(folder, listed.path)
    if path.exists() and path.stat().st_size > READ_AT_ONCE:
        return None
    return open_listed(path, project.all_variables(), listed, project.called(listed.key))


def _files_of(recording: Path) -> list[Path]:
    """A recording's file, and the events beside it."""
    events = _beside(recording)
    return [recording, events] if events != recording and events.exists() else [recording]


def _beside(recording: Path) -> Path:
    return recording.with_name(f"{recording.stem}.events.jsonl")


def _free_place(folder: Path, wanted: str, source: Path) -> str:
    """Where a copy may lie: as wanted, where nothing else lies, or what lies there is the same file already."""
    pure, number, name = Path(wanted), 2, wanted
    while (there := folder / name).exists() and not _same(there, source):
        name, number = (pure.parent / f"{pure.stem}-{number}{pure.suffix}").as_posix(), number + 1
    return name


def _same(one: Path, other: Path) -> bool:
    known, its = one.stat(), other.stat()
    return known.st_size == its.st_size and (known.st_ino == its.st_ino or int(known.st_mtime) == int(its.st_mtime))


def _copy(source: Path, target: Path, told: Callable[[int], None]) -> None:
    """Copy a file, whole or not at all. told: hears of bytes that were copied. Raises AvrinError."""
    begun = folder_for(target).with_name(f".{target.name}.part")
    try:
        with source.open("rb") as reading, begun.open("wb") as writing:
            while block := reading.read(COPIED):
                writing.write(block)
                told(len(block))
        shutil.copystat(source, begun)
        begun.replace(target)
    except OSError as error:
        why = (error.strerror or str(error)).lower()
        raise AvrinError(
            f"cannot be copied into the project's folder ({why})", place=(source.name,), advice="Choose another folder"
        ) from None
    finally:
        begun.unlink(missing_ok=True)
