"""Two painters, one picture: Qt's and the SVG, rasterised by a library that knows neither, agree."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import resvg_py
from msgspec.structs import replace
from PySide6.QtGui import QColor, QImage, QPainter

from avrin.app.main import application
from avrin.app.painting import paint as paint_module
from avrin.app.painting.export import painted
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw
from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box, Clip, Font, Group, NineSlice, Picture, Shape, TextRun, hatched
from avrin.kinds.shapes import Path as Lines
from avrin.project.project import Plate, Screen
from avrin.render.bounds import bounds
from avrin.render.fonts import MONO
from avrin.render.pictures import frame_shapes, save_picture
from avrin.render.scene import scene, widget_shapes
from avrin.render.svg import svg
from avrin.storage.files import load
from avrin.trace.frames import Column, Trace
from avrin.trace.store import open_trace
from widget_helpers import over, project

GROUND = Box(0, 0, 200, 100, "#142027")


@pytest.fixture(autouse=True)
def _application() -> None:
    application()


def by_qt(shapes: list[Shape], width: int, height: int) -> np.ndarray:
    image = QImage(width, height, QImage.Format.Format_RGBA8888)
    image.fill(QColor("#142027"))
    with painting(image) as painter:
        draw(painter, shapes)
    return np.array(image.constBits(), np.uint8).reshape(height, width, 4)[:, :, :3].astype(int)


def by_svg(shapes: list[Shape], width: int, height: int) -> np.ndarray:
    image = QImage.fromData(bytes(resvg_py.svg_to_bytes(svg_string=svg(shapes, width, height))))
    image = image.convertToFormat(QImage.Format.Format_RGBA8888)
    return np.array(image.constBits(), np.uint8).reshape(height, width, 4)[:, :, :3].astype(int)


def apart(shapes: list[Shape], width: int = 200, height: int = 100) -> tuple[float, float]:
    """Mean difference of a channel, and the share of pixels that differ by more than an edge's smoothing can."""
    difference = np.abs(by_qt(shapes, width, height) - by_svg(shapes, width, height)).max(axis=2)
    return float(difference.mean()), float((difference > 64).mean())


SHAPES: dict[str, Shape] = {
    "box": Box(10.5, 10.25, 120, 40, "#4c9a80"),
    "round box": Box(10, 10, 120, 40, "#4c9a80", 12),
    "edge": Box(10, 10, 120, 40, "#10222b", 8, "#dfe9e4", 3),
    "clear edge": Box(10, 10, 120, 40, "#d2483f80", 100, "#ffffff80", 5),
    "text": TextRun(10, 60, "Depth 31.5 m", 28, "#ffe9a8"),
    "bold text": TextRun(190, 60, "263 | äß", 40, "#ffffff", True, "right"),
    "centred": TextRun(100, 50, "AVAWA fi", 24, "#ffffff90", False, "center"),
    "curve": Lines((("M", 10.0, 80.0), ("C", 60.0, -40.0, 120.0, 140.0, 190.0, 20.0)), edge="#d9902f", edge_width=4),
    "hatched": hatched(10, 20, 150, 40, 6),
    "clip": Group((Box(0, 0, 200, 100, "#4c9a80"),), clip=Clip(20, 20, 100, 50, 16)),
    "scaled": Group((Box(0, 0, 60, 20, "#d9902f", 6), TextRun(4, 16, "low", 16, "#142027")), 15.5, 20.25, 2.4),
    "faded": Group((Box(10, 10, 80, 60, "#4c9a80"), Box(50, 30, 120, 60, "#c7473c")), opacity=0.5),
    "outlined": TextRun(20, 60, "Hull 31", 40, "#ffe9a8", True, edge="#10222b", edge_width=3),
    "other font": TextRun(20, 60, "Tide 3:41", 32, "#ffffff", edge="#10222b", edge_width=2, font=MONO),
    "own figures": TextRun(10, 60, "1,111.11", 40, "#ffffff", font=Font("FiraGO_Bold", even=False)),
    "nested": Group((Group((Box(0, 0, 50, 50, "#fff000"),), 10, 10, 0.5, 0.5),), 20, 20, 2, 0.5, Clip(0, 0, 40, 40)),
}


@pytest.mark.parametrize("name", SHAPES)
def test_painters_agree_on_every_shape(name: str) -> None:
    mean, off = apart([GROUND, SHAPES[name]])
    assert mean < 0.6
    assert off < 0.002
    assert np.ptp(by_qt([GROUND, SHAPES[name]], 200, 100)) > 50  # there is something to agree on


def sheet(folder: Path) -> str:
    """A picture of ten cells, 8 × 12 pixels each, every one of another colour."""
    image = QImage(80, 12, QImage.Format.Format_RGBA8888)
    image.fill(QColor(0, 0, 0, 0))
    painter = QPainter(image)
    for i in range(10):
        painter.fillRect(i * 8 + 1, 1, 6, 10, QColor.fromHsv(i * 36, 200, 230))
    painter.end()
    image.save(str(folder / "sheet.png"))
    return str(folder / "sheet.png")


def test_painters_agree_on_pictures_their_parts_tints_and_slices(tmp_path: Path) -> None:
    source = sheet(tmp_path)
    for shape in (
        Picture(10, 10, 160, 24, source),
        Picture(10, 10, 160, 24, source, "#8080ff"),
        Picture(10, 10, 32, 48, source, part=(24, 0, 8, 12)),
        NineSlice(10, 10, 160, 60, source, (4, 4, 4, 4)),
    ):
        mean, off = apart([GROUND, shape])
        assert off < 0.03, shape  # smoothing between the pixels of a small picture differs at its edges
        assert mean < 2.5, shape
    tinted = by_qt([GROUND, Picture(10, 10, 160, 24, source, "#ff0000")], 200, 100)
    assert tinted[20, 100, 1] == tinted[20, 100, 2] == 0  # only red is left
    assert (tinted[5, 5] == by_qt([GROUND], 200, 100)[5, 5]).all()


def test_figures_of_a_sheet_and_a_mark_for_what_it_lacks(tmp_path: Path) -> None:
    sheet(tmp_path)
    face = {"picture": "sheet.png", "cell": [8, 12], "characters": "0123456789"}
    base = project("counter", {"value": "hull"}, {"face": face, "pattern": "0.0"}, size=(150, 60))
    bound = bind(replace(base, reference=(200, 100)), folder=tmp_path)
    bound.raise_first()
    (placed,) = scene(over(bound, {"hull": [31.5]}), 0, Screen(name="s", size=(200, 100)))
    (figures,) = [s for s in placed.group.shapes if isinstance(s, Group)]
    cells = [s.part for s in figures.shapes if isinstance(s, Picture)]
    assert cells == [(24, 0, 8, 12), (8, 0, 8, 12), (40, 0, 8, 12)]
    assert len([s for s in figures.shapes if isinstance(s, Lines)]) == 1  # the sheet has no glyph for the point


def test_a_cell_beyond_its_sheet_is_marked_by_both_painters(tmp_path: Path) -> None:
    source = sheet(tmp_path)
    width = QImage(source).width()
    for part, marked in (((width - 8.0, 0.0, 8.0, 12.0), False), ((width - 7.0, 0.0, 8.0, 12.0), True)):
        shapes: list[Shape] = [GROUND, Picture(10, 10, 60, 40, source, part=part)]
        assert ('stroke="#ff6b78"' in svg(shapes, 200, 100)) is marked
        red = by_qt(shapes, 200, 100)[10, 40].tolist()  # on the upper edge of the mark
        assert (red == [0xFF, 0x6B, 0x78] or red == [0x78, 0x6B, 0xFF]) is marked


def test_a_broken_picture_is_marked_and_not_left_out(tmp_path: Path) -> None:
    (tmp_path / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\nnothing")
    shown = by_qt([GROUND, Picture(10, 10, 60, 40, str(tmp_path / "broken.png"))], 200, 100)
    assert (shown[30, 40] != shown[5, 5]).any()


# Every kind, in states that draw different shapes.
STATES: list[tuple[str, dict[str, object], dict[str, object], dict[str, object]]] = [
    ("bar", {"value": "hull", "full": "100", "caption": "HULL"}, {"segments": 4, "trail": {}}, {}),
    ("bar", {"value": "hull", "full": "air"}, {"grow": "up", "over": "spill"}, {}),
    ("ring", {"value": "hull", "full": "100", "caption": "{hull | 0}"}, {"segments": 5}, {"thick": 12}),
    ("ring", {"value": "hull", "full": "100"}, {"start": -120, "sweep": 240}, {}),
    ("pips", {"value": "hull", "full": "100"}, {"per_pip": 20, "parts": 4}, {"asset": "heart", "edge": "#ffffff"}),
    ("pips", {"value": "hull", "full": "100"}, {"per_pip": 5, "most": 6}, {"asset": "drop"}),
    ("pips", {"value": "hull", "full": "100"}, {"per_pip": 30}, {"asset": "coin"}),
    ("counter", {"value": "hull", "caption": "hull"}, {"pattern": "#,##0.0"}, {}),
    ("label", {"text": "Hull {hull | 0}"}, {}, {"back": "#0b1a22d8"}),
    ("timer", {"value": "hull", "caption": "TIDE"}, {}, {"align": "center"}),
    ("prompt", {"when": "true", "text": "Seal"}, {"keys": {"k": "F"}, "pulse": 2}, {}),
    ("banner", {"when": "true", "title": "Lost", "note": "again?"}, {}, {"text_size": 40, "back": "#3a0f0fd0"}),
    ("picture", {}, {"asset": "skull"}, {"tint": "#ff8f80"}),
    ("picture", {}, {"asset": "nut"}, {"tint": "#ffe9a8"}),
    ("picture", {}, {"asset": "gone.png"}, {}),
    ("panel", {}, {}, {"edge": "#dfe9e4", "radius": 14}),
    ("button", {"label": "Patch", "enabled": "hull > 20"}, {"key": "P"}, {}),
]


@pytest.mark.parametrize(("kind", "inputs", "options", "look"), STATES)
@pytest.mark.parametrize("hull", [62.0, 0.0, 130.0, -7.0, None])
def test_painters_agree_on_every_kind(
    kind: str, inputs: dict[str, str], options: dict[str, object], look: dict[str, object], hull: float | None
) -> None:
    base = project(kind, inputs, options, size=(150, 60), look=look)
    placed = replace(base, widgets=tuple(replace(w, place=replace(w.place, offset=(20.0, 20.0))) for w in base.widgets))
    bound = bind(replace(placed, reference=(200, 100)))
    bound.raise_first()
    tracks = over(bound, {"hull": [hull], "air": [80.0]})
    shapes: list[Shape] = [GROUND, *(p.group for p in scene(tracks, 0, Screen(name="s", size=(200, 100))))]
    mean, off = apart(shapes)
    assert mean < 1.2  # a dimmed screen may be one step of 255 off everywhere, by rounding
    assert off < 0.004
    assert len(shapes) == 2


@pytest.mark.parametrize("seconds", [0.0, 60.0, 112.0, 150.0, 152.0])
def test_painters_agree_on_the_demo(demo: Path, seconds: float) -> None:
    bound = bind(load(demo)[0])
    trace = open_trace(demo.parent / "traces/leaky-dive.csv", bound.project.all_variables())
    screen = Screen(name="s", size=(960, 540))
    shapes = frame_shapes(Tracks(bound, trace), trace.frame_at(seconds), screen, None, demo.parent)
    mean, off = apart(shapes, 960, 540)
    assert mean < (1.2 if seconds == 152.0 else 0.4)  # what is translucent may be a step of 255 off, by rounding
    assert off < 0.001


def test_a_plate_lies_under_the_widgets_in_both(demo: Path, tmp_path: Path) -> None:
    bound = bind(load(demo)[0])
    trace = open_trace(demo.parent / "traces/calm-dive.csv", bound.project.all_variables())
    screen = Screen(name="s", size=(480, 270))
    shapes = frame_shapes(Tracks(bound, trace), 600, screen, bound.project.plates[0], demo.parent)
    mean, off = apart(shapes, 480, 270)
    assert mean < 2.0  # two renderers of the plate's gradients
    assert off < 0.01
    save_picture(shapes, *screen.size, tmp_path / "f.png", painted)
    assert QImage(str(tmp_path / "f.png")).width() == 480
    with pytest.raises(AvrinError, match=r"'\.bmp' is not a picture format"):
        save_picture(shapes, *screen.size, tmp_path / "f.bmp", painted)
    with pytest.raises(AvrinError, match=r"there is no file 'gone\.png'"):
        frame_shapes(Tracks(bound, trace), 0, screen, Plate(name="gone", picture="gone.png"), demo.parent)


def test_on_a_display_of_twice_as_many_pixels_texts_are_the_finer_picture() -> None:
    run = TextRun(10, 30, "Hull", 20, "#ffe9a8", edge="#10222b", edge_width=2)
    image = QImage(160, 80, QImage.Format.Format_RGBA8888)
    image.setDevicePixelRatio(2)
    image.fill(QColor("#142027"))
    painter = QPainter(image)
    draw(painter, [run])
    painter.end()
    fine = np.array(image.constBits(), np.uint8).reshape(80, 160, 4)[:, :, :3].astype(int)
    assert np.abs(fine - by_qt([Group((run,), scale=2)], 160, 80)).max() <= 2


def test_what_cannot_be_painted_is_marked_and_all_else_is(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def fails(*_: object) -> None:
        raise OverflowError("unexpected")

    shapes = [
        Group((Box(10, 10, 30, 30, "#00ff00"), Lines((("M", 0.0, 0.0), ("L", 5.0, 5.0)), edge="#ffffff", edge_width=1.0)), 5, 5),
        Group((Box(60, 10, 30, 30, "#0000ff"),)),
    ]  # fmt: skip
    monkeypatch.setattr(paint_module, "_path", fails)
    image = QImage(100, 60, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(0xFF000000)
    with painting(image) as painter:
        draw(painter, shapes)
        assert painter.worldTransform().isIdentity()
    assert image.pixelColor(17, 30).name() != "#000000"  # the mark at its boxes
    assert image.pixelColor(75, 25).name() == "#0000ff"
    assert "could not be painted" in caplog.text


def test_a_painter_is_closed_whatever_happens() -> None:
    image = QImage(8, 8, QImage.Format.Format_ARGB32_Premultiplied)
    with pytest.raises(KeyboardInterrupt), painting(image):
        raise KeyboardInterrupt
    assert not image.paintingActive()


def test_a_kind_that_cannot_draw_a_state_is_marked() -> None:
    def fails(_: object) -> None:
        raise ZeroDivisionError

    label = sample_widget(KINDS["label"], KINDS["label"].test_sample)
    bound = bind(sample_project(label, replace(label, id="other")))
    one = bound.widgets[label.id]
    broken = replace(one, kind=replace(one.kind, shapes=fails))
    tracks = Tracks(bound, Trace.make("t", [0.0], {"words": Column.of(["a"])}))
    group = widget_shapes(broken, tracks.state(one, 0), 0.0, bound)
    width, height = label.place.size
    assert bounds(group.shapes) == (0, 0, width, height)
