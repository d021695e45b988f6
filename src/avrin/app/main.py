"""Start the window. Internal errors never show the user a traceback: they are logged, and edits are preserved."""

from __future__ import annotations

import contextlib
import ctypes
import logging
import signal
import sys
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QToolTip

from avrin.app.controls.qt_log import quiet_toolkit
from avrin.app.window.start_picture import DESKTOP
from avrin.app.window.window import Window
from avrin.logs import log_file
from avrin.trace.formats import ENDINGS

M_ARENA_MAX = -8  # of `mallopt`, from the GNU C library's malloc.h

__all__ = ["application", "make_window", "run"]

log = logging.getLogger(__name__)


def application() -> QApplication:
    """Return the application, creating it on first use. `make_window` sets its style."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        _share_heap()
        app = QApplication(
            ["avrin", "-style", "Fusion"]
        )  # set by name, it would come back with every hint a style can be asked for
        app.setApplicationName("avrin")
        app.setOrganizationName("avrin")
        app.setApplicationDisplayName("Avrin")
        app.setDesktopFileName("avrin")
        # Dark or light: asking Qt for the colour scheme loads all its translations, a sixth of an empty window's start.
        app.setProperty(DESKTOP, app.palette().window().color().rgb())
    return app


def _share_heap() -> None:
    """Make all threads allocate from one heap.

    The GNU library gives each thread a heap of its own and keeps it after the thread ends. Decoders and jobs come and go
    with every project: after ten of them, 300 MB would be held by unused heaps.
    """
    with contextlib.suppress(OSError, AttributeError):  # another C library
        ctypes.CDLL(None).mallopt(M_ARENA_MAX, 1)


def _dress(app: QApplication) -> None:
    from avrin.app.controls.theme import font, palette  # late: 8 ms, after the kept picture

    app.setPalette(palette())
    app.setFont(font())
    QToolTip.setPalette(palette())
    QToolTip.setFont(font())


def make_window(*paths: Path) -> Window:
    """Return a window with a project open, or a new one over recordings; without paths, on its first page.

    A project's last picture is shown at once if it is cached, while the project loads. Raises AvrinError if
    something cannot be opened.
    """
    app = application()
    window = Window()
    project = paths[0] if len(paths) == 1 and paths[0].suffix.lower() not in ENDINGS else None
    if (project is not None or not paths) and window.show_opening(project):
        app.processEvents()
    _dress(app)
    if not paths:
        window.show_first_page()
        return window
    from avrin.app.services.workspace import Workspace  # late: 380 ms, after the kept picture

    workspace = Workspace()
    window.fill(workspace)
    if project is not None:
        workspace.files.open(project)
    else:
        workspace.files.begin_over(paths)
    if window.isVisible():
        window.restore_layout()
    return window


def run(*paths: Path) -> int:
    """Show the window and run until it is closed. Raises AvrinError if something cannot be opened."""
    quiet_toolkit()
    app = application()
    window = make_window(*paths)
    sys.excepthook = lambda kind, error, trace: _failed(window, kind, error, trace)
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    heartbeat = QTimer()  # lets Python handle signals while Qt waits
    heartbeat.start(500)
    heartbeat.timeout.connect(lambda: None)
    window.show()
    sys.setswitchinterval(0.001)  # background work yields to the user's input sooner

    def tidy() -> None:
        from avrin.app.services.garbage import GarbageCollector  # late: 1 ms

        GarbageCollector(window.editor)

    if window.is_alive:
        tidy()
    else:
        window.came_to_life = tidy
    return int(app.exec())


def _failed(window: Window, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    log.error("an internal error in the window", exc_info=(kind, error, trace))
    if window.is_alive:
        files = window.workspace.files
        files.keep_unsaved()
        edits = "save now: your edits cannot be written" if files.would_lose else "your edits are safe"
        window.editor.say(f"Something went wrong inside Avrin; {edits}. Details: {log_file()}", error=True)
