"""A window's session without the window, told by lines on standard input what to do; each answer is a line of JSON.

`trust.py` starts and kills these. Words: open, edit TITLE, save, wait MILLISECONDS, answer CHOICE, full, room, values, quit.
"""

from __future__ import annotations

import hashlib
import json
import os
import resource
import signal
import sys
import time
from pathlib import Path
from typing import Any

from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication
from PySide6.QtWidgets import QApplication

from avrin.app.services.journaling import Ask
from avrin.app.services.workspace import Workspace
from avrin.errors import AvrinError

LITTLE = 2048  # bytes that a file may have on a disk without room


class Actor:
    """One session over one project."""

    def __init__(self, project: Path) -> None:
        self.app = QApplication([])
        self.project = project
        self.said: list[str] = []
        self.asks: dict[str, Ask] = {}
        self.workspace = Workspace()
        self.editor = self.workspace.editor
        self.editor.changed.connect(self._hear)
        keeping = self.workspace.files.journaling
        keeping.asked.connect(lambda ask: self.asks.__setitem__(ask.key, ask))
        keeping.answered.connect(lambda key: self.asks.pop(key, None))

    def _hear(self, change: Change) -> None:
        if change.of("message"):
            self.said.append(self.editor.now.message.text)

    def do(self, word: str, rest: str) -> None:
        editor = self.editor
        match word:
            case "open":
                self.workspace.files.open(self.project)
            case "edit":
                editor.do(seal)
                editor.do(edit, replace(editor.now.project, title=rest), "edit")
            case "save":
                self.workspace.files.save()
            case "wait":
                until = time.monotonic() + int(rest) / 1000
                while time.monotonic() < until:
                    QCoreApplication.processEvents()
                    time.sleep(0.01)
            case "answer":
                for ask in [*self.asks.values()]:
                    for choice, does in ask.choices:
                        if choice == rest:
                            does()
            case "full" | "room":
                most = LITTLE if word == "full" else resource.RLIM_INFINITY
                resource.setrlimit(resource.RLIMIT_FSIZE, (most, resource.RLIM_INFINITY))
            case "values":
                self.workspace.wait()
            case "quit":
                self.workspace.close()

    def told(self) -> dict[str, Any]:
        """What there is now, and what was said since it was last asked."""
        said, self.said = self.said, []
        editor = self.editor
        trace = editor.now.trace
        data = b"".join(column.data.tobytes() for column in trace.columns.values())
        return {
            "title": editor.now.project.title, "edited": editor.now.history.edited, "said": said,
            "seen": self.workspace.files.journaling.seen,
            "asks": {key: [ask.text, [choice for choice, _ in ask.choices]] for key, ask in self.asks.items()},
            "values": hashlib.sha256(data).hexdigest(), "recording": editor.now.trace_name,
            "looking": self.workspace.files.journaling.read_only,
        }  # fmt: skip


def main() -> None:
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    actor = Actor(Path(sys.argv[1]))
    for line in sys.stdin:
        word, _, rest = line.rstrip("\n").partition(" ")
        wrong = ""
        try:
            actor.do(word, rest)
        except AvrinError as error:
            wrong = str(error)
        print(json.dumps({"wrong": wrong, **actor.told()}), flush=True)
        if word == "quit":
            return


if __name__ == "__main__":
    main()
