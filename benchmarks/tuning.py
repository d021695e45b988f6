"""Where a warning should begin: two hundred values of one band over thirty recordings at once."""

from __future__ import annotations

import time

import numpy as np

from common import reached

__all__ = ["run"]

RECORDINGS, FRAMES, VALUES = 30, 12_000, 200


def run() -> None:
    """A level that wanders and is noisy, plain and sticky."""
    from avrin.model import Band, Project, Variable, Widget
    from avrin.trace import Column, Trace
    from avrin.tuning import asked, curves, signals
    from avrin.widgets import Tracks, bind

    dice = np.random.default_rng(2)
    variables = (Variable(name="hull", type="float"), Variable(name="lost", type="bool"))
    traces = []
    for number in range(RECORDINGS):
        hull = 50 + np.cumsum(dice.normal(0, 0.6, FRAMES)) % 60 + dice.normal(0, 1.5, FRAMES)
        known = {"hull": Column("number", hull), "lost": Column.of([bool(one) for one in hull < 8])}
        traces.append(Trace.make(f"r{number}", np.arange(FRAMES) / 60, known))
    for what, back in (("plain", ""), ("sticky", "45%")):
        band = Band(name="low", below="40%", back=back)
        widget = Widget(id="hull", kind="bar", inputs={"value": "hull", "full": "100"}, bands=(band,))
        bound = bind(Project(variables=variables, widgets=(widget,)))
        every = [Tracks(bound, trace) for trace in traces]
        question = asked(every[0], "hull", "low", "lost")
        found, values = signals(every, question), np.linspace(0, 1.2, VALUES)
        start = time.perf_counter()
        told = curves(found, question, values)
        taken = time.perf_counter() - start
        reached(f"{VALUES} values of a {what} band, {RECORDINGS} × {FRAMES:,} frames", taken, "s", "≤ 1 s")
        print(f"  ({int(told.alarms.sum()):,} alarms)")
