"""Glyphs that one start has drawn are the next one's."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

from avrin.app.painting import glyph_cache, lettering
from avrin.app.painting.lettering import draw_texts
from avrin.app.painting.offscreen import painting
from avrin.kinds.shapes import TextRun
from window_fixtures import qapp  # noqa: F401

RUNS = [
    TextRun(20.3, 40.6, "HULL 74", 18.0, "#eef6f3"),
    TextRun(20.3, 70.2, "breath", 25.5, "#fdf1cf", edge="#10222b", edge_width=1.5),
]


@pytest.fixture
def anew(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Nothing is kept yet, and what is drawn is forgotten by `_forget`."""
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path))
    monkeypatch.setattr(glyph_cache, "_drawn", itertools.count())
    _forget()
    yield
    _forget()


def _forget() -> None:
    """As a process that ends and one that begins."""
    glyph_cache._glyphs().write()
    glyph_cache._glyphs.cache_clear()
    lettering._manner.cache_clear()
    lettering._line.cache_clear()


def _drawn() -> QImage:
    image = QImage(200, 100, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    with painting(image) as painter:
        draw_texts(painter, RUNS)
    return image


@pytest.mark.usefixtures("anew")
def test_what_is_kept_looks_as_what_is_drawn(monkeypatch: pytest.MonkeyPatch) -> None:
    first = _drawn()
    _forget()
    monkeypatch.setattr(lettering._Manner, "_draw", lambda *_: pytest.fail("it was kept"))
    assert _drawn() == first


@pytest.mark.usefixtures("anew")
def test_another_colour_edge_or_size_is_another_glyph() -> None:
    _drawn()
    _forget()
    for run in (
        TextRun(20.3, 40.6, "HULL", 18.0, "#eef6f4"), TextRun(20.3, 40.6, "HULL", 18.1, "#eef6f3"),
        TextRun(20.3, 70.2, "breath", 25.5, "#fdf1cf", edge="#10222b", edge_width=1.6),
    ):  # fmt: skip
        shown, known = QImage(200, 100, QImage.Format.Format_RGB32), QImage(200, 100, QImage.Format.Format_RGB32)
        for image in (shown, known):
            image.fill(Qt.GlobalColor.black)
            with painting(image) as painter:
                draw_texts(painter, [run])
            glyph_cache._glyphs()._values.clear()
            lettering._manner.cache_clear()
            lettering._line.cache_clear()
        assert shown == known, "with what is kept and without"


@pytest.mark.usefixtures("anew")
def test_only_the_first_ones_of_a_session_are_kept(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(glyph_cache, "_drawn", iter(range(glyph_cache.MAX_GLYPHS - 3, 10_000)))
    _drawn()
    assert len(glyph_cache._glyphs()._values) == 3


@pytest.mark.usefixtures("anew")
def test_a_kept_glyph_that_is_no_picture_is_drawn() -> None:
    first = _drawn()
    store = glyph_cache._glyphs()
    for name in list(store._values):
        store.put(name, glyph_cache._Drawn(0, 0, 5, 5, b"short"))
    _forget()
    assert _drawn() == first
