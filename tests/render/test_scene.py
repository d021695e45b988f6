"""Scenes and SVG: what is drawn, in which order, and as which document."""

from __future__ import annotations

import xml.etree.ElementTree as Xml
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.kinds.shapes import Box, Clip, Group, Shape, TextRun, hatched
from avrin.kinds.shapes import Path as Lines
from avrin.project.project import Band, Place, Project, Screen, Variable, Widget
from avrin.project.project import Group as ModelGroup
from avrin.render.bounds import bounds
from avrin.render.fonts import TextMeasure, shape
from avrin.render.scene import scene
from avrin.render.svg import svg
from avrin.trace.frames import Column, Trace

SCREEN = Screen(name="s", size=(960, 540))


def flashing() -> Tracks:
    base = Project(
        variables=(Variable(name="hull", type="float"), Variable(name="leak", type="bool")),
        groups=(ModelGroup(id="g", offset=(100.0, 0.0)),),
        widgets=(
            Widget(id="below", kind="label", inputs={"text": "below"}, group="g", place=Place(offset=(10.0, 20.0))),
            Widget(
                id="above",
                kind="bar",
                inputs={"value": "hull", "full": "100", "visible": "leak"},
                bands=(Band(name="low", below="50%"),),
                look={"bands": {"low": {"flash": "1s"}}},
            ),
        ),
    )
    columns = {"hull": Column.of([90.0, 10.0, 10.0, 10.0]), "leak": Column.of([False, True, True, None])}
    return Tracks(bind(base), Trace.make("t", [0.0, 1.25, 1.75, 2.0], columns))


def test_later_widgets_lie_over_earlier_ones_and_hidden_ones_are_not_there() -> None:
    tracks = flashing()
    assert [[p.ident for p in scene(tracks, i, SCREEN)] for i in range(4)] == [
        ["below"],
        ["below", "above"],
        ["below", "above"],
        ["below"],
    ]


def test_groups_shift_what_lies_in_them() -> None:
    (placed,) = scene(flashing(), 0, SCREEN)
    assert (placed.rect.x, placed.rect.y) == (55.0, 10.0)  # (100 + 10, 20) at half size


def test_flashing_depends_on_the_time_alone() -> None:
    tracks = flashing()
    opacity = [scene(tracks, i, SCREEN)[1].group.opacity for i in (1, 2)]
    assert opacity == [1.0, 0.3]  # at 1.25 s in the first half of the second period, at 1.75 s in its second
    assert scene(tracks, 2, SCREEN) == scene(tracks, 2, SCREEN)


SHAPES: list[Shape] = [
    Box(1, 2, 30, 10, "#ff0000", 3, "#00ff0080", 2),
    Group((Box(0, 0, 5, 5, "#0000ff"), hatched(0, 0, 40, 12)), 10, 20, 0.5, 0.5, Clip(0, 0, 20, 20, 4), "a<b"),
    TextRun(5, 30, 'a < b & "c" é', 14, "#123456", align="right"),
    Lines((("M", 0.0, 0.0), ("C", 1.0, 2.0, 3.0, 4.0, 5.0, 6.0), ("Z",)), "#abcdef", "#000000", 1.5),
]


def test_svg_is_well_formed_keeps_the_words_and_is_the_same_each_time() -> None:
    text = svg(SHAPES, 100, 50)
    root = Xml.fromstring(text)
    assert root.attrib["viewBox"] == "0 0 100 50"
    assert [e.attrib["aria-label"] for e in root.iter() if "aria-label" in e.attrib] == ['a < b & "c" é']
    assert [e.attrib["data-widget"] for e in root.iter() if "data-widget" in e.attrib] == ["a<b"]
    assert text == svg(SHAPES, 100, 50)


def test_bounds_hold_everything_and_clips_cut_them() -> None:
    assert tuple(bounds(SHAPES[:1])) == (1, 2, 30, 10)
    assert tuple(bounds(SHAPES[1:2])) == (10, 20, 10, 6)  # clipped to 20 × 12 (the hatching's height), at half size
    assert bounds([]) == (0, 0, 0, 0)


@given(st.text("0123456789", min_size=1, max_size=8))
def test_figures_are_of_equal_width(text: str) -> None:
    assert TextMeasure().width(text, 20) == pytest.approx(len(text) * TextMeasure().width("0", 20))


@given(st.text(max_size=30), st.floats(4, 100))
def test_any_text_is_shaped_and_its_width_grows_with_its_size(text: str, size: float) -> None:
    run = shape(text, size)
    assert run.width >= 0
    assert shape(text, 2 * size).width == pytest.approx(2 * run.width)


def test_a_font_that_is_not_there_is_marked_and_the_text_can_be_read(tmp_path: Path) -> None:
    look = {"font": "fonts/none.ttf"}
    base = Project(widgets=(Widget(id="word", kind="label", inputs={"text": "Haul"}, look=look),))
    tracks = Tracks(bind(base, folder=tmp_path), Trace.make("t", [0.0], {}))
    mark, text = scene(tracks, 0, SCREEN)[0].group.shapes
    assert isinstance(mark, Box)
    assert isinstance(text, TextRun)
    assert (text.text, text.font, mark.edge) == ("Haul", None, "#ff6b78")
    assert (mark.width, mark.height) == pytest.approx(bounds((text,))[2:])


@given(st.lists(st.floats(-100, 100), min_size=8, max_size=8))
def test_curves_reach_as_far_as_their_points_do(n: list[float]) -> None:
    curve = Lines((("M", n[0], n[1]), ("C", *n[2:])), edge="#ffffff")
    t = np.linspace(0, 1, 2001)
    weights = np.stack([(1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t**2, t**3])
    xs, ys = np.array(n[0::2]) @ weights, np.array(n[1::2]) @ weights
    got = bounds((curve,))
    if got.width and got.height:
        want = (xs.min(), ys.min(), np.ptp(xs), np.ptp(ys))
        assert tuple(got) == pytest.approx(want, abs=1e-3)


def test_a_shadow_lies_under_its_letters_where_the_look_says() -> None:
    look = {"shadow": "#000000", "shadow_at": [3, 5], "outline": "#101010", "outline_width": 2}
    label = Widget(id="w", kind="label", inputs={"text": "Hull"}, look=look)
    (item,) = scene(Tracks(bind(Project(widgets=(label,))), Trace.make("t", [0.0], {})), 0, SCREEN)
    under, letters = item.group.shapes
    assert isinstance(under, TextRun)
    assert isinstance(letters, TextRun)
    assert (under.x - letters.x, under.y - letters.y) == (3, 5)
    assert (under.fill, under.edge, under.edge_width) == ("#000000", "#000000", 2)
    assert (letters.edge, letters.edge_width) == ("#101010", 2)
