"""Viewing distance: the visual angle of letters, worked out by hand; unreadable text is covered."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.kinds.shapes import Box, Group, Shape, TextRun
from avrin.project.project import Place, Project, Recording, Region, Screen, Widget
from avrin.render.fonts import TextMeasure
from avrin.render.layout import Rect
from avrin.render.lettering import texts
from avrin.render.scene import scene
from avrin.screens.distance import DISTANCE, distance_shapes
from avrin.screens.spoken import Spoken
from avrin.storage.files import save
from avrin.trace.frames import Trace
from avrin.trace.store import save_trace

# A metre wide and 0.5625 m high, 1,000 pixels across: a pixel is a millimetre. Its diagonal in inches:
ACROSS = math.hypot(1.0, 0.5625) / 0.0254
SOFA = Screen(name="sofa", size=(1000, 563), inches=ACROSS, metres=3.0)


def shown(*sizes: float, screen: Screen = SOFA, legible: float = 16.0) -> list[Shape]:
    over = tracks(*sizes, screen=screen, legible=legible)
    return distance_shapes(over, 0, screen, 10.0, Spoken(over).seen_by("own"))


def tracks(*sizes: float, screen: Screen = SOFA, legible: float = 16.0) -> Tracks:
    widgets = tuple(
        Widget(
            id=f"w{at}", kind="label", inputs={"text": f"Text {at}"}, look={"text_size": size},
            place=Place(offset=(40.0, 60.0 * at), size=(300.0, 50.0)),
        )
        for at, size in enumerate(sizes)
    )  # fmt: skip
    project = Project(widgets=widgets, reference=(1000, 563), screens=(screen,), legible=legible)
    return Tracks(bind(project), Trace.make("t", [0.0, 1.0], {}))


def words(shapes: list[Shape]) -> list[str]:
    said = []
    for shape in shapes:
        said += (
            words([*shape.shapes]) if isinstance(shape, Group) else [shape.text] if isinstance(shape, TextRun) else []
        )
    return said


def test_each_text_says_how_high_its_capitals_are_seen_to_be() -> None:
    """A capital of h mm, 3 m away, is 2·atan(h / 6000) high."""
    cap = TextMeasure().cap_height(1.0)
    angles = [math.degrees(2 * math.atan(size * cap / 6000)) * 60 for size in (20.0, 30.0)]
    assert [f"{angle:.0f}'" for angle in angles] == words(shown(20.0, 30.0))
    nearer = replace(SOFA, metres=1.5)
    assert words(shown(20.0, screen=nearer)) == [f"{math.degrees(2 * math.atan(20 * cap / 3000)) * 60:.0f}'"]


def test_what_is_below_the_limit_is_covered_and_what_is_at_it_is_not() -> None:
    cap = TextMeasure().cap_height(1.0)
    limit = math.tan(math.radians(16 / 60) / 2) * 6000 / cap  # pixels an em
    assert [isinstance(item, Box) for item in shown(limit * 1.001)] == [False]
    assert [isinstance(item, Box) for item in shown(limit * 0.999)] == [True, False]
    assert [isinstance(item, Box) for item in shown(limit * 0.999, legible=12.0)] == [False]


def test_a_screen_that_does_not_say_how_it_is_looked_at_says_that() -> None:
    assert words(shown(20.0, screen=replace(SOFA, metres=0.0))) == ["size and distance unknown"]


def test_each_part_of_a_split_screen_is_looked_at_on_its_own() -> None:
    halves = (Region(name="a", box=(0, 0, 0.5, 1), slot=0), Region(name="b", box=(0.5, 0, 0.5, 1), slot=1))
    split = replace(SOFA, views=halves)
    groups = [item for item in shown(20.0, screen=split) if isinstance(item, Group)]
    assert [(item.dx, item.dy) for item in groups] == [(0, 0), (500, 0)]
    assert words([*groups]) == words(shown(20.0)) * 2


def test_the_mend_writes_it_large_enough_to_be_read() -> None:
    over = tracks(14.0)
    (item,) = [item for item in Inspector(CHECKS).inspect(over.bound, [over]) if item.code == "too-small"]
    assert item.fix is not None
    mended = item.fix.apply(over.bound.project)
    again = Tracks(bind(mended), over.trace)
    assert not [item for item in Inspector(CHECKS).inspect(again.bound, [again]) if item.code == "too-small"]
    assert mended.widgets[0].look["text_size"] == int(item.fix.label.split()[2])


def test_the_commands_draw_it(tmp_path: Path) -> None:
    over = tracks(14.0)
    save(replace(over.bound.project, traces=(Recording(path="t.csv"),)), tmp_path / "p.avrin")
    save_trace(over.trace, tmp_path / "t.csv")
    said = [str(tmp_path / "p.avrin"), "--trace", str(tmp_path / "t.csv"), "--at", "0", "--eyes", DISTANCE]
    for command in ("frame", "screens"):
        out = tmp_path / f"{command}.svg"
        assert main([command, *said, "--out", str(out)]) == 0
        plain = tmp_path / f"{command}-plain.svg"
        assert main([command, *said[:-2], "--out", str(plain)]) == 0
        assert len(out.read_text()) > len(plain.read_text())


def test_eyes_nobody_has_are_reported_with_those_there_are(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    over = tracks(14.0)
    save(over.bound.project, tmp_path / "p.avrin")
    save_trace(over.trace, tmp_path / "t.csv")
    said = [
        "frame",
        str(tmp_path / "p.avrin"),
        "--trace",
        str(tmp_path / "t.csv"),
        "--at",
        "0",
        "--out",
        str(tmp_path / "o.svg"),
    ]
    assert main([*said, "--eyes", "its distanse"]) == 2
    assert "did you mean 'its distance'?" in capsys.readouterr().err


def _boxes(shapes: list[Shape], x: float = 0.0, y: float = 0.0) -> list[Rect]:
    """Grounds of figures and covers, in the screen's pixels."""
    found = []
    for shape in shapes:
        if isinstance(shape, Group):
            found += _boxes([*shape.shapes], x + shape.dx, y + shape.dy)
        elif isinstance(shape, Box):
            found.append(Rect(x + shape.x, y + shape.y, shape.width, shape.height))
    return found


PLACES = st.tuples(st.floats(0, 900), st.integers(0, 8), st.floats(8, 60))


@given(st.lists(PLACES, min_size=1, max_size=6, unique_by=lambda item: item[1]))
def test_figures_stand_beside_their_text_at_its_height_and_on_no_other(places: list[tuple[float, int, float]]) -> None:
    widgets = tuple(
        Widget(
            id=f"w{at}", kind="label", inputs={"text": f"Text {at}"}, look={"text_size": size},
            place=Place(offset=(x, 62.0 * row), size=(300.0, 60.0)),
        )
        for at, (x, row, size) in enumerate(places)
    )  # fmt: skip
    project = Project(widgets=widgets, reference=(1000, 563), screens=(SOFA,))
    over = Tracks(bind(project), Trace.make("t", [0.0], {}))
    found = {item.ident: rect for item in scene(over, 0, SOFA) for _, rect in texts(item)}
    boxes = _boxes(distance_shapes(over, 0, SOFA, 10.0, Spoken(over).seen_by("own")))
    covers = [box for box in boxes if any(_holds(box, rect) for rect in found.values())]
    for box in boxes:
        if box in covers:
            continue
        assert box.x >= 0
        assert box.x + box.width <= 1000
        beside = [rect for rect in found.values() if abs(rect.center[1] - box.center[1]) < 1e-6]
        assert any(
            abs(box.x - rect.x - rect.width - 3) < 1e-6 or abs(rect.x - box.x - box.width - 3) < 1e-6 for rect in beside
        )
        assert not any(_shared(box, rect) for rect in found.values())


def _holds(item: Rect, other: Rect) -> bool:
    right, bottom = other.x + other.width, other.y + other.height
    return item.x <= other.x and item.y <= other.y and item.x + item.width >= right and item.y + item.height >= bottom


def _shared(item: Rect, other: Rect) -> bool:
    across = min(item.x + item.width, other.x + other.width) - max(item.x, other.x)
    along = min(item.y + item.height, other.y + other.height) - max(item.y, other.y)
    return across > 1e-6 and along > 1e-6


def test_where_there_is_room_at_a_side_a_figure_stands_there() -> None:
    assert len(_boxes(shown(30.0))) == 1
    (left,) = _boxes(shown(30.0))
    (text,) = [rect for item in scene(tracks(30.0), 0, SOFA) for _, rect in texts(item)]
    assert left.x == pytest.approx(text.x + text.width + 3)
    (lost,) = [rect for item in scene(tracks(8.0), 0, SOFA) for _, rect in texts(item)]
    assert _holds(_boxes(shown(8.0))[0], lost)
