"""Cells found in sheets that were drawn here: with gaps, without, of one row or many, clear or on a ground."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from avrin.render.cells import Cells, cells_in, ink_of, usual_characters


def sheet(columns: int, rows: int, cell: tuple[int, int], glyph: tuple[int, int], filled: int | None = None) -> Any:
    """Glyphs as solid boxes in the middle of their cells; the last cells may be clear."""
    ink = np.zeros((rows * cell[1], columns * cell[0]), bool)
    left, top = (cell[0] - glyph[0]) // 2, (cell[1] - glyph[1]) // 2
    for number in range(columns * rows if filled is None else filled):
        row, column = divmod(number, columns)
        x, y = column * cell[0] + left, row * cell[1] + top
        ink[y : y + glyph[1], x : x + glyph[0]] = True
    return ink


@given(st.integers(1, 16), st.integers(1, 8), st.integers(6, 24), st.integers(6, 24), st.integers(1, 3), st.data())
def test_an_even_grid_of_glyphs_is_found(
    columns: int, rows: int, wide: int, high: int, gap: int, data: st.DataObject
) -> None:
    if columns * rows < 2:
        return
    filled = data.draw(st.integers(columns * (rows - 1) + 1, columns * rows)) if rows > 1 else columns
    found = cells_in(sheet(columns, rows, (wide, high), (wide - gap, high - gap), filled))
    assert found == Cells((wide, high), columns, rows, filled)


def test_what_has_no_gaps_or_no_ink_has_no_cells() -> None:
    assert cells_in(np.ones((16, 160), bool)) is None
    assert cells_in(np.zeros((16, 160), bool)) is None


def test_narrow_glyphs_among_wide_ones_do_not_make_the_grid_finer() -> None:
    ink = sheet(4, 1, (12, 12), (10, 10))
    ink[:, 12:24] = False
    ink[1:11, 17:19] = True  # a 1 among other digits
    assert cells_in(ink) == Cells((12, 12), 4, 1, 4)


@pytest.mark.parametrize(
    ("mode", "ground", "mark"),
    [("RGBA", (0, 0, 0, 0), (255, 255, 255, 255)), ("RGB", (20, 20, 30), (240, 230, 200)), ("L", 0, 255)],
)
def test_ink_is_what_is_not_clear_or_differs_from_the_ground(tmp_path: Path, mode: str, ground: Any, mark: Any) -> None:
    image = Image.new(mode, (6, 2), ground)
    image.putpixel((4, 1), mark)
    image.save(tmp_path / "sheet.png")
    ink = ink_of(str(tmp_path / "sheet.png"))
    assert ink is not None
    assert np.argwhere(ink).tolist() == [[1, 4]]


def test_what_is_no_picture_has_no_ink(tmp_path: Path) -> None:
    (tmp_path / "sheet.png").write_bytes(b"no picture")
    (tmp_path / "sheet.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"/>')
    for name in ("sheet.png", "sheet.svg", "gone.png"):
        assert ink_of(str(tmp_path / name)) is None


def test_sheets_of_usual_sizes_are_guessed() -> None:
    told = {n: usual_characters(Cells((8, 8), n, 1, n)) for n in (3, 10, 11, 12, 26, 36)}
    assert told == {
        3: "012", 10: "0123456789", 11: "0123456789:", 12: "0123456789:.", 26: "ABCDEFGHIJKLMNOPQRSTUVWXYZ",
        36: "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789",
    }  # fmt: skip
    whole = usual_characters(Cells((8, 8), 16, 6, 94))
    assert (whole[:3], len(whole)) == (' !"', 95)
