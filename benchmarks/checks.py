"""Findings and ladders: a HUD of sixty widgets over an hour on twelve screens, an edit of it, many recordings, the demo."""

from __future__ import annotations

import os
import time

import numpy as np
from msgspec.structs import replace

from avrin.binding.places import RulePlace
from common import FOLDER, FRAMES, reached
from hud import sixty

__all__ = ["run"]

MANY = 100  # recordings
SIZES = ((1280, 720), (1280, 800), (1366, 768), (1600, 900), (1920, 1080), (1920, 1200), (2560, 1080), (2560, 1440),
         (3440, 1440), (3840, 2160), (1024, 768), (2048, 1536))  # fmt: skip


def run() -> None:
    """All of it."""
    findings()
    many()
    ladders()


def findings() -> None:
    """All findings for sixty widgets over an hour and twelve screens: cold, and after one rule changed."""
    from avrin.binding.binding import bind
    from avrin.binding.places import with_rule
    from avrin.binding.tracks import Tracks
    from avrin.findings.inspector import Inspector
    from avrin.findings.registry import CHECKS
    from avrin.project.project import Screen

    project, trace = sixty(FRAMES)
    project = replace(project, screens=tuple(Screen(name=f"{w} × {h}", size=(w, h)) for w, h in SIZES))
    bound = bind(project, events=trace.event_kinds)
    tracks = Tracks(bound, trace)
    inspector = Inspector(CHECKS)
    start = time.perf_counter()
    found = inspector.inspect(bound, [tracks])
    reached(f"{len(CHECKS)} checks of 60 widgets, an hour, 12 screens", time.perf_counter() - start, "s", "≤ 5 s")
    times = []
    for number in range(9):
        changed = bind(
            with_rule(bound.project, RulePlace("widget", "w3", "inputs", "value"), f"v3 + {number}"),
            bound,
            trace.event_kinds,
        )
        after = Tracks(changed, trace, tracks)
        start = time.perf_counter()
        inspector.inspect(changed, [after])
        times.append(time.perf_counter() - start)
        bound, tracks = changed, after
    reached("  after an edit of one rule", sorted(times)[len(times) // 2] * 1e3, "ms", "≤ 150 ms")
    print(f"  ({len(found)} findings)")


def many() -> None:
    """A hundred recordings on one core and on all."""
    from avrin.demo.install import install_demo
    from avrin.execution.executor import executor
    from avrin.execution.locations import Location
    from avrin.execution.task import task
    from avrin.findings.batch import inspect_all
    from avrin.findings.registry import CHECKS
    from avrin.storage.files import load
    from avrin.trace.frames import Trace
    from avrin.trace.store import open_trace, save_trace

    path = install_demo()
    project, _ = load(path)
    trace = open_trace(path.parent / project.traces[0].path, project.all_variables())
    folder = FOLDER / "many"
    folder.mkdir()
    sources = []
    for number in range(MANY):
        part = slice(number * 37, number * 37 + 6000)
        columns = {name: replace(column, data=column.data[part]) for name, column in trace.columns.items()}
        made = Trace.make(f"{number}", trace.t[part], columns, trace.run[part].tolist())
        save_trace(made, folder / f"{number}.csv")
        sources.append(Location.at(folder / f"{number}.csv"))
    given = task(replace(project, traces=()), path.parent, {}, far=False)
    taken = []
    for jobs in (1, len(os.sched_getaffinity(0))):
        start = time.perf_counter()
        with executor(jobs) as who:
            inspect_all(CHECKS, given, sources, who)
        taken.append(time.perf_counter() - start)
    reached("check over 100 recordings, on one core", taken[0], "s", "")
    reached("  on all cores, that much faster", taken[0] / taken[1], "×", "≥ 1.7×")


def ladders() -> None:
    """The demo's ladder: every widget against every variable, and the one that is live on the card."""
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.demo.install import install_demo
    from avrin.ladder.drivers import drivers
    from avrin.ladder.rows import sweep_row
    from avrin.ladder.samples import finish
    from avrin.storage.files import load
    from avrin.trace.frames import events_of
    from avrin.trace.store import open_trace

    path = install_demo()
    project, _ = load(path)
    traces = [open_trace(path.parent / one.path, project.all_variables()) for one in project.traces]
    bound = bind(project, events=events_of(traces), folder=path.parent)
    tracks = Tracks(bound, traces[0])
    pairs = [(widget, driver) for widget in bound.widgets.values() for driver in drivers(bound, widget)]
    start = time.perf_counter()
    for widget, driver in pairs:
        finish(sweep_row(tracks, widget, driver, 7080, traces))
    reached(f"the demo's ladder, {len(pairs)} rows", time.perf_counter() - start, "s", "≤ 0.8 s")
    _remembering()


def _remembering() -> None:
    """A ladder whose rules remember, at playheads all over an hour: what happened before counts in every cell."""
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.ladder.samples import finish, sample_ladder
    from avrin.project.project import Band, Project, Variable, Widget
    from avrin.trace.frames import Column, Trace

    bar = Widget(
        id="w", kind="bar", bands=(Band(name="low", below="30%", back="40%"),),
        inputs={"value": "ease(hull, 1s)", "full": "100", "caption": "{best(hull) | 0} {mean(hull, 2s) | 0}"},
    )  # fmt: skip
    bound = bind(Project(variables=(Variable(name="hull", type="float", low=0, high=100),), widgets=(bar,)))
    hull = np.clip(np.cumsum(np.random.default_rng(0).normal(0, 1, FRAMES)), 0, 100)
    trace = Trace.make("hour", np.arange(FRAMES) / 60, {"hull": Column("number", hull)})
    tracks = Tracks(bound, trace)
    times = []
    for frame in (FRAMES - 1, 50, 100_000, 200_000, 100_001, 30_000, 150_000, 16_383, 65_000):
        start = time.perf_counter()
        finish(sample_ladder(tracks, bound.widgets["w"], "hull", frame))
        times.append(time.perf_counter() - start)
    reached(
        "  one widget's, live on the card, anywhere in an hour", sorted(times)[len(times) // 2] * 1e3, "ms", "≤ 45 ms"
    )
    reached("  — the first time over a recording", times[0] * 1e3, "ms", "")
