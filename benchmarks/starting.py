"""The start: the window with the demo against an empty window of the toolkit, each in a fresh process."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import textwrap
from collections.abc import Callable

from common import FOLDER, best, line

__all__ = ["run"]


def run() -> None:
    """The window with the demo against an empty window of the toolkit, each in a fresh process."""
    from avrin.demo.install import install_demo

    demo = str(install_demo())
    empty = (
        "import os\nfrom PySide6.QtWidgets import QApplication, QWidget\napp = QApplication([])\n"
        "w = QWidget()\nw.resize(1280, 800)\nw.show()\napp.processEvents()\nos._exit(0)"
    )
    numpy = "import numpy\n" + empty
    # Started like the command: the time before the window counts.
    picture = _by_command(
        ["open", demo],
        "from avrin.app.main import application\nfrom avrin.app.window.window import Window\napp = application()\n"
        "w = Window()\nassert w.show_opening(*paths)\napp.processEvents()\nos._exit(0)",
    )
    first = _by_command(
        [],
        "from avrin.app.main import application\nfrom avrin.app.window.window import Window\napp = application()\n"
        "w = Window()\nassert w.show_opening(None)\napp.processEvents()\nos._exit(0)",
    )
    pressed = "from avrin.app.main import application, make_window\nw = make_window()\nw.show()\napplication().processEvents()\n"
    opened = (
        "from avrin.app.main import application, make_window\napp = application()\nw = make_window(*paths)\nw.show()\n"
        "app.sendPostedEvents()\n"
    )
    # A press into the lanes, and the HUD painted at that moment: what waits until the hand rests is not waited for.
    live = opened + (
        "from PySide6.QtCore import QEvent, QPointF, Qt\nfrom PySide6.QtGui import QMouseEvent\n"
        "view = w.desk.lanes.viewport()\nat = QPointF(view.width() * 0.6, 40)\n"
        "left, no, keys = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier\n"
        "for sort, down in ((QEvent.Type.MouseButtonPress, left), (QEvent.Type.MouseButtonRelease, no)):\n"
        "    app.sendEvent(view, QMouseEvent(sort, at, view.mapToGlobal(at), left, down, keys))\n"
        "assert w.editor.now.frame > 0\napp.sendPostedEvents()\n"
    )
    screen = FOLDER / "screen.json"  # on one that the window fits onto: the toolkit's own is smaller
    screen.write_text(json.dumps({"screens": [{"name": "one", "x": 0, "y": 0, "width": 1920, "height": 1080}]}))
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={screen}"
    os.environ["DISPLAY"] = "none"  # the command wants to know of one
    # Started once and left alone until all is at rest, as by a person, so that what starts keep from one another is there.
    rested = opened + (
        "import time\nfrom avrin.app.window.start_picture import start_picture\nend = time.time() + 30\n"
        "while start_picture(w.editor.now.path, w) is None and time.time() < end: app.processEvents(); time.sleep(0.01)\n"
    )
    for code, what in ((live + "w.close()", [demo]), (rested, [demo]), (pressed + "w.close()", [])):
        start(_by_command(["open", *what], code))()

    shown, page, can_press, alive, bare, with_numpy = best(
        start(picture), start(first), start(_by_command([], pressed + "os._exit(0)")),
        start(_by_command(["open", demo], live + "os._exit(0)")), start(empty), start(numpy), turns=15,
    )  # fmt: skip
    line("window shows the demo, against an empty window", shown, bare, "≤ 2.2×", "s")
    line("the first page is shown", page, bare, "≤ 1.5×", "s")
    line("  the same, and can be pressed", can_press, bare, "", "s")
    line("  the same, and follows the hand", alive, bare, "≤ 3×", "s")
    line("  (an empty window that imports NumPy, likewise)", with_numpy, bare, "", "s")


def start(code: str) -> Callable[[], object]:
    """A program in a process of its own."""
    return lambda: subprocess.run([sys.executable, "-c", code], check=True, stderr=subprocess.DEVNULL)


def _by_command(arguments: list[str], code: str) -> str:
    """A program that starts like a command, with a stand-in for the window that receives `paths`."""
    return (
        "from avrin import cli\ndef begun(*paths):\n    import gc, os\n    gc.disable()\n"
        f"{textwrap.indent(code, '    ')}\n    return 0\ncli._window = begun\nassert cli.main({arguments!r}) == 0"
    )
