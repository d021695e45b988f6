"""The window: a painted frame against the same shapes by hand, playing, lanes, and a rule edit over an hour."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from avrin.binding.places import RulePlace
from avrin.editor.edits import edit, set_rule, undo
from avrin.editor.playback import go_to, go_to_seconds, set_playing
from avrin.editor.selecting import select_widgets
from common import FOLDER, FRAMES, best, line, reached

__all__ = ["run"]


def run() -> None:
    """All of it."""
    painting()
    hour()


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
    """A painted frame of the demo, a frame of the playing window, and an edit."""
    from avrin.app.main import application, make_window
    from avrin.demo.install import install_demo

    application()
    window = make_window(install_demo())
    window.show()
    window.resize(1280, 720)
    application().processEvents()
    window.editor.do(go_to_seconds, 118)
    _picture(window)
    _playing(window)
    _edit(window)
    _moving(window)
    _closely(window)
    window.workspace.files.forget_unsaved()
    window.close()


def _picture(window: Any) -> None:
    """The demo's HUD over fifty frames of play, against the same pictures by hand: shapes straight into painter calls."""
    from PySide6.QtGui import QImage, QPainter

    from avrin.app.painting.paint import draw_shapes
    from avrin.app.painting.widget_cache import Layers
    from avrin.render.scene import scene
    from avrin.render.stage import Stage

    editor = window.editor
    image = QImage(1280, 720, QImage.Format.Format_ARGB32_Premultiplied)
    frames = range(editor.now.frame, editor.now.frame + 100, 2)
    stage, layers = Stage(), Layers()

    def paint(painter: QPainter, draw: Callable[[], None]) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(2 / 3, 2 / 3)
        draw()
        painter.end()

    def ours() -> None:
        for frame in frames:
            painter = QPainter(image)
            stage.show(editor.now.tracks, frame, editor.now.view.screen)
            paint(painter, lambda: layers.draw(painter, stage.placed, stage.placed))  # noqa: B023  (called at once)

    recorded: list[list[Callable[[QPainter], None]]] = []
    for frame in frames:
        calls: list[Callable[[QPainter], None]] = []
        recorder = recorder_class()(image, calls)
        shapes = [placed.group for placed in scene(editor.now.tracks, frame, editor.now.view.screen)]
        paint(recorder, lambda: draw_shapes(recorder, shapes))  # noqa: B023
        recorded.append(calls)

    def by_hand() -> None:
        for calls in recorded:
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for call in calls:
                call(painter)
            painter.end()

    mine, other = best(ours, by_hand, turns=9)
    line("the demo's HUD at 1280 × 720, painted", mine / len(frames), other / len(frames), "≤ 1.6×")


def _playing(window: Any) -> None:
    from avrin.app.main import application

    app, editor, frames = application(), window.editor, []
    window.workspace.checking.wait()
    window.workspace.extents.wait()
    editor.do(set_playing, True)  # what waits for the playhead to rest waits now
    window.player.let_go()  # the clock is ours
    for i in range(321):
        start = time.perf_counter()
        editor.do(go_to, editor.now.frame + 2)
        app.processEvents()
        frames.append(time.perf_counter() - start)
        if i == 20:
            frames.clear()  # the first frames fill the caches
    editor.do(set_playing, False)
    frames.sort()
    print(f"{'a frame of the playing window, interface thread':<52}{frames[len(frames) // 2] * 1e3:>9.2f} ms "
          f"(worst of {len(frames)}: {frames[-1] * 1e3:.1f} ms, ≤ 25)            median ≤ 5 ms")  # fmt: skip


def _edit(window: Any) -> None:
    from avrin.app.main import application

    editor = window.editor
    window.workspace.wait()
    start = time.perf_counter()
    editor.do(set_rule, RulePlace("widget", "hull_bar", "inputs", "value"), "hull / 2")
    application().processEvents()
    print(f"{'a rule edit until the window shows it':<52}{(time.perf_counter() - start) * 1e3:>9.2f} ms "
          f"({editor.now.tracks.computed} steps computed again)")  # fmt: skip
    editor.do(undo)


def _moving(window: Any) -> None:
    """One and forty of sixty widgets, dragged over the picture."""
    from PySide6.QtCore import QEvent, QPointF, Qt
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtTest import QTest

    from avrin.app.main import application
    from avrin.edits.clipboard import duplicated

    app, editor, hud = application(), window.editor, window.desk.hud
    project = editor.now.project
    while (missing := 60 - len(project.widgets)) > 0:
        project, _ = duplicated(project, [widget.id for widget in project.widgets[:missing]])
    editor.do(edit, project, "sixty")
    window.workspace.wait()
    app.processEvents()
    left, plain = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    for count in (1, 40):
        editor.do(select_widgets, *[item.ident for item in hud.placed][-count:])
        app.processEvents()
        start = hud.box_of(editor.now.selection.widget).center().toPoint()
        QTest.mousePress(hud, left, plain, start)
        told, shown = [], []
        for step in range(60):
            at = QPointF(start) + QPointF(5 + step, step / 2)
            there = QPointF(hud.mapToGlobal(at.toPoint()))
            event = QMouseEvent(QEvent.Type.MouseMove, at, there, Qt.MouseButton.NoButton, left, plain)
            begun = time.perf_counter()
            app.sendEvent(hud, event)
            done = time.perf_counter()
            app.processEvents()
            told.append(done - begun)
            shown.append(time.perf_counter() - begun)
        QTest.mouseRelease(hud, left, plain, start)
        print(f"{f'a step of {count} of 60 widgets, dragged':<52}{np.median(told) * 1e3:>9.2f} ms "
              f"(until it is painted {np.median(shown) * 1e3:.1f} ms)            median ≤ 8 ms")  # fmt: skip
    editor.do(undo)


def _closely(window: Any) -> None:
    """The picture's pixels, painted again."""
    hud, times = window.desk.hud, []
    hud.look(16)
    for _ in range(30):
        begun = time.perf_counter()
        hud.repaint()
        times.append(time.perf_counter() - begun)
    hud.fit()
    print(f"{'the picture at 16×, painted':<52}{np.median(times) * 1e3:>9.2f} ms            median ≤ 8 ms")


def _hour() -> Path:
    """A project of twenty bars over an hour of forty variables."""
    from avrin.project.project import Band, Place, Project, Recording, Variable, Widget
    from avrin.storage.files import save
    from avrin.trace.frames import Column, Trace
    from avrin.trace.store import save_trace

    dice = np.random.default_rng(4)
    folder = FOLDER / "hour"
    folder.mkdir()
    names = [f"v{i}" for i in range(39)]
    columns = {n: Column("number", np.clip(np.cumsum(dice.normal(0, 1, FRAMES)), -20, 160).round(2)) for n in names}
    save_trace(Trace.make("hour", np.arange(FRAMES) / 60, columns), folder / "hour.parquet")
    widgets = [
        Widget(
            id=f"bar_{n}", kind="bar", inputs={"value": n, "full": "140", "visible": f"not held({n} < 0, 2s)"},
            place=Place(offset=(20.0 + 330 * (i % 4), 20.0 + 60 * (i // 4)), size=(300.0, 30.0)),
            bands=(Band(name="critical", below="10%"), Band(name="low", below="25%", back="30%")),
        )
        for i, n in enumerate(names[:20])
    ]  # fmt: skip
    project = Project(
        title="Hour", variables=tuple(Variable(name=n, type="float", low=0, high=140) for n in names),
        widgets=tuple(widgets), traces=(Recording(path="hour.parquet"),),
    )  # fmt: skip
    save(project, folder / "hour.avrin")
    return folder / "hour.avrin"


def hour() -> None:
    """Edits and lanes over 216,000 frames, and how long the interface thread was away."""
    from avrin.app.main import application, make_window

    app = application()
    window = make_window(_hour())
    window.workspace.wait()
    window.show()
    window.resize(1280, 800)
    window.desk.first_sizes()
    editor, lanes = window.editor, window.desk.lanes
    editor.do(go_to_seconds, 1800)
    _rest(app, 1.0)
    shown, away = [], []
    for i in range(15):
        start = last = time.perf_counter()
        longest, before = 0.0, editor.now.tracks
        editor.do(set_rule, RulePlace("widget", "bar_v3", "inputs", "value"), f"v3 * 0.{i + 10}")
        while editor.now.tracks is before or time.perf_counter() - start < 0.04:
            app.processEvents()
            now = time.perf_counter()
            longest, last = max(longest, now - last), now
            if editor.now.tracks is not before and not lanes.busy:
                break
        shown.append(time.perf_counter() - start)
        away.append(longest)
        _rest(app, 0.3)
    reached("a rule edit until the window shows it, 216,000 frames", sorted(shown)[7] * 1e3, "ms", "≤ 50 ms")
    reached("  the longest the interface thread was away", sorted(away)[7] * 1e3, "ms", "")
    lanes.show_only("v2")
    lanes.verticalScrollBar().setValue(0)
    _rest(app, 0.5)
    for span, word in ((3600.0, "an hour"), (300.0, "five minutes"), (2.0, "two seconds")):
        lanes.scale.show_all(editor.now.trace.length)
        lanes.scale.zoom(span / editor.now.trace.length, 1800.0)
        numbers = [lane for lane in lanes.lanes if lane.sort == "variable"][:8]
        (ours,) = best(lambda numbers=numbers: _curves(lanes, numbers), turns=15)  # type: ignore[misc]
        reached(f"  eight curves, {word} wide", ours * 1e3, "ms", "≤ 12 ms")
    window.workspace.files.forget_unsaved()
    window.close()


def _curves(lanes: object, chosen: list[object]) -> None:
    """Paint lanes' bodies as the view does."""
    from PySide6.QtGui import QPainter, QPixmap

    bodies = lanes._bodies  # type: ignore[attr-defined]
    bodies._pictures.clear()  # what looks as before would only be copied
    still = QPixmap(1280, 46 * len(chosen))
    painter = QPainter(still)
    span = bodies.span()
    for number, lane in enumerate(chosen):
        bodies.paint(painter, lane, 46 * number, span)
    painter.end()


def _rest(app: object, seconds: float) -> None:
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        app.processEvents()  # type: ignore[attr-defined]
        time.sleep(0.002)
