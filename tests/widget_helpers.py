"""A widget of any kind over a short made-up trace, one frame a second."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.kinds.kind import Drawing
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box, Group, Shape, TextRun
from avrin.project.project import Band, Place, Project, Variable, Widget
from avrin.render.fonts import TextMeasure
from avrin.trace.frames import Column, Event, Trace, Value

VARIABLES = (
    Variable(name="hull", type="float", low=0, high=100),
    Variable(name="air", type="float"),
    Variable(name="scrap", type="int", low=0, high=999),
    Variable(name="leak", type="bool"),
    Variable(name="phase", type="text"),
)


def project(
    kind: str, inputs: dict[str, str], options: Any = None, bands: Any = (), size: Any = (100, 20), **more: Any
) -> Project:
    widget = Widget(
        id="w",
        kind=kind,
        inputs=inputs,
        options=options or {},
        bands=tuple(Band(**band) for band in bands),
        place=Place(size=size),
        **more,
    )
    return Project(variables=VARIABLES, widgets=(widget,))


def over(bound: Bound, columns: dict[str, list[Value]], events: Iterable[Event] = ()) -> Tracks:
    frames = len(next(iter(columns.values())))
    made = {name: Column.of(values) for name, values in columns.items()}
    return Tracks(bound, Trace.make("t", [float(i) for i in range(frames)], made, events=events))


def states(
    kind: str, inputs: dict[str, str], options: Any = None, bands: Any = (), **columns: list[Value]
) -> list[dict[str, Value]]:
    bound = bind(project(kind, inputs, options, bands))
    bound.raise_first()
    tracks = over(bound, columns)
    return [tracks.state(bound.widgets["w"], frame) for frame in range(len(tracks.trace))]


def drawn(
    kind: str, inputs: dict[str, str], options: Any = None, size: Any = (100, 20), look: Any = None, **values: Value
) -> tuple[Shape, ...]:
    bound = bind(project(kind, inputs, options, size=size, look=look or {}))
    bound.raise_first()
    widget = bound.widgets["w"]
    state = over(bound, {name: [value] for name, value in values.items()}).state(widget, 0)
    width, height = size
    return KINDS[kind].shapes(Drawing(state, width, height, widget.options, widget.looks[""], TextMeasure(), "—"))


def boxes(shapes: tuple[Shape, ...]) -> list[Box]:
    """All boxes, those within groups too."""
    found: list[Box] = []
    for shape in shapes:
        if isinstance(shape, Box):
            found.append(shape)
        elif isinstance(shape, Group):
            found += boxes(shape.shapes)
    return found


def texts(shapes: tuple[Shape, ...]) -> list[TextRun]:
    return [shape for shape in shapes if isinstance(shape, TextRun)]
