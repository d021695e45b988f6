"""`./avrin bench`: what the engine, the readers, the painters and the start cost, as ratios against the bare libraries.

Each pair runs side by side in one process (the start: in fresh ones), alternating, and the best of several turns
counts, so that a busy machine harms both sides alike.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
_FOLDER = tempfile.TemporaryDirectory(prefix="avrin-bench-")
os.environ["AVRIN_DATA"] = f"{_FOLDER.name}/data"
os.environ["XDG_CONFIG_HOME"] = f"{_FOLDER.name}/config"

import numpy as np  # noqa: E402

FRAMES = 216_000  # an hour at sixty frames a second
TURNS = 7


def best(*sides: Callable[[], object], turns: int = TURNS) -> list[float]:
    """The best time of each side in seconds, the sides taking turns."""
    times = [[] for _ in sides]  # type: list[list[float]]
    for _ in range(turns):
        for side, found in zip(sides, times, strict=True):
            start = time.perf_counter()
            side()
            found.append(time.perf_counter() - start)
    return [min(found) for found in times]


def line(what: str, ours: float, other: float, limit: str, unit: str = "ms") -> None:
    """One row: our time, the other's, the ratio."""
    scale = {"ms": 1e3, "s": 1.0}[unit]
    print(f"{what:<52}{ours * scale:>9.2f} {unit:<3}{other * scale:>9.2f} {unit:<3}{ours / other:>7.2f}×   {limit}")


def rules() -> None:
    """Rules over a whole trace against the same arithmetic straight in NumPy."""
    from avrin.rules import Scope, evaluate
    from avrin.trace import Column, Trace

    dice = np.random.default_rng(1)
    hull = np.clip(np.cumsum(dice.normal(0, 1, FRAMES)), -20, 160)
    air = dice.uniform(0, 60, FRAMES)
    full = np.repeat([100.0, 140.0], FRAMES // 2)
    t = np.arange(FRAMES) / 60
    leak = (np.sin(t) > 0.6).astype(np.int8) * 2
    columns = {
        "hull": Column("number", hull),
        "air": Column("number", air),
        "full": Column("number", full),
        "leak": Column("flag", leak),
    }
    trace = Trace.make("bench", t, columns)
    texts = {
        "clamp": "clamp(hull / full, 0, 1)",
        "arithmetic": "(hull - air) * 0.5 + air / full - 3",
        "conditions": "hull < 25 and air > 10 or hull in 40..60",
        "choice": "if hull < air then hull else max(air, 20)",
        "held, since": "held(leak == true, 2s) or since(hull < 20) < 5",
    }

    def held_and_since() -> object:
        c = leak == 2
        began = np.maximum.accumulate(np.where(c & ~np.concatenate(([False], c[:-1])), t, -np.inf))
        held = c & (t - began >= 2)
        last = np.maximum.accumulate(np.where(hull < 20, t, -np.inf))
        return held | (t - last < 5)

    straight: dict[str, Callable[[], object]] = {
        "clamp": lambda: np.clip(hull / full, 0, 1),
        "arithmetic": lambda: (hull - air) * 0.5 + air / full - 3,
        "conditions": lambda: (hull < 25) & (air > 10) | ((hull >= 40) & (hull <= 60)),
        "choice": lambda: np.where(hull < air, hull, np.maximum(air, 20)),
        "held, since": held_and_since,
    }
    scope = Scope({name: column.kind for name, column in columns.items()})
    steps = {name: scope.rule(text) for name, text in texts.items()}
    for name, step in steps.items():
        ours, other = best(lambda step=step: evaluate([step], trace, scope.graph), straight[name], turns=41)  # type: ignore[misc]
        line(f"rule over {FRAMES:,} frames: {name}", ours, other, "")
    ours, other = best(
        lambda: evaluate(list(steps.values()), trace, scope.graph),
        lambda: [make() for make in straight.values()],
        turns=41,
    )
    line("all five together", ours, other, "≤ 1.2×")


def loading() -> None:
    """A CSV trace against the bare columnar reader into arrays; opening it again from its copy."""
    from pyarrow import csv

    from avrin.trace import open_trace
    from avrin.trace.csv_file import read_csv

    path = Path(_FOLDER.name) / "big.csv"
    dice = np.random.default_rng(2)
    frames = FRAMES // 2
    cells = dice.normal(0, 50, (frames, 12)).round(3)
    with path.open("w") as file:
        file.write("t," + ",".join(f"v{i}" for i in range(12)) + "\n")
        for i, row in enumerate(cells.tolist()):
            file.write(f"{i / 60:.4f}," + ",".join(map(str, row)) + "\n")

    def bare() -> object:
        table = csv.read_csv(path)
        return [column.to_numpy() for column in table.columns]

    ours, other = best(lambda: read_csv(path), bare)
    line(f"CSV of {frames:,} frames × 13 columns", ours, other, "≤ 1.3×")
    os.environ["AVRIN_CACHE"] = f"{_FOLDER.name}/cache"
    open_trace(path)
    again, _ = best(lambda: open_trace(path), lambda: None)
    line("the same, opened again", again, ours, "")
    del os.environ["AVRIN_CACHE"]


def recorder_class() -> type:
    """A painter that paints and keeps each call, to be made again without what led to it."""
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QColor, QImage, QPainter

    class Recorder(QPainter):
        def __init__(self, image: QImage, calls: list[Callable[[QPainter], None]]) -> None:
            super().__init__(image)
            self.calls = calls

        def drawRoundedRect(self, rect: QRectF, rx: float, ry: float) -> None:  # type: ignore[override]  # noqa: N802
            place, pen, brush, box = self.worldTransform(), self.pen(), self.brush(), QRectF(rect)

            def call(painter: QPainter) -> None:
                painter.setWorldTransform(place)
                painter.setPen(pen)
                painter.setBrush(brush)
                painter.drawRoundedRect(box, rx, ry)

            self.calls.append(call)
            super().drawRoundedRect(rect, rx, ry)

        def drawImage(self, x: int, y: int, image: QImage) -> None:  # type: ignore[override]  # noqa: N802
            place = self.worldTransform()

            def call(painter: QPainter) -> None:
                painter.setWorldTransform(place)
                painter.drawImage(x, y, image)

            self.calls.append(call)
            super().drawImage(x, y, image)

        def fillRect(self, rect: QRectF, colour: QColor) -> None:  # type: ignore[override]  # noqa: N802
            place, box, ink = self.worldTransform(), QRectF(rect), QColor(colour)

            def call(painter: QPainter) -> None:
                painter.setWorldTransform(place)
                painter.fillRect(box, ink)

            self.calls.append(call)
            super().fillRect(rect, colour)

    return Recorder


def painting() -> None:
    """A painted frame of the demo, and a frame of the playing window."""
    from PySide6.QtGui import QImage, QPainter

    from avrin.app.main import application, make_window
    from avrin.app.paint import draw_shapes
    from avrin.demo import install_demo
    from avrin.render import scene

    application()
    window = make_window(install_demo())
    window.show()
    window.resize(1280, 720)
    application().processEvents()
    session = window.session
    session.go_to_seconds(118)
    image = QImage(1280, 720, QImage.Format.Format_ARGB32_Premultiplied)

    def ours() -> None:
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(2 / 3, 2 / 3)
        draw_shapes(painter, [placed.group for placed in scene(session.tracks, session.frame, session.screen)])
        painter.end()

    # The same picture by hand: what its shapes come to when somebody writes them straight into painter calls.
    calls: list[Callable[[QPainter], None]] = []
    recorder = recorder_class()(image, calls)
    recorder.setRenderHint(QPainter.RenderHint.Antialiasing)
    recorder.scale(2 / 3, 2 / 3)
    draw_shapes(recorder, [placed.group for placed in scene(session.tracks, session.frame, session.screen)])
    recorder.end()

    def by_hand() -> None:
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for call in calls:
            call(painter)
        painter.end()

    def many(act: Callable[[], None]) -> Callable[[], None]:
        def run() -> None:
            for _ in range(50):
                act()

        return run

    mine, other = best(many(ours), many(by_hand))
    line("the demo's HUD at 1280 × 720, painted", mine / 50, other / 50, "")

    frames = []
    app = application()
    session.playing = True  # what waits for the playhead to rest waits now; the clock is ours
    for i in range(300):
        start = time.perf_counter()
        session.go_to(session.frame + 2)
        app.processEvents()
        frames.append(time.perf_counter() - start)
        if i == 20:
            frames.clear()  # the first frames fill the caches
    frames.sort()
    print(f"{'a frame of the playing window, interface thread':<52}{frames[len(frames) // 2] * 1e3:>9.2f} ms "
          f"(worst of 280: {frames[-1] * 1e3:.1f} ms)            median ≤ 5 ms")  # fmt: skip
    session.playing = False
    start = time.perf_counter()
    session.set_rule(("widget", "hull_bar", "inputs", "value"), "hull / 2")
    app.processEvents()
    print(f"{'a rule edit until the window shows it':<52}{(time.perf_counter() - start) * 1e3:>9.2f} ms "
          f"({session.tracks.computed} steps computed anew)")  # fmt: skip
    session.undo()
    session.forget_unsaved()
    window.close()


def starting() -> None:
    """The window with the demo against an empty window of the toolkit, each in a fresh process."""
    empty = (
        "import os\nfrom PySide6.QtWidgets import QApplication, QWidget\napp = QApplication([])\n"
        "w = QWidget()\nw.resize(1280, 800)\nw.show()\napp.processEvents()\nos._exit(0)"
    )
    numpy = "import numpy\n" + empty
    picture = (
        "import gc, os\ngc.disable()\nfrom avrin.app.main import application\nfrom avrin.app.window import Window\n"
        "from avrin.demo import install_demo\napp = application()\nw = Window()\n"
        "assert w.show_opening(install_demo())\napp.processEvents()\nos._exit(0)"
    )
    live = (
        "import gc, os\ngc.disable()\nfrom avrin.app.main import application, make_window\n"
        "from avrin.demo import install_demo\nw = make_window(install_demo())\nw.show()\n"
        "application().processEvents()\n"
    )
    # Started once and left alone for a moment, as by a person, so that what starts keep from one another is there.
    rested = live + "import time\nend = time.time() + 3\nwhile time.time() < end: application().processEvents()\n"
    subprocess.run([sys.executable, "-c", rested], check=True, stderr=subprocess.DEVNULL)

    def start(code: str) -> Callable[[], object]:
        return lambda: subprocess.run([sys.executable, "-c", code], check=True, stderr=subprocess.DEVNULL)

    shown, alive, bare, with_numpy = best(
        start(picture), start(live + "os._exit(0)"), start(empty), start(numpy), turns=9
    )
    line("window shows the demo, against an empty window", shown, bare, "≤ 2.2×", "s")
    line("  the same, and follows the hand", alive, bare, "", "s")
    line("  (an empty window that imports NumPy, likewise)", with_numpy, bare, "", "s")


def main() -> None:
    """Run all, or those named on the command line."""
    known = {"rules": rules, "loading": loading, "painting": painting, "starting": starting}
    wanted = sys.argv[1:] or list(known)
    for name in wanted:
        if name not in known:
            print(f"avrin: no benchmark '{name}'. There are {', '.join(known)}", file=sys.stderr)
            raise SystemExit(2)
    print(f"{'':<52}{'Avrin':>12} {'bare':>12} {'ratio':>7}    reach")
    for name in wanted:
        known[name]()


if __name__ == "__main__":
    main()
