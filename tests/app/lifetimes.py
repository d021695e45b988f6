"""Open and close the shipped window, or one project after another in it, and print what the process holds each time.

    python tests/app/lifetimes.py windows 50       python tests/app/lifetimes.py projects 50       … both 3 small

With the collector as in the program, from an empty home, the sample's film behind the HUD and the checks running. A line a
round: threads, open files, resident memory in MB, and how many of the editors so far are alive. small: the sample with forty
seconds of one recording, whose checks take a moment.
"""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
import time
import weakref
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from avrin.app.services.editor import Editor
from avrin.editor.viewing import show_over

if TYPE_CHECKING:
    from avrin.app.services.workspace import Workspace
    from avrin.app.window.window import Window

FRAMES = 2400  # of the small sample's recording
PATIENCE = 600  # seconds for a step: a busy machine takes its time
ENDING = 120  # seconds for threads that end: afterwards they count as left behind


def main() -> None:
    what, rounds = sys.argv[1], int(sys.argv[2])
    with tempfile.TemporaryDirectory() as home:
        for name in ("AVRIN_CACHE", "AVRIN_STATE", "AVRIN_DATA", "XDG_CONFIG_HOME"):
            os.environ[name] = f"{home}/{name}"
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        demo = sample(small="small" in sys.argv)
        for name, run in {"windows": windows, "projects": projects}.items():
            if what in (name, "both"):
                run(demo, Path(home), rounds)
        os._exit(0)  # what the program does at its end is another matter


def sample(*, small: bool) -> Path:
    from msgspec.structs import replace

    from avrin.demo.install import install_demo
    from avrin.storage.files import load, save

    demo = install_demo()
    if small:
        project, _ = load(demo)
        plates = tuple(replace(plate, offset=0.0) for plate in project.plates)  # its film runs from the first frame on
        save(replace(project, traces=project.traces[:1], plates=plates), demo)
        recording = demo.parent / project.traces[0].path
        recording.write_text("".join(recording.read_text().splitlines(keepends=True)[:FRAMES]))
    return demo


def windows(demo: Path, _home: Path, rounds: int) -> None:
    sessions: list[weakref.ref[Editor]] = []
    log = Log()
    for _ in range(rounds):
        window = opened(demo)
        editor = window.editor
        sessions.append(weakref.ref(editor))
        look_at_film(window.workspace)
        window.workspace.checking.look_again()
        assert window.workspace.checking.busy
        window.close()
        del window, editor
        until(lambda: sessions[-1]() is None, "the editor is gone")
        log.add(sum(one() is not None for one in sessions))


def projects(demo: Path, home: Path, rounds: int) -> None:
    window, log = opened(demo), Log()
    for number in range(rounds):
        folder = home / f"game{number}"
        shutil.copytree(demo.parent, folder)
        window.open(folder / demo.name)
        look_at_film(window.workspace)
        window.workspace.checking.look_again()
        log.add(1)


def opened(project: Path) -> Window:
    from avrin.app.main import make_window
    from avrin.app.services.garbage import GarbageCollector

    window = make_window(project)
    window.show()
    GarbageCollector(window.editor)
    return window


def look_at_film(workspace: Workspace) -> None:
    """Wait for the checks, then put the film behind the HUD."""
    editor = workspace.editor
    until(lambda: workspace.checking.has_looked and not workspace.busy, "the checks have looked")
    editor.do(show_over, next(plate for plate in editor.now.project.plates if plate.film))
    until(
        lambda: (
            editor.now.plate is not None
            and workspace.video.shown_second(editor.now.plate) is not None
            and not workspace.busy
        ),
        "the film is shown",
    )


def until(holds: Callable[[], bool], what: str) -> None:
    from PySide6.QtCore import QCoreApplication, QEvent

    end = time.monotonic() + PATIENCE
    while not holds():
        assert time.monotonic() < end, f"{PATIENCE} s went by before {what}"
        QCoreApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as the toolkit's own loop does
        time.sleep(0.005)


class Log:
    """Prints a line a round, once what ends has ended: a film's decoder may still be at work when its window is gone."""

    def __init__(self) -> None:
        self.rounds: list[tuple[int, int]] = []

    def add(self, alive: int) -> None:
        end = time.monotonic() + ENDING
        before, now = (-1, -1), held()
        while time.monotonic() < end and (now != before or self._is_more_than_after_the_second(now)):
            time.sleep(0.1)
            before, now = now, held()
        self.rounds.append(now)
        memory = int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6
        print(*now, round(memory), alive, flush=True)

    def _is_more_than_after_the_second(self, now: tuple[int, int]) -> bool:
        return len(self.rounds) > 1 and any(one > most for one, most in zip(now, self.rounds[1], strict=True))


def held() -> tuple[int, int]:
    """Threads and open files of this process."""
    return len(list(Path("/proc/self/task").iterdir())), len(list(Path("/proc/self/fd").iterdir()))


if __name__ == "__main__":
    main()
