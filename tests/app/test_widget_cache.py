"""Widgets kept as pictures: the same pixels, no more than is there, and only of what never changes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtGui import QImage, QPainter

from avrin.app.painting import widget_cache as layers_module
from avrin.app.painting.paint import draw_shapes
from avrin.app.painting.widget_cache import KEPT_FROM, Layers
from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.render.scene import Placed
from avrin.render.stage import Stage
from avrin.storage.files import load
from avrin.trace.store import open_trace
from window_fixtures import qapp  # noqa: F401

SIZE = (960, 540)


@pytest.fixture(scope="module")
def tracks(demo: Path) -> Tracks:
    project, _ = load(demo)
    trace = open_trace(demo.parent / "traces/leaky-dive.csv", project.all_variables())
    return Tracks(bind(project, events=trace.event_kinds, folder=demo.parent), trace)


def painted(placed: list[Placed], cached: Layers | None, scale: float = 0.5) -> np.ndarray:
    image = QImage(*SIZE, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(0xFF14_2027)
    painter = QPainter(image)
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    painter.translate(3, 2)
    painter.scale(scale, scale)
    if cached is not None:
        cached.draw(painter, placed, placed)
    else:
        draw_shapes(painter, [item.group for item in placed])
    painter.end()
    return np.array(image.constBits(), np.uint8).reshape(SIZE[1], SIZE[0], 4)


def difference(first: np.ndarray, other: np.ndarray) -> int:
    return int(np.abs(first.astype(int) - other.astype(int)).max())


@pytest.mark.usefixtures("qapp")
def test_playing_looks_the_same_with_and_without_them(tracks: Tracks) -> None:
    stage, cached = Stage(), Layers()
    screen = tracks.bound.project.screens[0]
    start = tracks.trace.frame_at(118)
    for frame in [*range(start, start + 24, 2), tracks.trace.frame_at(152), *[start] * 5]:
        stage.show(tracks, frame, screen)
        assert (
            difference(painted(stage.placed, cached), painted(stage.placed, None)) <= 2
        )  # of 255: rounding of what is drawn above
    assert (
        difference(painted(stage.placed, cached, 0.4), painted(stage.placed, None, 0.4)) <= 2
    )  # another size: drawn again


@pytest.mark.usefixtures("qapp")
def test_only_what_was_painted_alike_is_kept_and_what_went_is_forgotten(
    tracks: Tracks, monkeypatch: pytest.MonkeyPatch
) -> None:
    drawn: list[int] = []
    whole = draw_shapes

    def counting(painter: QPainter, shapes: tuple[object, ...]) -> None:
        drawn.append(len(shapes))
        whole(painter, shapes)  # type: ignore[arg-type]

    monkeypatch.setattr(layers_module, "draw_shapes", counting)
    stage, cached = Stage(), Layers()
    screen = tracks.bound.project.screens[0]
    stage.show(tracks, 600, screen)
    counts = []
    for _ in range(KEPT_FROM + 3):
        drawn.clear()
        painted(stage.placed, cached)
        counts.append(len(drawn))
    there = len(stage.placed)
    assert counts == [there] * (KEPT_FROM + 1) + [0, 0]  # drawn, then drawn once into pictures, then copied
    monkeypatch.setattr(layers_module, "SPARE", 0)
    for frame in range(600, 1200, 5):
        stage.show(tracks, frame, screen)
        painted(stage.placed, cached)
        assert len(cached._seen) <= 3 * len(stage.placed)


@pytest.mark.usefixtures("qapp")
def test_what_is_too_large_is_drawn_as_it_is(tracks: Tracks, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(layers_module, "LARGEST", 100)
    stage, cached = Stage(), Layers()
    stage.show(tracks, 600, tracks.bound.project.screens[0])
    for _ in range(KEPT_FROM + 3):
        assert difference(painted(stage.placed, cached), painted(stage.placed, None)) == 0
    assert all(seen.picture is None for seen in cached._seen.values())
