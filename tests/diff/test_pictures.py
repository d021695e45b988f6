"""Where another picture is drawn: against drawing both pictures at each frame, for every sort of edit."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.tracks import Tracks
from avrin.diff.pictures import picture_stretches
from avrin.diff.stretches import both_bound
from avrin.project.project import Place, Project, Screen, Variable, Widget
from avrin.render.pictures import frame_shapes
from avrin.render.svg import svg
from avrin.trace.frames import Column, Trace

SCREEN = Screen(name="s", size=(1920, 1080))
HERE, BESIDE = Place(offset=(10.0, 10.0), size=(200.0, 40.0)), Place(offset=(400.0, 10.0), size=(200.0, 40.0))
BAR = Widget(id="bar", kind="bar", place=HERE, inputs={"value": "hull", "full": "100", "visible": "hull > 20"})
LABEL = Widget(id="said", kind="label", place=HERE, inputs={"text": "{hull | 0}", "visible": "hull < 80"})
PANEL = Widget(id="panel", kind="panel", place=BESIDE)
BASE = Project(variables=(Variable(name="hull", type="float"),), widgets=(BAR, LABEL, PANEL))
EDITS: dict[str, Callable[[Project], Project]] = {
    "nothing": lambda p: replace(p, title="another"),
    "removed": lambda p: replace(p, widgets=p.widgets[1:]),
    "added": lambda p: replace(p, widgets=(*p.widgets, replace(LABEL, id="more", place=BESIDE))),
    "moved": lambda p: p.with_widget(replace(BAR, place=BESIDE)),
    "resized": lambda p: p.with_widget(replace(BAR, place=replace(HERE, size=(150.0, 40.0)))),
    "recoloured": lambda p: p.with_widget(replace(LABEL, look={"text": "#ff0000"})),
    "another rule": lambda p: p.with_widget(replace(LABEL, inputs={**LABEL.inputs, "text": "{max(hull, 50) | 0}"})),
    "another condition": lambda p: p.with_widget(replace(BAR, inputs={**BAR.inputs, "visible": "hull > 40"})),
    "another kind": lambda p: p.with_widget(replace(BAR, kind="ring")),
    "reordered": lambda p: replace(p, widgets=(LABEL, BAR, PANEL)),
    "reordered apart": lambda p: replace(p, widgets=(PANEL, BAR, LABEL)),
}
MAY_BE_MORE = {"reordered", "another kind"}  # a changed order is reported even where nothing overlaps


def differing(old: Tracks, new: Tracks) -> set[int]:
    """Frames at which the drawn pictures are not the same."""

    def drawn(tracks: Tracks, frame: int) -> str:
        return svg(frame_shapes(tracks, frame, SCREEN, None, Path()), *SCREEN.size)

    return {frame for frame in range(len(new.trace)) if drawn(old, frame) != drawn(new, frame)}


@pytest.mark.parametrize("edit", EDITS)
@given(hull=st.lists(st.none() | st.sampled_from([10.0, 30.0, 50.0, 90.0]), min_size=1, max_size=8))
def test_they_are_the_frames_at_which_another_picture_is_drawn(edit: str, hull: list[float | None]) -> None:
    run = [1 if i < 3 else 2 for i in range(len(hull))]
    column = Column.of(hull) if any(v is not None for v in hull) else Column.missing(len(hull), "number")
    trace = Trace.make("t", [float(i) for i in range(len(hull))], {"hull": column}, run)
    bound = both_bound(BASE, EDITS[edit](BASE), {}, (Path(), Path()))
    old, new = (Tracks(one, trace) for one in bound)
    found = picture_stretches(old, new)
    frames = {frame for one in found for frame in range(one.start, one.start + one.frames)}
    expected = differing(old, new) if edit != "reordered apart" else set[int]()  # no pixel is another
    assert frames >= expected if edit in MAY_BE_MORE else frames == expected
    for one in found:
        assert set(run[one.start : one.start + one.frames]) == {one.run}
        assert (one.first, one.last) == (trace.t[one.start], trace.t[one.start + one.frames - 1])
        assert one.widgets


def test_another_reference_is_another_picture_everywhere() -> None:
    trace = Trace.make("t", [0.0, 1.0], {"hull": Column.of([50.0, 60.0])})
    bound = both_bound(BASE, replace(BASE, reference=(1280, 720)), {}, (Path(), Path()))
    (one,) = picture_stretches(*(Tracks(each, trace) for each in bound))
    assert (one.frames, one.widgets) == (2, ("bar", "said", "panel"))
