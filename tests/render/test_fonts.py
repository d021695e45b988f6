"""Fonts: shaping, widths of many texts, fonts from files and from the system, and what happens without a font."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.bundled_fonts import packed_font
from avrin.kinds.shapes import Font
from avrin.render.fonts import FIGURES, MONO, SANS, SANS_BOLD, TextMeasure, face, shape, typeface
from avrin.render.installed import families, installed

FONTS = (SANS, SANS_BOLD, MONO)
running = st.text(sorted(FIGURES), min_size=1, max_size=12)


@given(running, st.sampled_from(FONTS))
def test_running_numbers_are_shaped_as_the_library_shapes_them(text: str, font: Font) -> None:
    assert face(font).shaped(text) == face(font)._shape(text)


@given(st.lists(st.text(st.characters(min_codepoint=32, max_codepoint=126), max_size=20), max_size=8))
def test_widths_of_many_texts_are_nearly_those_of_shaping_each(texts: list[str]) -> None:
    """Letters that join in threes are the only ones that may differ, by less than one letter."""
    exact = [face(SANS).shaped(text)[1] for text in texts]
    assert np.allclose(face(SANS).widths(texts), exact, atol=0.5 * face(SANS).units)


def test_widths_of_running_numbers_and_words_are_exact() -> None:
    texts = ["", "0", "Depth 12.4 m", "Tide 3:41", "AVATAR Wave", "Zähler 7", "λόγος", "12,480"]
    assert face(SANS).widths(texts).tolist() == [face(SANS).shaped(text)[1] for text in texts]


@pytest.fixture
def project(tmp_path: Path) -> Path:
    (tmp_path / "fonts").mkdir()
    (tmp_path / "fonts" / "narrow.ttf").write_bytes(packed_font(MONO.file))
    (tmp_path / "fonts" / "broken.ttf").write_bytes(b"not a font at all" * 40)
    return tmp_path


def test_a_font_file_of_the_project_is_drawn(project: Path) -> None:
    found = typeface("fonts/narrow.ttf", project, bold=False, even=True)
    assert found is not None
    assert shape("hull", 20, found) == shape("hull", 20, MONO)


@pytest.mark.parametrize("name", ["fonts/none.ttf", "fonts/broken.ttf", "../outside.ttf", "No Such Family"])
def test_a_font_that_is_not_there_is_none(project: Path, name: str) -> None:
    assert typeface(name, project, bold=False, even=True) is None


def test_figures_are_even_or_the_fonts_own(project: Path) -> None:
    """The same for the font that comes along: its figures are of different widths unless asked to be even."""
    even, own = (typeface("", project, bold=False, even=even) for even in (True, False))
    assert even == SANS
    assert own is not None
    assert len({shape(figure, 20, SANS).width for figure in "0123456789"}) == 1
    assert len({shape(figure, 20, own).width for figure in "0123456789"}) > 1
    assert TextMeasure(own, own).width("11", 20) < TextMeasure().width("11", 20)


def test_installed_families_are_found_by_name_and_weight() -> None:
    names = families()
    if not names:
        pytest.skip("no fonts are installed here")
    plain = installed(names[0], bold=False)
    assert plain is not None
    assert Path(plain.file).is_file()
    assert installed(names[0].upper(), bold=False) == plain
    assert installed("No Such Family", bold=True) is None
