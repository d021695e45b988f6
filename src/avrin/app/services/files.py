"""The files: create, open and save projects, and recover edits after a crash."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started
from avrin.app.services.journaling import KEEP_AFTER, Journaling
from avrin.app.services.traces import READ_AT_ONCE, Traces, Unsure, timed_by
from avrin.binding.used_files import files_used
from avrin.editor.by_hand import drive_saved
from avrin.editor.changes import Change, StatePart
from avrin.editor.edits import edit, seal
from avrin.editor.opening import begin, follow_paths, saved_as
from avrin.editor.selecting import select_widget
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.onboarding.recordings import begun, listed_as
from avrin.project.project import Project, Recording
from avrin.storage.atomic import clear_leftovers
from avrin.storage.drafts import Draft, delete_draft, load_draft, new_draft, save_draft
from avrin.storage.files import inside, load, save
from avrin.storage.folders import cache_folder, folder_for, state_folder
from avrin.storage.journal import Unsaved, content_of, left_behind, saving
from avrin.storage.reading import plain_file
from avrin.storage.recent import add_recent
from avrin.storage.view_state import load_view_state
from avrin.trace.copying import beside, copy_file, files_of, free_place
from avrin.trace.frames import Trace
from avrin.trace.store import open_guessing, open_listed, save_trace

__all__ = ["Files"]

log = logging.getLogger(__name__)
# What users do to a project that they have opened.
TOUCHED: tuple[StatePart, ...] = (
    "opened", "project", "recording", "playhead", "playing", "selection", "view", "pins", "driving",
)  # fmt: skip
COPY_AT_ONCE = 64 * 2**20  # bytes copied synchronously


class Files(QObject):
    """Opens what the editor shows. jobs: reading recordings for a new project, and copying."""

    progressed = Signal(str)  # progress text of a long job

    def __init__(self, editor: Editor, traces: Traces) -> None:
        super().__init__(editor)
        self._editor = editor
        self._traces = traces
        self.jobs = Jobs(self, editor, "file")
        self.journaling = Journaling(editor)
        self._drafting = QTimer(self)
        self._drafting.setSingleShot(True)
        self._drafting.setInterval(KEEP_AFTER)
        self._drafting.timeout.connect(self._keep_draft)
        self.draft: Path | None = None  # the draft of a project without a file
        self._opened: Snapshot | None = None  # as the project was opened from its file
        editor.follow("drafts", self)
        self.journaling.edited_again.connect(self._keep_draft)
        self.progressed.connect(self._report_progress)

    def _report_progress(self, text: str) -> None:
        self._editor.say(text)

    # -- the project --------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Open a project and its first trace. Raises AvrinError, and then nothing has changed."""
        path = path.absolute()  # jobs may run in another folder
        for folder in (path.parent, state_folder() / "journals", cache_folder() / "traces"):
            clear_leftovers(folder)
        seen = content_of(path)
        project, warnings = load(path)
        left = [(file, one, made) for file, one in left_behind(path) if (made := one.opened()) != project]
        brought = left[0] if left and left[0][1].base == seen else None
        self._show_project(path, project, brought[2] if brought else None, {}, brought[1].recording if brought else "")
        self.draft = None
        self.journaling.begin(path, seen)
        QTimer.singleShot(0, lambda: add_recent(path))  # the start need not wait for it
        if brought:
            self._brought(brought[0])
            self._editor.say("Restored unsaved edits")
        self._offer(left[1:] if brought else left)
        self._tell([*warnings, *self._editor.now.bound.warnings.values()])
        self._opened = self._editor.now

    @property
    def untouched(self) -> bool:
        """Whether nothing was done since the project was opened from its file."""
        return self._opened is not None and self._editor.now.agrees(self._opened, TOUCHED)

    def _offer(self, recovered: Sequence[tuple[Path, Unsaved, Project]]) -> None:
        """Offer to restore or discard edits that belong to another state of the file, or to several windows."""
        if not recovered:
            return
        (journal, unsaved, project), *rest = recovered

        def bring() -> None:
            self._editor.do(seal)
            self._editor.do(edit, project, "recovered edits")
            self._brought(journal)
            self._offer(rest)

        def drop() -> None:
            journal.unlink(missing_ok=True)
            self._offer(rest)

        self.journaling.ask_about(unsaved, project, bring, drop)

    def _brought(self, journal: Path) -> None:
        """Delete a restored journal, once this window's own journal contains its edits."""
        self.journaling.keep()
        self.journaling.flush()
        journal.unlink(missing_ok=True)

    def open_draft(self, path: Path) -> None:
        """Open a project that was never saved. Raises AvrinError, and then nothing has changed."""
        draft = load_draft(path)
        self._show_project(None, Project(title=draft.project.title), draft.project, draft.elsewhere)
        self.draft = path
        if self.journaling.begin_draft(path):
            self.draft = new_draft(draft.project.title)
            self._editor.say("It is open in another window too: this is a copy")

    def begin_empty(self) -> None:
        """Create a project without recordings."""
        self._show_project(None, Project(), None, {})
        self.journaling.begin(None)
        self.draft = new_draft(self._editor.now.project.title)

    def begin_over(self, paths: Sequence[Path], done: Callable[[], None] = lambda: None) -> None:
        """Create a project over recordings with everything declared; large ones are read in the background.

        done: called when it is ready. Raises AvrinError if one cannot be read, and then nothing has changed.
        """
        names = listed_as([path.absolute() for path in paths])
        elsewhere = {name: path.absolute() for name, path in zip(names, paths, strict=True)}
        listed = [Recording(path=name) for name in names]

        def read() -> tuple[Project, Trace, Unsure]:
            found = [open_guessing(elsewhere[one.path]) for one in listed]
            timed = [(timed_by(one, choices), trace) for one, (trace, choices) in zip(listed, found, strict=True)]
            project, named = begun(timed)
            unsure = {one.key: choices for (one, _), (_, choices) in zip(timed, found, strict=True) if choices}
            return project, _renamed_trace(named[0], project.recording_name(listed[0].key)), unsure

        for path in paths:
            plain_file(path)
        size = sum(path.stat().st_size for path in paths)
        if size <= READ_AT_ONCE:
            self._begin_with(*read(), elsewhere)
            done()
            return

        def taken(result: tuple[Project, Trace, Unsure], _: Snapshot) -> None:
            self._begin_with(*result, elsewhere)
            self._editor.say(f"{paths[0].name}: {len(result[1]):,} frames")
            done()

        self.jobs.submit(
            self._traces.reading_job(f"Opening {paths[0].name}, {size / 1e6:,.0f} MB", lambda _: read()), taken
        )

    def _begin_with(self, project: Project, trace: Trace, unsure: Unsure, elsewhere: Mapping[str, Path]) -> None:
        """Show a new project over the first of its recordings; undo reverts the declarations."""
        first = project.traces[0]
        bare = Project(title=project.title, traces=tuple(replace(one, names={}) for one in project.traces))
        self._editor.do(begin, None, bare, project, trace, first.key, elsewhere, "declare all recorded variables")
        self._traces.is_read(first, trace)
        self.journaling.begin(None)
        self.draft = new_draft(first.title)
        self._editor.do(select_widget, "")
        self.keep_unsaved()
        self._traces.ask_about_time(unsure)

    def _show_project(
        self,
        path: Path | None,
        project: Project,
        unsaved: Project | None,
        elsewhere: Mapping[str, Path],
        recording: str = "",
    ) -> None:
        """recording: the key of the one to show; by default the first."""
        editor = self._editor
        whole = unsaved or project
        first = whole.recording(recording) or (whole.traces[0] if whole.traces else None)
        folder = path.parent if path is not None else Path.cwd()
        trace, wrong = None, ""
        try:
            trace = _read_at_once(folder, whole, first, elsewhere)
        except AvrinError as error:
            wrong = str(error)
        key = first.key if trace is not None and first is not None else ""
        layout = load_view_state(path) if path is not None else None
        editor.do(begin, path, project, unsaved, trace, key, elsewhere, layout=layout)
        self._traces.is_read(first, trace)
        if wrong:
            editor.say(wrong, error=True)
        elif first is not None and trace is None:
            try:
                self._traces.show(first.key)
            except AvrinError as error:
                editor.say(str(error), error=True)

    def _tell(self, warnings: list[str]) -> None:
        """Report warnings about the file: the first one, and how many more are in the log."""
        for warning in warnings:
            log.info("%s", warning)
        if warnings:
            more = f", and {len(warnings) - 1} more like it" if len(warnings) > 1 else ""
            self._editor.say(f"{warnings[0]}{more}")

    # -- saving -------------------------------------------------------------------------------------------------------

    def save(self, path: Path | None = None, done: Callable[[], None] = lambda: None) -> None:
        """Save the project and copy external recordings next to it; large ones in the background.

        done: called after saving. Raises AvrinError if that fails; nothing is lost.
        """
        editor = self._editor
        assert path is not None or editor.now.path is not None  # the window asks for a name first
        target = (path or editor.now.path or Path()).absolute()
        project, copies = self._gathered(target)
        size = sum(source.stat().st_size for source, _ in copies if source.exists())
        if size <= COPY_AT_ONCE:
            for source, to in copies:
                copy_file(source, to)
            self._saved(project, target)
            done()
            return

        def copy(started: Started) -> None:
            copied = 0

            def report_progress(more: int) -> None:
                nonlocal copied
                started.breathe()
                copied += more
                text = f"Copying recordings, {copied / size:.0%} …  Esc stops it"
                started.emit(lambda: self.progressed.emit(text))

            for source, to in copies:
                copy_file(source, to, report_progress)

        def copied(_: None, __: Snapshot) -> None:
            try:
                self._saved(project, target)
            except AvrinError as error:
                editor.say(str(error), error=True)
                return
            done()

        self.jobs.submit(copy, copied)

    def _gathered(self, target: Path) -> tuple[Project, list[tuple[Path, Path]]]:
        """Return the project as it will be saved, and the files to copy as (source, target)."""
        editor, copies = self._editor, []
        moved: dict[str, str] = {}
        folder, before = target.absolute().parent, editor.now.folder.absolute()
        for listed in {one.path: one for one in editor.now.project.traces}.values():
            source = editor.now.elsewhere.get(listed.path)
            if source is None:
                if editor.now.path is None or folder == before:
                    continue
                source = inside(before, listed.path)
            if source.resolve().is_relative_to(folder.resolve()):
                moved[listed.path] = source.resolve().relative_to(folder.resolve()).as_posix()
                continue
            to = moved[listed.path] = free_place(folder, listed.path, source)
            if not (folder / to).exists():
                copies += [(one, folder / to if one == source else beside(folder / to)) for one in files_of(source)]
        left = self._take_along(before, folder, copies)
        if left:
            editor.say(f"Not copied: {', '.join(left)}", error=True)
        taken = {to for own, to in moved.items() if own != to}
        traces = tuple(
            replace(one, path=moved.get(one.path, one.path)) if moved.get(one.path) in taken else one
            for one in editor.now.project.traces
        )
        return editor.now.project.with_traces(traces), copies

    def _take_along(self, before: Path, folder: Path, copies: list[tuple[Path, Path]]) -> list[str]:
        """Add plates, pictures and fonts to the files to copy to another folder; return names that are taken there."""
        if self._editor.now.path is None or folder == before:
            return []
        left = []
        for name in files_used(self._editor.now.bound):
            try:
                source, target = inside(before, name), inside(folder, name)
            except AvrinError:
                continue  # an installed font, or a path outside the folder: reported by the checks
            if not source.is_file():
                continue
            if not target.exists():
                copies.append((source, target))
            elif not _have_equal_content(source, target):
                left.append(name)
        return left

    def _saved(self, project: Project, target: Path) -> None:
        editor = self._editor
        before = editor.now.path
        if (project.title == "Untitled" and self.draft is not None) or (before and project.title == before.stem):
            project = replace(project, title=target.stem)
        with saving(target):
            self.journaling.check_before_saving(target)
            save(project, target)
        shown = editor.now.project.recording(editor.now.trace_name)
        if project != editor.now.project:
            # Edits made while recordings were copied may have added some.
            moved = {was.key: one for was, one in zip(editor.now.project.traces, project.traces, strict=False)}
            editor.do(edit, project, f"save as {target.name}")
            editor.do(follow_paths, {was: one.key for was, one in moved.items()})
            if shown is not None and shown.key in moved:
                self._traces.is_read(moved[shown.key], editor.now.recorded)
        self._drafting.stop()
        if self.draft is not None:
            delete_draft(self.draft)
            self.draft = None
        self.journaling.saved(target)
        editor.do(saved_as, target)
        add_recent(target)

    def keep_drive(self) -> str:
        """Save the drive in the project's folder, list it and return its path there. Raises AvrinError."""
        now = self._editor.now
        if now.path is None:
            raise AvrinError("the project has no folder yet", advice="Save it first")
        number = 1
        while now.project.recording(path := f"traces/by-hand-{number}.csv") or (now.folder / path).exists():
            number += 1
        save_trace(now.recorded, folder_for(inside(now.folder, path)))
        self._editor.do(drive_saved, path)
        return path

    def keep_unsaved(self) -> None:
        """Write unsaved edits where the next start finds them after a crash."""
        self._keep_draft()
        self.journaling.keep()
        self.journaling.flush()

    def _keep_draft(self) -> None:
        editor = self._editor
        if editor.now.path is None and self.draft is not None and editor.now.history.edited:
            try:
                save_draft(self.draft, Draft(editor.now.project, editor.now.elsewhere))
            except AvrinError as error:
                log.warning("a draft could not be kept: %s", error)
                self.journaling.report(f"this project {error.problem}. {error.advice}")
            else:
                self.journaling.report("")

    @property
    def would_lose(self) -> bool:
        """Whether there are edits that would be lost with the window."""
        return bool(self.journaling.failure) and self._editor.now.history.edited

    def forget_unsaved(self) -> None:
        """Delete the journal of edits the user discarded."""
        self._drafting.stop()
        self.journaling.forget()
        if self._editor.now.path is None and self.draft is not None:
            delete_draft(self.draft)

    def on_change(self, change: Change) -> None:
        """Schedule writing the draft of a project without a file."""
        if not change.of("opened") and self._editor.now.path is None and not self._drafting.isActive():
            self._drafting.start()


def _have_equal_content(first: Path, second: Path) -> bool:
    """Return whether two files have equal content; unreadable files are unequal."""
    try:
        return content_of(first) == content_of(second)
    except AvrinError:
        return False


def _renamed_trace(trace: Trace, name: str) -> Trace:
    """Return the trace with another name."""
    return Trace(name, trace.t, trace.run, trace.columns, trace.events, trace.clock)


def _read_at_once(
    folder: Path, project: Project, listed: Recording | None, elsewhere: Mapping[str, Path]
) -> Trace | None:
    """Return a recording if it is small enough to be read synchronously, else None."""
    if listed is None:
        return None
    path = elsewhere.get(listed.path) or inside(folder, listed.path)
    if path.exists() and path.stat().st_size > READ_AT_ONCE:
        return None
    return open_listed(path, project.all_variables(), listed, project.recording_name(listed.key))
