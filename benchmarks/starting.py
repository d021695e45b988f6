"""The start: the window with the demo against an empty window of the toolkit, each in a fresh process."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable

from common import FOLDER, best, line

__all__ = ["run"]


def run() -> None:
    """The window with the demo against an empty window of the toolkit, each in a fresh process."""
    from avrin.demo import install_demo

    demo = str(install_demo())
    empty = (
        "import os\nfrom PySide6.QtWidgets import QApplication, QWidget\napp = QApplication([])\n"
        "w = QWidget()\nw.resize(1280, 800)\nw.show()\napp.processEvents()\nos._exit(0)"
    )
    numpy = "import numpy\n" + empty
    picture = (
        "import gc, os\ngc.disable()\nfrom pathlib import Path\nfrom avrin.app.main import application\n"
        "from avrin.app.window.window import Window\napp = application()\nw = Window()\n"
        f"assert w.show_opening(Path({demo!r}))\napp.processEvents()\nos._exit(0)"
    )
    first = (
        "import gc, os\ngc.disable()\nfrom avrin.app.main import application\nfrom avrin.app.window.window import Window\n"
        "app = application()\nw = Window()\nassert w.show_opening(None)\napp.processEvents()\nos._exit(0)"
    )
    pressed = (
        "import gc, os\ngc.disable()\nfrom avrin.app.main import application, make_window\n"
        "w = make_window()\nw.show()\napplication().processEvents()\n"
    )
    opened = (
        "import gc, os\ngc.disable()\nfrom pathlib import Path\nfrom avrin.app.main import application, make_window\n"
        f"app = application()\nw = make_window(Path({demo!r}))\nw.show()\napp.sendPostedEvents()\n"
    )
    # A press into the lanes, and the HUD painted at that moment: what waits until the hand rests is not waited for.
    live = opened + (
        "from PySide6.QtCore import QEvent, QPointF, Qt\nfrom PySide6.QtGui import QMouseEvent\n"
        "view = w.desk.lanes.viewport()\nat = QPointF(view.width() * 0.6, 40)\n"
        "left, no, keys = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier\n"
        "for sort, down in ((QEvent.Type.MouseButtonPress, left), (QEvent.Type.MouseButtonRelease, no)):\n"
        "    app.sendEvent(view, QMouseEvent(sort, at, view.mapToGlobal(at), left, down, keys))\n"
        "assert w.session.frame > 0\napp.sendPostedEvents()\n"
    )
    screen = FOLDER / "screen.json"  # on one that the window fits onto: the toolkit's own is smaller
    screen.write_text(json.dumps({"screens": [{"name": "one", "x": 0, "y": 0, "width": 1920, "height": 1080}]}))
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={screen}"
    # Started once and left alone until all is at rest, as by a person, so that what starts keep from one another is there.
    rested = opened + (
        "import time\nfrom avrin.app.window.opening import opening\nend = time.time() + 30\n"
        "while opening(w.session.path, w) is None and time.time() < end: app.processEvents(); time.sleep(0.01)\n"
    )
    subprocess.run([sys.executable, "-c", live + "w.close()"], check=True, stderr=subprocess.DEVNULL)
    subprocess.run([sys.executable, "-c", rested], check=True, stderr=subprocess.DEVNULL)
    subprocess.run([sys.executable, "-c", pressed + "w.close()"], check=True, stderr=subprocess.DEVNULL)

    def start(code: str) -> Callable[[], object]:
        return lambda: subprocess.run([sys.executable, "-c", code], check=True, stderr=subprocess.DEVNULL)

    shown, page, can_press, alive, bare, with_numpy = best(
        start(picture), start(first), start(pressed + "os._exit(0)"), start(live + "os._exit(0)"), start(empty),
        start(numpy), turns=15,
    )  # fmt: skip
    line("window shows the demo, against an empty window", shown, bare, "≤ 2.2×", "s")
    line("the first page stands", page, bare, "≤ 1.5×", "s")
    line("  the same, and can be pressed", can_press, bare, "", "s")
    line("  the same, and follows the hand", alive, bare, "≤ 3×", "s")
    line("  (an empty window that imports NumPy, likewise)", with_numpy, bare, "", "s")
