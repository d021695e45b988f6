"""Thumbnails are the picture: nothing is drawn in one that the picture does not have, and all of it in its proportions."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.kinds.shapes import Clip, Group
from avrin.project.project import Place, Project, Variable, Widget
from avrin.render.bounds import bounds
from avrin.render.scene import widget_shapes
from avrin.render.thumbnail import LEAST, changing_over, changing_part, thumbnail
from avrin.storage.files import load
from avrin.trace.frames import Column, Trace
from avrin.trace.store import open_trace

SIZE = (82.0, 48.0)
BAR = Widget(id="w", kind="bar", inputs={"value": "hull", "full": "100"})


def over(widget: Widget, hull: list[float]) -> Tracks:
    bound = bind(Project(variables=(Variable(name="hull", type="float"),), widgets=(widget,)))
    return Tracks(bound, Trace.make("t", [float(i) for i in range(len(hull))], {"hull": Column.of(list(hull))}))


def inner(drawn: Group) -> Group:
    """The widget in a thumbnail, cropped or not."""
    if drawn.clip is None:
        return drawn
    first = drawn.shapes[0]
    assert isinstance(first, Group)
    return first


def test_each_widget_of_the_sample_is_scaled_as_a_whole(demo: Path) -> None:
    bound = bind(load(demo)[0])
    tracks = Tracks(bound, open_trace(demo.parent / "traces/calm-dive.csv", bound.project.all_variables()))
    for widget in bound.widgets.values():
        state = tracks.state(widget, 600)
        found = inner(thumbnail(widget, state, 0.0, bound, SIZE))
        wide, high = widget.widget.place.size
        assert found.shapes == widget_shapes(widget, state, 0.0, bound).shapes
        assert found.scale == pytest.approx(max(min(SIZE[0] / wide, SIZE[1] / high), LEAST / high))


@pytest.mark.parametrize(
    ("size", "part", "left", "right"),
    [
        ((400.0, 24.0), (0.0, 0.0), False, True),  # nothing changes: its beginning
        ((400.0, 24.0), (350.0, 400.0), True, False),
        ((400.0, 24.0), (190.0, 210.0), True, True),
        ((400.0, 24.0), (0.0, 400.0), False, True),  # more changes than there is room for
        ((80.0, 24.0), (0.0, 0.0), False, False),  # high enough
    ],
)
def test_what_would_be_too_low_is_magnified_and_torn_off(
    size: tuple[float, float], part: tuple[float, float], left: bool, right: bool
) -> None:
    tracks = over(Widget(id="w", kind="bar", inputs=BAR.inputs, place=Place(size=size)), [40.0])
    widget = tracks.bound.widgets["w"]
    drawn = thumbnail(widget, tracks.state(widget, 0), 0.0, tracks.bound, SIZE, part=lambda: part, ground="#102030")
    torn = [bounds((shape,)) for shape in drawn.shapes[1:]] if drawn.clip is not None else []
    assert [any(rect.x == pytest.approx(0) for rect in torn), any(rect.x > 40 for rect in torn)] == [left, right]
    if torn:
        found = inner(drawn)
        assert found.scale == LEAST / size[1]
        assert drawn.clip == Clip(0, 0, *SIZE, 0)
        first, last = (found.dx + end * found.scale for end in part)
        assert -0.01 <= first <= SIZE[0]
        assert last <= SIZE[0] + 0.01 or last - first > SIZE[0]


def test_the_part_that_changes_is_where_states_differ() -> None:
    tracks = over(BAR, [40.0, 60.0, 60.0])
    widget = tracks.bound.widgets["w"]
    wide = widget.widget.place.size[0]
    first, last = changing_over(tracks, widget)
    assert 0 <= first < 0.1 * wide
    assert 0.5 * wide < last < 0.7 * wide  # the fuller fill ends there
    assert changing_part(widget, [tracks.state(widget, 1), tracks.state(widget, 2)], 0.0, tracks.bound) == (0.0, 0.0)
