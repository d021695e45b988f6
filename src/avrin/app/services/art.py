"""Watch the pictures and fonts a project draws with, and redraw everything when one changes on disk."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from avrin.app.services.editor import Editor
from avrin.binding.used_files import files_used
from avrin.editor.changes import Change
from avrin.editor.viewing import show_art_again
from avrin.errors import AvrinError
from avrin.render.artwork import picture_mark
from avrin.render.changed_files import drop_files
from avrin.storage.files import inside

__all__ = ["Art"]

DEBOUNCE_MS = 150  # after the last change on disk: programs write a file in several steps
LOOK_MS = 400  # after the last edit, until the files it names are watched
MAX_WATCHED = 500  # files

Mark = tuple[int, int] | None


class Art(QObject):
    """Watches files and their folders: most programs replace a file instead of writing into it."""

    changed = Signal()  # a file: what was drawn with it is to be dropped, before everything is drawn again

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self._marks: dict[Path, Mark] = {}
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._changed)
        self._watcher.directoryChanged.connect(self._changed)
        self._looking, self._waiting = (self._timer(act) for act in (self._look, self._compare))
        editor.follow("art", self)

    def _timer(self, act: object) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.timeout.connect(act)
        return timer

    def on_change(self, _change: Change) -> None:
        """Watch what the project names now."""
        self._looking.start(LOOK_MS)

    @property
    def watched(self) -> list[Path]:
        """The files that are watched, existing or not."""
        return list(self._marks)

    def _look(self) -> None:
        now = self._editor.now
        files: list[Path] = []
        for name in files_used(now.bound)[:MAX_WATCHED] if now.path is not None else ():
            try:
                files.append(inside(now.folder, name))
            except AvrinError:
                continue  # reported by the checks
        self._marks = {file: self._marks.get(file, picture_mark(str(file))) for file in files}
        wanted = {str(file) for file in files if file.is_file()} | {
            str(one) for one in {f.parent for f in files} if one.is_dir()
        }
        watched = {*self._watcher.files(), *self._watcher.directories()}
        if gone := watched - wanted:
            self._watcher.removePaths(sorted(gone))
        if new := wanted - watched:
            self._watcher.addPaths(sorted(new))

    def _changed(self, _path: str) -> None:
        self._waiting.start(DEBOUNCE_MS)

    def _compare(self) -> None:
        """Redraw if the stamp of a file has changed."""
        marks = {file: picture_mark(str(file)) for file in self._marks}
        differing = [file for file, mark in marks.items() if mark != self._marks[file]]
        self._marks = marks
        self._look()  # a replaced file is watched no more
        if not differing:
            return
        drop_files()
        self.changed.emit()
        self._editor.do(show_art_again)
        gone = [file.name for file in differing if marks[file] is None]
        if gone:
            self._editor.say(f"{', '.join(gone[:3])}: gone from the project's folder", error=True)
        else:
            names = ", ".join(file.name for file in differing[:3]) + (" …" if len(differing) > 3 else "")
            self._editor.say(f"{names} changed on disk and was reloaded")
