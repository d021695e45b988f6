"""Protect the user's work: journal unsaved edits, and watch the project's file and other windows that have it open."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.editor.edits import edit, mark_saved, seal
from avrin.editor.opening import set_access
from avrin.errors import AvrinError
from avrin.project.change_summary import change_summary
from avrin.project.project import Project
from avrin.storage.files import load
from avrin.storage.journal import Journal, Unsaved, content_of

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

__all__ = ["KEEP_AFTER", "Ask", "Journaling"]

log = logging.getLogger(__name__)
KEEP_AFTER = 500  # milliseconds until an edit is written to the journal
LOOK_EVERY = 1000  # milliseconds between two checks of the file and of other windows
CHANGED, ELSEWHERE, LEFT, UNKEPT, LOSING = "changed", "elsewhere", "left", "unkept", "losing"
OWN_SIZE = "size of the first plate"


class Ask(Struct, frozen=True):
    """A question to the user. key: its kind; there is at most one of each."""

    key: str
    text: str
    choices: tuple[tuple[str, Callable[[], None]], ...] = ()


class Journaling(QObject):
    """Watches the open project. seen: the digest of its file when last read or written here.

    read_only: another window has the project open, so this one does not write it.
    failure: why the last attempt to write the journal failed, or ""; the user is asked about it until one succeeds.
    """

    asked = Signal(object)  # an Ask
    answered = Signal(str)  # the key of a question that needs no answer any more
    edited_again = Signal()  # a draft must be written again
    _written = Signal()

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self.journal = Journal()
        self.seen = ""
        self._stat: object = None
        self.failure = ""
        self._writer: ThreadPoolExecutor | None = None
        self._last: Future[None] | None = None
        self._keeping = QTimer(self)
        self._keeping.setSingleShot(True)
        self._keeping.setInterval(KEEP_AFTER)
        self._keeping.timeout.connect(self.keep)
        self._watch = QTimer(self)
        self._watch.setInterval(LOOK_EVERY)
        self._watch.timeout.connect(self.look)
        self._written.connect(self.look_at_writing)
        editor.follow("journal", self)

    # -- a project is open --------------------------------------------------------------------------------------------

    def begin(self, path: Path | None, seen: str = "") -> None:
        """Watch a project. seen: the digest of its file when it was read."""
        for key in (CHANGED, ELSEWHERE, LEFT, UNKEPT, LOSING, OWN_SIZE):
            self.answered.emit(key)
        self.flush()
        self.journal.begin(path)
        self.seen, self._stat, self.failure, self._last = seen, _stat(path), "", None
        self._look_only(bool(self.journal.others()))
        if self.read_only:
            self._ask_elsewhere("This project is open in another window, too")
        if path is not None:
            self._watch.start()
        else:
            self._watch.stop()

    def begin_draft(self, draft: Path) -> bool:
        """Watch a project without a file, saved as a draft. Return whether another window has it open too."""
        self.begin(None)
        self.journal.begin(draft)
        return bool(self.journal.others())

    def saved(self, path: Path) -> None:
        """Note that the project was saved; after a Save as, the previous file is left as last saved."""
        self._keeping.stop()
        if self._editor.now.path != path:
            self._submit(self.journal.forgetting())
            self.begin(path)
        self.seen, self._stat = content_of(path), _stat(path)
        self._submit(self.journal.forgetting())
        self.answered.emit(CHANGED)

    def check_before_saving(self, target: Path) -> None:
        """Check that saving overwrites no unseen change. Raises AvrinError, and asks the user."""
        path = self._editor.now.path
        try:
            now = content_of(target)
        except AvrinError as error:
            raise AvrinError(
                f"cannot be overwritten: it {error.problem}", place=(target.name,), advice="Save under another name"
            ) from None
        if path is None or target.resolve() != path.resolve():
            return
        if self.read_only:
            raise AvrinError(
                "is open in another window, too", place=(path.name,), advice="Take it over above, or save under another name"
            )  # fmt: skip
        if now and now != self.seen:
            self._changed(path, now, saving=True)
            raise AvrinError(
                "was changed by another program since it was read", place=(path.name,), advice="Choose above"
            )

    def close(self) -> None:
        """Stop watching. The next start finds unsaved edits."""
        self._watch.stop()
        self.keep()
        self.flush()
        self.journal.close()
        if self._writer is not None:
            self._writer.shutdown()
            self._writer = None

    # -- the journal --------------------------------------------------------------------------------------------------

    @property
    def read_only(self) -> bool:
        """Whether another window has the project open, so that this one does not write it."""
        return self._editor.now.read_only

    @property
    def waits(self) -> bool:
        """Whether an edit is not written yet."""
        return self._keeping.isActive() or (self._last is not None and not self._last.done())

    def on_change(self, change: Change) -> None:
        """Write the edit after a pause."""
        if not change.of("opened") and not self._keeping.isActive():
            self._keeping.start()

    def keep(self) -> None:
        """Write unsaved edits on a worker thread, or delete the journal if everything is saved."""
        self._keeping.stop()
        editor = self._editor
        if editor.now.path is None:
            return
        if editor.now.history.edited:
            self._submit(self.journal.keeping(editor.now.project, self.seen, editor.now.trace_name))
        else:
            self._submit(self.journal.forgetting())

    def forget(self) -> None:
        """Delete the journal of discarded edits."""
        self._keeping.stop()
        self._submit(self.journal.forgetting())
        self.flush()

    def flush(self) -> None:
        """Wait until the journal is written or has failed (`failure`)."""
        if self._last is not None:
            self._last.exception()
            self.look_at_writing()

    def _submit(self, work: Callable[[], None]) -> None:
        if self._writer is None:
            from concurrent.futures import ThreadPoolExecutor  # late: 3 ms

            self._writer = ThreadPoolExecutor(1, "journal")
        self._last = self._writer.submit(work)
        self._last.add_done_callback(self._done)

    def _done(self, future: Future[None]) -> None:
        """Handle the writer's result on its thread."""
        if (error := future.exception()) is not None:
            log.warning("unsaved edits could not be kept: %s", error)
        with contextlib.suppress(RuntimeError):  # the window was closed meanwhile
            self._written.emit()

    def look_at_writing(self) -> None:
        """Report whether the latest write succeeded."""
        if self._last is not None and self._last.done():
            error = self._last.exception()
            self.report("" if error is None else str(error))

    def report(self, failure: str) -> None:
        """Report that unsaved edits cannot be written, until they can. failure: the reason; "" for success."""
        if failure == self.failure:
            return
        self.failure = failure
        if not failure:
            self.answered.emit(UNKEPT)
            self.answered.emit(LOSING)
            return
        text = failure[:1].upper() + failure[1:]
        self.asked.emit(
            Ask(UNKEPT, f"{text}. They would be lost if the program ended", (("try again", self.try_again),))
        )

    def try_again(self) -> None:
        """Write unsaved edits even after a failure."""
        self.edited_again.emit()
        self.keep()

    def ask_before_losing(self, what: str, anyway: str, save: Callable[[], None], lose: Callable[[], None]) -> None:
        """Ask before edits that could not be written are lost. what: the action about to happen. anyway: its button's text."""

        def answer(does: Callable[[], None]) -> None:
            self.answered.emit(LOSING)
            does()

        text = f"{what} now loses unsaved edits: {self.failure}"
        choices = (("save", partial(answer, save)), (anyway, partial(answer, lose)))
        self.asked.emit(Ask(LOSING, text, choices))

    # -- what was left behind -----------------------------------------------------------------------------------------

    def ask_about(
        self, unsaved: Unsaved, project: Project, bring: Callable[[], None], drop: Callable[[], None]
    ) -> None:
        """Ask about recovered edits that belong to another state of the file."""
        when = datetime.fromtimestamp(unsaved.when).astimezone().strftime("%d %B, %H:%M")
        what = change_summary(self._editor.now.project, project)
        since = "" if unsaved.base == self.seen else ", and the file has changed since"
        text = f"Edits of {when} were not saved{since}: {what or 'no differences'}"

        def answer(does: Callable[[], None]) -> None:
            self.answered.emit(LEFT)
            does()

        self.asked.emit(
            Ask(LEFT, text, (("restore them", lambda: answer(bring)), ("discard them", lambda: answer(drop))))
        )

    # -- the file, and other windows ----------------------------------------------------------------------------------

    def look(self) -> None:
        """Check whether the file changed, and whether another window took the project over or closed."""
        path = self._editor.now.path
        if path is None:
            return
        if self.journal.taken:
            self._look_only(True)
            self._ask_elsewhere("Another window has taken over this project; your edits here are safe")
        elif self.read_only and not self.journal.others():
            self._look_only(False)
            self.answered.emit(ELSEWHERE)
        now = _stat(path)
        if now != self._stat:
            self._stat = now
            try:
                content = content_of(path)
            except AvrinError as error:
                why = error.problem
                self.asked.emit(Ask(CHANGED, f"{path.name} cannot be read now, and is not overwritten: it {why}"))
                return
            if content and content != self.seen:
                self._changed(path, content)
            elif now is None:
                self.asked.emit(Ask(CHANGED, f"{path.name} was deleted; saving creates it again"))
            else:
                self.answered.emit(CHANGED)

    def _look_only(self, looking: bool) -> None:
        """Set whether another window writes the project."""
        if looking != self.read_only:
            self._editor.do(set_access, read_only=looking)

    def _changed(self, path: Path, content: str, *, saving: bool = False) -> None:
        """Handle a file content that was not seen here."""
        editor = self._editor
        try:
            theirs, _ = load(path)
        except AvrinError as error:
            choices = (("keep mine", lambda: self._keep_mine(content)),)
            self.asked.emit(
                Ask(
                    CHANGED,
                    f"{path.name} was changed by another program and cannot be read now: {error.problem}",
                    choices,
                )
            )
            return
        what = change_summary(editor.now.project, theirs)
        if not editor.now.history.edited and not saving:
            self._take(theirs, content)
            editor.say(f"{path.name} was changed by another program: {what or 'no visible change'}.  Ctrl+Z restores")
            return
        if not what:
            self._take(theirs, content)
            return
        text = f"{path.name} was changed by another program and differs from your edits: {what}"
        self.asked.emit(
            Ask(CHANGED, text, (
                ("take theirs", lambda: self._take(theirs, content)), ("keep mine", lambda: self._keep_mine(content)),
            ))
        )  # fmt: skip

    def _take(self, theirs: Project, content: str) -> None:
        editor = self._editor
        editor.do(seal)
        editor.do(edit, theirs, "changes by another program")
        editor.do(seal)
        editor.do(mark_saved)
        self.seen = content
        self.answered.emit(CHANGED)
        self.keep()

    def _keep_mine(self, content: str) -> None:
        """Allow the next save to overwrite exactly this content."""
        self.seen = content
        self.answered.emit(CHANGED)
        self.keep()

    def _ask_elsewhere(self, text: str) -> None:
        self.asked.emit(
            Ask(ELSEWHERE, text, (
                ("view only", lambda: self.answered.emit(ELSEWHERE)), ("take it over", self._take_over),
            ))
        )  # fmt: skip

    def _take_over(self) -> None:
        """Take over writing from the other window; its unsaved edits become a step that can be undone."""
        unsaved = self.journal.take_over()
        self._look_only(False)
        self.answered.emit(ELSEWHERE)
        if unsaved is not None:
            self._editor.do(seal)
            self._editor.do(edit, unsaved.opened(), "the other window's edits")
            self._editor.say("Taken over, with the other window's unsaved edits.  Ctrl+Z removes them")


def _stat(path: Path | None) -> object:
    """Return a stamp that changes with a file."""
    try:
        told = path.stat() if path is not None else None
    except OSError:
        return None
    return (told.st_mtime_ns, told.st_size, told.st_ino) if told is not None else None
