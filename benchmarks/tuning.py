"""Where a warning should begin: two hundred values of one band over thirty recordings at once, and the limit dragged."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from common import reached

__all__ = ["run"]

RECORDINGS, FRAMES, VALUES = 30, 12_000, 200
BANDS: dict[str, dict[str, Any]] = {
    "plain": {}, "sticky": {"back": "45%"}, "slow": {"held": "300ms"}, "slow, sticky": {"back": "45%", "held": "300ms"},
}  # fmt: skip


def run() -> None:
    """All of it."""
    values_at_once()
    dragging()


def dragging() -> None:
    """The limit dragged on the Warning face of the demo: until the curves, the sentence, the outcomes and the way are drawn."""
    from avrin.app.ladder_desk.desk import LadderDesk
    from avrin.app.main import application, make_window
    from avrin.app.shots import VIEWS, settle
    from avrin.demo.install import install_demo

    app = application()
    with tempfile.TemporaryDirectory() as folder:
        window = make_window(install_demo(Path(folder) / "demo"))
        window.resize(1280, 800)
        window.show()
        VIEWS["warning"](window)
        desk = window.desks.currentWidget()
        assert isinstance(desk, LadderDesk)
        settle(app, window)
        taken = []
        for step in range(60):
            start = time.perf_counter()
            desk.warning.ask_at(0.05 + 0.01 * step)
            app.processEvents()
            taken.append(time.perf_counter() - start)
        taken.sort()
        reached("the limit dragged by a step, redrawn: the slowest of twenty", taken[-3] * 1000, "ms", "≤ 16 ms")
        print(f"  (median {taken[30] * 1000:.1f} ms)")
        window.close()


def values_at_once() -> None:
    """A level that wanders and is noisy: a plain band, one that is sticky, one that waits, one that does both."""
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.project.project import Band, Project, Variable, Widget
    from avrin.trace.frames import Column, Trace
    from avrin.tuning.curves import curves
    from avrin.tuning.signals import asked, signals

    dice = np.random.default_rng(2)
    variables = (Variable(name="hull", type="float"), Variable(name="lost", type="bool"))
    traces = []
    for number in range(RECORDINGS):
        hull = 50 + np.cumsum(dice.normal(0, 0.6, FRAMES)) % 60 + dice.normal(0, 1.5, FRAMES)
        known = {"hull": Column("number", hull), "lost": Column.of([bool(one) for one in hull < 8])}
        traces.append(Trace.make(f"r{number}", np.arange(FRAMES) / 60, known))
    for what, more in BANDS.items():
        band = Band(name="low", below="40%", **more)
        widget = Widget(id="hull", kind="bar", inputs={"value": "hull", "full": "100"}, bands=(band,))
        bound = bind(Project(variables=variables, widgets=(widget,)))
        every = [Tracks(bound, trace) for trace in traces]
        question = asked(every[0].bound, "hull", "low", "lost")
        found, values = signals(every, question), np.linspace(0, 1.2, VALUES)
        start = time.perf_counter()
        told = curves(found, question, values)
        taken = time.perf_counter() - start
        reached(f"{VALUES} values of a {what} band, {RECORDINGS} × {FRAMES:,} frames", taken, "s", "≤ 1 s")
        print(f"  ({int(told.alarms.sum()):,} alarms)")
