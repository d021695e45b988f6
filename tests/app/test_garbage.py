"""Garbage is collected in the window's thread, whichever thread allocates."""

from __future__ import annotations

import gc
import threading
import weakref
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QObject
from pytestqt.qtbot import QtBot

from avrin.app.main import application
from avrin.app.services import garbage
from avrin.app.services.editor import Editor
from avrin.app.services.garbage import GarbageCollector
from avrin.app.window.window import Window
from avrin.editor.playback import set_playing
from avrin.trace.frames import Trace
from window_fixtures import qapp, window  # noqa: F401


@pytest.fixture
def editor(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[Editor]:
    monkeypatch.setattr(garbage, "EVERY", 50)
    monkeypatch.setattr(garbage, "AT_REST", 300)
    made = Editor()
    GarbageCollector(made)
    yield made
    made.deleteLater()
    qtbot.wait(1)
    gc.unfreeze()
    gc.collect()
    gc.freeze()


class Loop(QObject):
    """An object that holds itself, so that only the collector ends it."""

    def __init__(self) -> None:
        super().__init__()
        self.me = self


def ends_of(ended: list[int]) -> None:
    """Make rubbish that notes the thread in which it ends."""
    weakref.finalize(Loop(), lambda: ended.append(threading.get_ident()))


@pytest.mark.usefixtures("editor")
def test_rubbish_ends_in_the_windows_thread(qtbot: QtBot) -> None:
    ended: list[int] = []
    ends_of(ended)
    busy = threading.Thread(target=lambda: [[{}] for _ in range(200_000)])
    busy.start()
    busy.join()
    assert ended == []
    kept: list[list[dict[str, int]]] = [[{}] for _ in range(20_000)]  # enough that something is due

    def goes_on() -> bool:
        kept.extend([{}] for _ in range(2_000))  # as a window does: what has grown older is due in its turn
        return bool(ended)

    qtbot.waitUntil(goes_on, timeout=60_000)
    assert ended == [threading.get_ident()]
    assert len(kept) > 20_000


def test_what_was_there_while_playing_is_looked_at_when_the_hand_rests(editor: Editor, qtbot: QtBot) -> None:
    ended: list[int] = []
    ends_of(ended)
    editor.do(set_playing, True)
    kept: list[list[dict[str, int]]] = [[{}] for _ in range(20_000)]
    qtbot.wait(200)
    assert ended == []
    editor.do(set_playing, False)
    qtbot.waitUntil(lambda: bool(ended), timeout=60_000)
    assert len(kept) == 20_000


def test_looking_at_one_recording_after_another_holds_on_to_none(window: Window) -> None:
    def held() -> tuple[int, int]:
        window.workspace.checking.wait()
        application().processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as the window's own loop does
        gc.collect()
        traces = sum(isinstance(thing, Trace) and len(thing) > 1000 for thing in gc.get_objects())
        return traces, len(list(Path("/proc/self/fd").iterdir()))

    names = [one.path for one in window.editor.now.project.traces]
    for name in names:
        window.workspace.traces.show(name)
    before = held()
    for number in range(30):
        window.workspace.traces.show(names[number % len(names)])
    after = held()
    assert all(now <= then + 2 for now, then in zip(after, before, strict=True))  # the one shown now may be another


def test_a_session_that_a_job_holds_beyond_its_end_is_collected_after_that(qtbot: QtBot) -> None:
    editor = Editor()
    GarbageCollector(editor)
    gone, ended = weakref.ref(editor), []
    holds: list[object] = [editor]
    holds.append(holds)  # as a job's frame and its error do: only the collector ends it
    editor.destroyed.connect(lambda: ended.append(1))
    editor.deleteLater()
    del editor
    qtbot.waitUntil(lambda: bool(ended), timeout=60_000)
    qtbot.wait(20)  # it was looked for once, in vain
    assert gone() is not None
    del holds
    qtbot.waitUntil(lambda: gone() is None, timeout=60_000)
