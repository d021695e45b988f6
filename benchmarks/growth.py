"""Even growth: ten times the size takes about ten times as long, for everything that can grow."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from common import FOLDER, reached

__all__ = ["run"]

LIMIT = "≤ 13×"


def run() -> None:
    """What a project or a recording may have many of, at three sizes: opened, bound, evaluated, a frame laid out."""
    for what, sizes, work in (
        ("widgets", (100, 1_000, 10_000), _widgets),
        ("groups in a chain", (50, 500, 5_000), _groups),
        ("events", (1_000, 10_000, 100_000), _events),
        ("runs", (2_000, 20_000, 200_000), _runs),
        ("distinct texts", (1_000, 10_000, 100_000), _texts),
        ("distinct numbers as texts", (10_000, 100_000, 1_000_000), _numbers),
    ):
        work(sizes[0])  # loading and caching in the first call do not count as growth
        took = [_seconds(work, size) for size in sizes]
        for size, before, after in zip(sizes[1:], took, took[1:], strict=False):
            reached(f"{size:,} {what}, in {after:.2f} s, times a tenth", after / before, "×", LIMIT)


def _seconds(work: Callable[[int], object], size: int) -> float:
    start = time.perf_counter()
    work(size)
    return time.perf_counter() - start


def _widgets(count: int) -> None:
    """Written, read, bound, evaluated, laid out; then one of them is edited."""
    from msgspec.structs import replace

    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.project.project import Place, Project, Screen, Variable, Widget
    from avrin.render.scene import scene
    from avrin.storage.files import dumps, loads
    from avrin.trace.frames import Column, Trace

    inputs = (
        lambda i: ("bar", {"value": f"v{i % 50}", "full": "100"}),
        lambda i: ("counter", {"value": f"v{i % 50} + {i}"}),
        lambda i: ("label", {"text": f"{{v{i % 50} | 0}} {i}"}),
    )
    made = []
    for i in range(count):
        kind, fed = inputs[i % 3](i)
        made.append(Widget(id=f"w{i}", kind=kind, inputs=fed, place=Place(offset=(i % 100 * 10.0, i // 100 * 10.0))))
    variables = tuple(Variable(name=f"v{i}", type="float", low=0, high=100) for i in range(50))
    project, _ = loads(dumps(Project(variables=variables, widgets=tuple(made))).encode())
    columns = {f"v{i}": Column("number", np.linspace(0, 100, 600)) for i in range(50)}
    trace = Trace.make("t", np.arange(600) / 60, columns)
    bound = bind(project)
    tracks = Tracks(bound, trace)
    scene(tracks, 300, Screen(name="s", size=(1920, 1080)))
    edited = project.with_widget(replace(project.widgets[0], inputs={"value": "v3", "full": "50"}))
    Tracks(bind(edited, bound), trace, tracks)


def _groups(count: int) -> None:
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.project.project import Group, Project, Screen, Variable, Widget
    from avrin.render.scene import scene
    from avrin.storage.files import dumps, loads
    from avrin.trace.frames import Column, Trace

    groups = tuple(Group(id=f"g{i}", group=f"g{i - 1}" if i else "", visible="v > 0") for i in range(count))
    label = Widget(id="w", kind="label", group=f"g{count - 1}", inputs={"text": "x"})
    written = dumps(Project(variables=(Variable(name="v", type="float"),), groups=groups, widgets=(label,)))
    project, _ = loads(written.encode())
    trace = Trace.make("t", [0.0, 1.0], {"v": Column.of([1.0, 2.0])})
    scene(Tracks(bind(project), trace), 0, Screen(name="s", size=(1920, 1080)))


def _events(count: int) -> None:
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.project.project import Project, Screen, Variable, Widget
    from avrin.render.scene import scene
    from avrin.trace.frames import Column, Event, Trace
    from avrin.trace.store import open_trace, save_trace

    happened = [Event(i * 100 / count, "hit", {"points": float(i)}) for i in range(count)]
    trace = Trace.make("t", np.arange(6000) / 60, {"v": Column("number", np.linspace(0, 100, 6000))}, events=happened)
    path = FOLDER / f"{count}-events.csv"
    save_trace(trace, path)
    trace = open_trace(path)
    feed = Widget(id="f", kind="feed", options={"lines": {"hit": "{points}"}})
    counter = Widget(id="c", kind="counter", inputs={"value": "events(hit)"})
    project = Project(variables=(Variable(name="v", type="float"),), widgets=(feed, counter))
    tracks = Tracks(bind(project, events=trace.event_kinds), trace)
    for frame in range(0, 6000, 600):
        scene(tracks, frame, Screen(name="s", size=(1920, 1080)))


def _runs(count: int) -> None:
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.project.project import Project, Variable, Widget
    from avrin.trace.frames import Column, Trace
    from avrin.trace.store import open_trace, save_trace

    values = Column("number", np.linspace(0, 100, count * 3))
    trace = Trace.make("t", np.tile([0.0, 0.1, 0.2], count), {"v": values}, np.repeat(np.arange(count), 3).tolist())
    path = FOLDER / f"{count}-runs.csv"
    save_trace(trace, path)
    variable = Variable(name="v", type="float")
    trace = open_trace(path, {"v": variable})
    bar = Widget(id="w", kind="bar", inputs={"value": "v", "full": "100", "visible": "held(v > 3, 1s)"})
    Tracks(bind(Project(variables=(variable,), widgets=(bar,))), trace)


def _texts(count: int) -> None:
    from avrin.binding.binding import bind
    from avrin.binding.tracks import Tracks
    from avrin.project.project import Project, Variable, Widget
    from avrin.trace.frames import Column, Trace
    from avrin.trace.store import open_trace, save_trace

    names = Column.of([f"name {i}" for i in range(count)])
    path = FOLDER / f"{count}-texts.csv"
    save_trace(Trace.make("t", np.arange(count) / 60, {"s": names}), path)
    variable = Variable(name="s", type="text")
    trace = open_trace(path, {"s": variable})
    label = Widget(id="w", kind="label", inputs={"text": "hi {upper(s)}", "visible": 's != "name 3"'})
    tracks = Tracks(bind(Project(variables=(variable,), widgets=(label,))), trace)
    tracks.column(tracks.bound.widgets["w"].columns["text"])


def _numbers(count: int) -> None:
    from avrin.rules.check import Scope
    from avrin.rules.scan import evaluate
    from avrin.trace.frames import Column, Trace

    values = Column("number", np.random.default_rng(1).random(count) * 1e6)
    scope = Scope({"x": "number"})
    evaluate([scope.rule('text(x, "0.00")')], Trace.make("t", np.arange(count) / 60, {"x": values}), scope.graph)
